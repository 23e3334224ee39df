import { success } from "@/core/outcome";
import { elementsModel } from "@/models/elements";
import { fromDatabase, requestedStudy } from "@/server/pages";
import { compareInStudy } from "@/server/study/compare";
import { Elements } from "@/views/elements/Elements";
import { readAddress, type ViewPage } from "../../address";

export default async function Page({ params, searchParams }: ViewPage) {
  const found = await requestedStudy((await params).studyId);
  if (!found.ok) return null;
  const { version, selection } = await readAddress(searchParams);
  const compared = await fromDatabase(async (db) =>
    success(await compareInStudy(db, found.value, version, selection)),
  );
  const comparison = compared.ok ? compared.value : null;
  return (
    <Elements
      model={comparison && elementsModel(comparison.reference, comparison.measured, comparison.compared)}
    />
  );
}

import { database } from "@/server/database";
import { compareInStudy } from "@/server/comparing";
import { Elements } from "@/views/elements/Elements";
import { elementsModel } from "@/views/elements/model";
import { readAddress, type ViewPage } from "../../address";
import { cachedStudy } from "../cachedStudy";

export default async function ElementsPage({ params, searchParams }: ViewPage) {
  const read = await cachedStudy((await params).studyId);
  if (!read) return null;
  const { version, selection } = await readAddress(searchParams);
  const comparison = await compareInStudy(await database(), read, version, selection);
  return (
    <Elements
      model={comparison && elementsModel(comparison.reference, comparison.measured, comparison.compared)}
    />
  );
}

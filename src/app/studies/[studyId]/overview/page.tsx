import { success } from "@/core/outcome";
import { overviewModel, referenceNumbers, keyOf } from "@/models/overview";
import { fromDatabase, requestedStudy } from "@/server/pages";
import { compareInStudy } from "@/server/study/compare";
import { Overview } from "@/views/overview/Overview";
import { readAddress, type ViewPage } from "../../address";

export default async function Page({ params, searchParams }: ViewPage) {
  const found = await requestedStudy((await params).studyId);
  if (!found.ok) return null;
  const { version, selection } = await readAddress(searchParams);
  const results = found.value;
  const compared = await fromDatabase(async (db) =>
    success(await compareInStudy(db, results, version, selection)),
  );
  const comparison = compared.ok ? compared.value : null;
  const model =
    comparison &&
    overviewModel(comparison.reference, comparison.measured, comparison.compared, {
      nothingRecreated: comparison.nothingRecreated,
      outdated: comparison.outdated,
      keys: {
        reference: keyOf(results, results.study.reference),
        version: keyOf(results, comparison.version),
      },
    });
  return <Overview model={model} referenceNumbers={referenceNumbers(results)} />;
}

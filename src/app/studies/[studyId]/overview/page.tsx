import { overviewModel, referenceNumbers, keyOf } from "@/models/overview";
import { Overview } from "@/views/overview/Overview";
import type { ViewPage } from "../../address";
import { comparedAs } from "../../compared";

export default async function Page(page: ViewPage) {
  const asked = await comparedAs(page);
  if (!asked) return null;
  const { results, comparison } = asked;
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

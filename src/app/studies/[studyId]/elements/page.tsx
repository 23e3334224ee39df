import { heardInReference } from "@/core/study";
import { elementsModel } from "@/models/elements";
import { Elements } from "@/views/elements/Elements";
import type { ViewPage } from "../../address";
import { comparedAs } from "../../compared";

export default async function Page(page: ViewPage) {
  const asked = await comparedAs(page);
  if (!asked) return null;
  const { results, comparison, selection } = asked;
  return (
    <Elements
      model={comparison && elementsModel(results, comparison.version, comparison.compared, selection.bars)}
      heard={heardInReference(results)}
    />
  );
}

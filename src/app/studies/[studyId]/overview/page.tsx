import { referenceNumbers } from "@/models/overview";
import { reportedIn } from "@/models/report";
import { Overview } from "@/views/overview/Overview";
import type { ViewPage } from "../../address";
import { comparedAs } from "../../compared";

export default async function Page(page: ViewPage) {
  const asked = await comparedAs(page);
  if (!asked) return null;
  const { results, comparison } = asked;
  return (
    <Overview
      model={comparison && reportedIn(results, comparison).overview}
      referenceNumbers={referenceNumbers(results)}
    />
  );
}

import { reportedIn, reportOf } from "@/models/report";
import { ReportView } from "@/views/report/ReportView";
import type { ViewPage } from "../../address";
import { comparedAs } from "../../compared";

export default async function Page(page: ViewPage) {
  const asked = await comparedAs(page);
  if (!asked) return null;
  const { results, comparison, selection } = asked;
  return (
    <ReportView
      report={reportOf(results, comparison && reportedIn(results, comparison, selection.bars))}
      lifted={[...results.lifted]}
    />
  );
}

import { stereoModel } from "@/models/stereo";
import { StereoView } from "@/views/stereo/StereoView";
import type { ViewPage } from "../../address";
import { comparedAs } from "../../compared";

export default async function Page(page: ViewPage) {
  const asked = await comparedAs(page);
  if (!asked) return null;
  const { results, comparison } = asked;
  return <StereoView model={comparison && stereoModel(results, comparison)} />;
}

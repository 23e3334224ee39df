import { stereoAspects, stereoModel } from "@/models/stereo";
import { StereoView } from "@/views/stereo/StereoView";
import type { ViewPage } from "../../address";
import { comparedIn } from "../../compared";

export default async function Page(page: ViewPage) {
  const asked = await comparedIn(page, stereoAspects);
  if (!asked) return null;
  const { results, comparison } = asked;
  return <StereoView model={comparison && stereoModel(results, comparison)} />;
}

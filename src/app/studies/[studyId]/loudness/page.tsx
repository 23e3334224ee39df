import { loudnessAspects, loudnessModel } from "@/models/loudness";
import { LoudnessView } from "@/views/loudness/LoudnessView";
import type { ViewPage } from "../../address";
import { comparedIn } from "../../compared";

export default async function Page(page: ViewPage) {
  const asked = await comparedIn(page, loudnessAspects);
  if (!asked) return null;
  const { results, comparison } = asked;
  return <LoudnessView model={comparison && loudnessModel(results, comparison)} />;
}

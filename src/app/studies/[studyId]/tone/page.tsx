import { toneAspects, toneModel } from "@/models/tone";
import { ToneView } from "@/views/tone/ToneView";
import type { ViewPage } from "../../address";
import { comparedIn } from "../../compared";

export default async function Page(page: ViewPage) {
  const asked = await comparedIn(page, toneAspects);
  if (!asked) return null;
  const { results, comparison } = asked;
  return <ToneView model={comparison && toneModel(results, comparison)} />;
}

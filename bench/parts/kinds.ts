/** Whether drums of one sample are told as one, and drums of several apart. */
import { drumsModel } from "@/core/drums/drumsModel";
import { loadFft } from "@/core/dsp/fft";
import { kindCounts, kindPieces, partNames, pureShare } from "../kindPieces";
import { table } from "../tables";
import type { PartOptions, Sections } from "./part";

export async function kindSections({ oneIn }: PartOptions): Promise<Sections> {
  await loadFft();
  const pieces = await kindPieces("measure", oneIn);
  return {
    "Drums of one voice": `Pieces by others of the measuring half with at least 16 strokes of a part: those whose strokes are nearly all of one sample, and how many of them are told as one drum; those of several samples, how many are told apart, and then the share of strokes whose drum is mostly of their sample. Samples and drums with fewer than 8 strokes or a tenth are not counted. Two that are told apart wrongly are worse than one too few, and the model is set accordingly; some pairs differ in nothing but their number.

${table(
  ["part", "of one sample", "told as one", "of several", "told apart", "with their own"],
  partNames.map((part) => {
    const { one, several } = kindCounts(part, drumsModel[part], pieces);
    return [
      part === "kick" ? "kick" : "snare and clap",
      String(one.all),
      String(one.right),
      String(several.all),
      String(several.right),
      pureShare(several),
    ];
  }),
)}
`,
  };
}

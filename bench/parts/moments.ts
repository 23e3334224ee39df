/** How well moments are found in songs that have them written in. */
import { measureMoments, momentRows } from "../moments";
import { table } from "../tables";
import type { PartOptions, Sections } from "./part";

export async function momentSections({ styles, seeds }: PartOptions): Promise<Sections> {
  const momentSeeds = seeds.slice(0, 3);
  const moments = await measureMoments([...styles], momentSeeds);
  const momentTable = table(["moment", "written", "found", "right", "F"], momentRows(moments));
  return {
    Moments: `${momentSeeds.length} songs of each style with moments written into them, those of the style itself included. Right: of the same kind, and within a bar where it begins, or where it ends for what rises or opens. Target F at least 0.7. The rules were set on seeds 1, 2 and 101.

${momentTable}`,
  };
}

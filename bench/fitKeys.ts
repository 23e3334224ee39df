/** Fits the choice of the key on development songs, whole and in part: `npm run fit:keys`. */
import { parseArgs } from "node:util";
import { meanChroma } from "@/core/harmony/beatChroma";
import { allKeys } from "@/core/harmony/keys";
import { readNote } from "@/core/harmony/notes";
import { keyFeatures } from "@/core/harmony/keyChoice";
import { heardHarmony } from "@/core/harmony/estimateHarmony";
import { gridOf } from "@/core/grid/correction";
import { heardSongs } from "./heard";
import { fitAndWrite, printHeldOut, type Example, type Fitting } from "./logistic";

const { values } = parseArgs({ options: { seeds: { type: "string", default: "6" } } });
const seeds = Array.from({ length: Number(values.seeds) }, (_, i) => i + 1);

const examples: Example[] = [];
for await (const { song, analysis, curves } of heardSongs(seeds)) {
  const grid = gridOf(analysis.grid, analysis.durationSeconds);
  const heard = heardHarmony(curves.pitches, grid, analysis.durationSeconds);
  const tonic = readNote(song.truth.key.tonic);
  const right = allKeys.findIndex((key) => key.tonic === tonic && key.mode === song.truth.key.mode);
  const { count } = heard.chroma;
  for (const [from, to] of [
    [0, count],
    [Math.floor(count / 3), Math.floor((2 * count) / 3)],
  ] as const) {
    examples.push({
      source: song.style,
      group: song.name,
      name: song.name,
      candidates: keyFeatures(meanChroma(heard.chroma, from, to), heard.chords, from, to),
      right,
    });
  }
}
const fitting: Fitting = {
  examples,
  name: "keyModel",
  file: "src/core/harmony/keyModel.ts",
  command: "fit:keys",
  about: "`keyFeatures`",
  penalty: 0.01,
};
await fitAndWrite(fitting);
printHeldOut(fitting);

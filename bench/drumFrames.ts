/**
 * Writes what the drum model is fitted on to `.cache/drum-frames`: the bands of each clip and its
 * hits. `npx tsx bench/drumFrames.ts --from 201 --to 210`; several can run side by side.
 */
import { existsSync } from "node:fs";
import { mkdir, writeFile } from "node:fs/promises";
import path from "node:path";
import { parseArgs } from "node:util";
import { drumBandGatherer } from "@/core/drums/bands";
import { loadFft } from "@/core/dsp/fft";
import { onsetStrength } from "@/core/grid/onset";
import { renderRate } from "@/demo/render";
import { styles } from "@/demo/songs/styles";
import { drumClips, voiceNumber } from "./drumClips";

const { values } = parseArgs({ options: { from: { type: "string" }, to: { type: "string" } } });
const folder = path.join(process.cwd(), ".cache", "drum-frames");

await loadFft();
await mkdir(folder, { recursive: true });
for (let seed = Number(values.from); seed <= Number(values.to); seed++) {
  for (const style of styles) {
    const file = path.join(folder, `${style.replaceAll(" ", "-")}-${seed}`);
    if (existsSync(`${file}-1.json`)) continue;
    const clips = await drumClips(style, seed);
    for (const [i, { channels, hits }] of clips.entries()) {
      const gatherer = drumBandGatherer(channels[0].length, renderRate);
      onsetStrength(channels, renderRate, undefined, gatherer.add);
      await writeFile(`${file}-${i}.bin`, new Uint8Array(gatherer.finish().levels.buffer));
      await writeFile(
        `${file}-${i}.json`,
        JSON.stringify(hits.map(({ time, voice, velocity }) => [time, voiceNumber(voice), velocity])),
      );
    }
  }
}

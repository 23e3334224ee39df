/**
 * Writes what the drum model is fitted on to `.cache/drum-frames`: the bands of each take, as they are
 * and whitened, and what is struck in it. `npx tsx bench/drumFrames.ts --source midi --half fit --share 0/2`; several can run
 * side by side. Sources: own, midi, tracker.
 */
import { existsSync } from "node:fs";
import { mkdir, writeFile } from "node:fs/promises";
import path from "node:path";
import { drumBandGatherer } from "@/core/drums/bands";
import { whitened } from "@/core/drums/whitening";
import { loadFft } from "@/core/dsp/fft";
import { onsetStrength } from "@/core/grid/onset";
import { renderRate } from "@/demo/render";
import { frameOptions } from "./makeFrames";
import { voiceNumber } from "./drumClips";
import { takes } from "./material/takes";

const { source, half, place, of, folder } = frameOptions<"midi" | "tracker" | "own">("drum-frames");

await loadFft();
await mkdir(folder, { recursive: true });
for await (const take of takes(source, half, { place, of })) {
  const file = path.join(folder, take.name.replace(/[^\w.-]+/g, "_"));
  if (existsSync(`${file}.json`)) continue;
  const gatherer = drumBandGatherer(take.track[0].length, renderRate);
  onsetStrength(take.track, renderRate, undefined, gatherer.add);
  const bands = gatherer.finish();
  await writeFile(`${file}.bin`, new Uint8Array(bands.levels.buffer));
  await writeFile(`${file}.white`, new Uint8Array(whitened(bands).levels.buffer));
  await writeFile(
    `${file}.json`,
    JSON.stringify({
      strokes: take.strokes.map(({ time, voice, velocity }) => [time, voiceNumber(voice), velocity]),
      unsure: take.unsure.map(({ time, voice }) => [time, voiceNumber(voice)]),
      known: take.known.map(voiceNumber),
      mergesClaps: take.mergesClaps,
    }),
  );
}

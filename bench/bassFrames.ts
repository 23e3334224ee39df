/**
 * Writes what the bass network is fitted on to `.cache/bass-frames`: the low end of each take as the program
 * hears it, and the notes in it. `npx tsx bench/bassFrames.ts --source midi --half fit --share 0/2`; several
 * can run side by side. Sources: own, midi, slid, empty.
 */
import { existsSync } from "node:fs";
import { mkdir, writeFile } from "node:fs/promises";
import path from "node:path";
import { analyse } from "@/core/analysis/analyse";
import { countedDrums } from "@/core/drums";
import { drumBandGatherer } from "@/core/drums/bands";
import { drumActivations, strokeCurves } from "@/core/drums/network";
import { gridOf } from "@/core/grid/correction";
import { onsetStrength } from "@/core/grid/onset";
import { bassSpectra } from "@/core/lowEnd/bassSpectra";
import { kickAndRest } from "@/core/lowEnd/estimateLowEnd";
import { renderRate } from "@/demo/render";
import { frameOptions } from "./makeFrames";
import { bassSources, bassTakes } from "./material/bassTakes";

const { source, half, place, of, folder } = frameOptions<(typeof bassSources)[number]>("bass-frames");
await mkdir(folder, { recursive: true });

let count = -1;
for await (const make of bassTakes(source, half)) {
  if (++count % of !== place) continue;
  const file = path.join(folder, String(count).padStart(4, "0"));
  if (existsSync(`${file}.json`)) continue;
  const take = await make();
  if (!take) continue;
  const { track } = take;
  const { analysis } = await analyse({
    sampleRate: renderRate,
    channels: [...track],
    layout: ["left", "right"],
  });
  const grid = gridOf(analysis.grid, analysis.durationSeconds);
  const kicks = countedDrums(analysis.drums, {}, grid).hits.flatMap(({ voice, time }) =>
    voice === "kick" ? time : [],
  );
  const { rest } = kickAndRest(track, renderRate, analysis.drums.bassNotes, kicks);
  const gatherer = drumBandGatherer(track[0].length, renderRate);
  onsetStrength(track, renderRate, undefined, gatherer.add);
  const bands = gatherer.finish();
  const rows = bassSpectra(
    rest.full,
    rest.fullRate,
    strokeCurves(drumActivations(bands)),
    bands.framesPerSecond,
  );
  await writeFile(`${file}.bin`, new Uint8Array(rows.buffer));
  await writeFile(
    `${file}.json`,
    JSON.stringify({
      name: take.name,
      notes: take.notes.map(({ time, end, pitch }) => [time, end, pitch]),
      slides: (take.slides ?? []).map(({ from, to, by }) => [from, to, by]),
    }),
  );
  console.log(`${count} ${take.name}: ${take.notes.length} notes`);
}

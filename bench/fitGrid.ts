/**
 * Fits the two models of the grid, on own songs and on the fitting halves of pieces by others: which
 * multiple of the beat is counted, and where bars begin. `npm run fit:grid -- --seeds 8`; pieces are
 * described by as many processes as there are cores. Run it after the drum model was fitted.
 */
import { spawn } from "node:child_process";
import { mkdir, readFile, writeFile } from "node:fs/promises";
import { cpus } from "node:os";
import path from "node:path";
import { parseArgs } from "node:util";
import { loadFft } from "@/core/dsp/fft";
import { barReadings, shifted } from "@/core/grid/bars";
import { trackBeats } from "@/core/grid/beats";
import { tempoCandidates } from "@/core/grid/tempo";
import { gridInputs, gridPieces, type GridInputs, type GridPiece } from "./gridInputs";
import { fitAndWrite, printHeldOut, type Example, type Fitting } from "./logistic";
import { eventF } from "./metrics";

interface Described {
  tempo: Example | null;
  bars: Example[];
}

async function describe(piece: GridPiece): Promise<Described> {
  const { truth, name } = piece;
  const inputs = await gridInputs(piece);
  const { onsets, strokes } = inputs;
  const candidates = tempoCandidates(onsets, strokes);
  const right = candidates.findIndex((c) => Math.abs(c.bpm / truth.bpm - 1) < 0.04);
  if (right < 0) {
    console.log(`no tempo candidate: ${name}`);
    return { tempo: null, bars: [] };
  }
  const { source, group } = piece;
  const tempo = { source, group, name, candidates: candidates.map((c) => c.features), right };
  const bpm = candidates[right]!.bpm;
  const whole = describeBars(piece, inputs, bpm, 0);
  // A loop of eight bars is read too, as people render them: cut where a bar begins.
  const { downbeats } = truth;
  const first = 4 * (1 + (name.length % 2));
  const [from, to] = [downbeats[first], downbeats[first + 8]];
  const loop =
    source === "own" && from !== undefined && to !== undefined
      ? describeBars(piece, partOf(inputs, from, to), bpm, from)
      : null;
  if (!whole) console.log(`no bar reading: ${name}`);
  return { tempo, bars: [whole, loop].filter((example) => example !== null) };
}

/** A part of a track, as if it were a file of its own. */
function partOf({ onsets, strokes }: GridInputs, from: number, to: number): GridInputs {
  const { framesPerSecond, ranges, change, sound } = onsets;
  const first = Math.round(from * framesPerSecond);
  const last = Math.round(to * framesPerSecond);
  return {
    onsets: {
      framesPerSecond,
      ranges: ranges.map((range) => range.slice(first, last)),
      change: change.slice(first, last),
      sound: {
        bandCount: sound.bandCount,
        magnitudes: sound.magnitudes.slice(first * sound.bandCount, last * sound.bandCount),
      },
    },
    strokes: strokes.map((curve) => curve.slice(first, last)),
    firstSound: 0,
    length: to - from,
  };
}

/** The readings of a path with the one whose downbeats are the truth's; null where none is. */
function describeBars(
  { source, group, name, truth }: GridPiece,
  { onsets, strokes, firstSound, length }: GridInputs,
  bpm: number,
  begin: number,
): Example | null {
  const { beats } = trackBeats(onsets, bpm, firstSound, length);
  const readings = barReadings(onsets, strokes, beats, firstSound);
  const inside = (times: readonly number[]) =>
    times.map((time) => time - begin).filter((time) => time >= -0.05 && time < length - 0.1);
  const scores = readings.map(({ beatsPerBar, shift, firstDownbeat }) =>
    eventF(
      inside(truth.downbeats),
      shifted(beats, shift).filter((_, i) => i % beatsPerBar === firstDownbeat),
      0.07,
      -1,
    ),
  );
  const best = scores.indexOf(Math.max(...scores));
  return readings.length === 0 || scores[best]! < 0.8
    ? null
    : { source, group, name, candidates: readings.map((r) => r.features), right: best };
}

const { values } = parseArgs({
  options: {
    seeds: { type: "string", default: "8" },
    part: { type: "string" },
    /** Takes the songs as they were described last. */
    again: { type: "boolean", default: false },
    /** One of the models alone: tempoModel or barModel. */
    only: { type: "string" },
  },
});
const seeds = Array.from({ length: Number(values.seeds) }, (_, i) => i + 1);
const folder = path.join(process.cwd(), ".cache", "fit");
const parts = cpus().length;
const fileOf = (part: number) => path.join(folder, `part-${part}.json`);

if (values.part !== undefined) {
  const part = Number(values.part);
  await loadFft();
  const described: Described[] = [];
  const pieces = await gridPieces("fit", seeds);
  for (const piece of pieces.filter((_, i) => i % parts === part)) described.push(await describe(piece));
  await writeFile(fileOf(part), JSON.stringify(described));
} else {
  await mkdir(folder, { recursive: true });
  const describing = values.again ? [] : Array.from({ length: parts }, (_, part) => part);
  await Promise.all(
    describing.map(
      (part) =>
        new Promise<void>((resolve, reject) => {
          const own = ["tsx", "bench/fitGrid.ts", "--seeds", values.seeds, "--part", String(part)];
          spawn("npx", own, { stdio: "inherit" }).on("exit", (code) =>
            code === 0 ? resolve() : reject(new Error(`part ${part} ended with ${code}`)),
          );
        }),
    ),
  );
  const described: Described[] = [];
  for (let part = 0; part < parts; part++) {
    described.push(...(JSON.parse(await readFile(fileOf(part), "utf8")) as Described[]));
  }
  const all = (of: keyof Described): Example[] => described.flatMap((d) => d[of] ?? []);
  const command = "fit:grid";
  const fittings: Fitting[] = [
    {
      examples: all("tempo"),
      name: "tempoModel",
      file: "src/core/grid/tempoModel.ts",
      command,
      about: "`tempoCandidates`",
      penalty: 0.03,
      evenly: true,
    },
    {
      examples: all("bars"),
      name: "barModel",
      file: "src/core/grid/barModel.ts",
      command,
      about: "`barReadings`",
      penalty: 0.1,
      evenly: true,
    },
  ];
  for (const fitting of fittings) {
    if (values.only !== undefined && values.only !== fitting.name) continue;
    printHeldOut(fitting);
    await fitAndWrite(fitting);
  }
}

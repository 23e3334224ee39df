/**
 * Fits the two models of the grid: which multiple of the beat is counted, and where bars begin.
 * `npm run fit:grid -- --seeds 20`; songs are described by as many processes as there are cores.
 */
import { spawn } from "node:child_process";
import { mkdir, readFile, writeFile } from "node:fs/promises";
import { cpus } from "node:os";
import path from "node:path";
import { parseArgs } from "node:util";
import { firstSoundOf } from "@/core/audio/silence";
import { foldToStereo } from "@/core/audio/signal";
import { loadFft } from "@/core/dsp/fft";
import { barReadings, shifted } from "@/core/grid/bars";
import { trackBeats } from "@/core/grid/beats";
import { onsetStrength } from "@/core/grid/onset";
import { tempoCandidates } from "@/core/grid/tempo";
import { styles } from "@/demo/songs/styles";
import { decodeFile } from "@/server/decode";
import { fitAndWrite, type Example } from "./logistic";
import { eventF } from "./metrics";
import { developmentSongs, type DevelopmentSong } from "./songs";

interface Described {
  tempo: Example | null;
  bars: Example | null;
}

async function describeSong(song: DevelopmentSong): Promise<Described> {
  const decoded = await decodeFile(song.file);
  if (!decoded.ok) throw new Error(decoded.refusal.sentence);
  const { signal } = decoded.value;
  const stereo = foldToStereo(signal);
  const onsets = onsetStrength(stereo, signal.sampleRate);
  const firstSound = firstSoundOf(stereo, signal.sampleRate) ?? 0;
  const candidates = tempoCandidates(onsets);
  const right = candidates.findIndex((c) => Math.abs(c.bpm / song.truth.tempo.bpm - 1) < 0.04);
  if (right < 0) {
    console.log(`no tempo candidate: ${song.name}`);
    return { tempo: null, bars: null };
  }
  const tempo = { style: song.style, candidates: candidates.map((c) => c.features), right };
  const length = signal.channels[0]!.length / signal.sampleRate;
  const { beats } = trackBeats(onsets, candidates[right]!.bpm, firstSound, length);
  const readings = barReadings(onsets, beats, firstSound);
  // The right reading is the one whose downbeats are the truth's.
  const scores = readings.map(({ beatsPerBar, shift, firstDownbeat }) =>
    eventF(
      song.truth.downbeats,
      shifted(beats, shift).filter((_, i) => i % beatsPerBar === firstDownbeat),
    ),
  );
  const best = scores.indexOf(Math.max(...scores));
  if (readings.length === 0 || scores[best]! < 0.8) {
    console.log(`no bar reading: ${song.name}, best F ${(scores[best] ?? 0).toFixed(2)}`);
    return { tempo, bars: null };
  }
  return {
    tempo,
    bars: { style: song.style, candidates: readings.map((r) => r.features), right: best },
  };
}

const { values } = parseArgs({
  options: {
    seeds: { type: "string", default: "20" },
    part: { type: "string" },
    /** Takes the songs as they were described last. */
    again: { type: "boolean", default: false },
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
  for (const song of await developmentSongs(
    seeds,
    styles.filter((_, i) => i % parts === part),
  )) {
    described.push(await describeSong(song));
  }
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
  const all = (of: keyof Described) => described.flatMap((d) => d[of] ?? []);
  await fitAndWrite(
    all("tempo"),
    "tempoModel",
    "src/core/grid/tempoModel.ts",
    "fit:grid",
    "`tempoCandidates`",
    0.02,
  );
  await fitAndWrite(all("bars"), "barModel", "src/core/grid/barModel.ts", "fit:grid", "`barReadings`", 0.03);
}

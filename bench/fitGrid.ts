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
import { downmix } from "@/core/audio/signal";
import { loadFft } from "@/core/dsp/fft";
import { barReadings, shifted } from "@/core/grid/bars";
import { trackBeats } from "@/core/grid/beats";
import { onsetStrength, type OnsetStrength } from "@/core/grid/onset";
import { tempoCandidates } from "@/core/grid/tempo";
import { styles } from "@/demo/songs/styles";
import { decodeFile } from "@/server/decoding/decode";
import { fitAndWrite, printHeldOut, type Example, type Fitting } from "./logistic";
import { eventF } from "./metrics";
import { developmentSongs, type DevelopmentSong } from "./songs";

interface Described {
  tempo: Example | null;
  bars: Example[];
}

async function describeSong(song: DevelopmentSong): Promise<Described> {
  const decoded = await decodeFile(song.file);
  if (!decoded.ok) throw new Error(decoded.refusal.sentence);
  const { signal } = decoded.value;
  const stereo = downmix(signal);
  const onsets = onsetStrength(stereo, signal.sampleRate);
  const firstSound = firstSoundOf(stereo, signal.sampleRate) ?? 0;
  const candidates = tempoCandidates(onsets);
  const right = candidates.findIndex((c) => Math.abs(c.bpm / song.truth.tempo.bpm - 1) < 0.04);
  if (right < 0) {
    console.log(`no tempo candidate: ${song.name}`);
    return { tempo: null, bars: [] };
  }
  const tempo = { style: song.style, candidates: candidates.map((c) => c.features), right };
  const length = signal.channels[0]!.length / signal.sampleRate;
  const bpm = candidates[right]!.bpm;
  const whole = describeBars(song, onsets, bpm, firstSound, length, 0);
  // A loop of eight bars is read too, as people render them: cut where a bar begins.
  const { downbeats } = song.truth;
  const first = 4 * (1 + (song.name.length % 2));
  const [from, to] = [downbeats[first], downbeats[first + 8]];
  const loop =
    from !== undefined && to !== undefined
      ? describeBars(song, partOf(onsets, from, to), bpm, 0, to - from, from)
      : null;
  if (!whole) console.log(`no bar reading: ${song.name}`);
  return { tempo, bars: [whole, loop].filter((example) => example !== null) };
}

/** The onsets of a part of a track, as if it were a file of its own. */
function partOf(onsets: OnsetStrength, from: number, to: number): OnsetStrength {
  const { framesPerSecond, ranges, change, sound } = onsets;
  const first = Math.round(from * framesPerSecond);
  const last = Math.round(to * framesPerSecond);
  return {
    framesPerSecond,
    ranges: ranges.map((range) => range.slice(first, last)),
    change: change.slice(first, last),
    sound: {
      bandCount: sound.bandCount,
      magnitudes: sound.magnitudes.slice(first * sound.bandCount, last * sound.bandCount),
    },
  };
}

/** The readings of a path with the one whose downbeats are the truth's; null where none is. */
function describeBars(
  { style, truth }: DevelopmentSong,
  onsets: OnsetStrength,
  bpm: number,
  firstSound: number,
  length: number,
  begin: number,
): Example | null {
  const { beats } = trackBeats(onsets, bpm, firstSound, length);
  const readings = barReadings(onsets, beats, firstSound);
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
    : { style, candidates: readings.map((r) => r.features), right: best };
}

const { values } = parseArgs({
  options: {
    seeds: { type: "string", default: "24" },
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
  const all = (of: keyof Described): Example[] => described.flatMap((d) => d[of] ?? []);
  const command = "fit:grid";
  const fittings: Fitting[] = [
    {
      examples: all("tempo"),
      name: "tempoModel",
      file: "src/core/grid/tempoModel.ts",
      command,
      about: "`tempoCandidates`",
      penalty: 0.02,
    },
    {
      examples: all("bars"),
      name: "barModel",
      file: "src/core/grid/barModel.ts",
      command,
      about: "`barReadings`",
      penalty: 0.01,
    },
  ];
  for (const fitting of fittings.reverse()) await fitAndWrite(fitting);
  for (const fitting of fittings) printHeldOut(fitting);
}

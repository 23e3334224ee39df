/**
 * The benchmark: accuracy of the tempo by style and speed by stage, on the development songs.
 * Prints the tables and writes them to docs/benchmarks.md.
 *
 * `npm run bench -- --seeds 3 --only house` for a quick look; only a full run is written.
 */
import { spawnSync } from "node:child_process";
import { existsSync } from "node:fs";
import { mkdir, rm, writeFile } from "node:fs/promises";
import { cpus } from "node:os";
import path from "node:path";
import { parseArgs } from "node:util";
import { analyse } from "@/core/analysis/analyse";
import { analysisVersion, type TrackAnalysis } from "@/core/analysis/result";
import { mainSwing } from "@/core/grid/swing";
import { writeWav } from "@/core/formats/wav";
import { styles } from "@/demo/songs/styles";
import { decodeFile } from "@/server/decode";
import { coverageRows, measureCoverage } from "./coverage";
import { measureDifferences } from "./drumDifferences";
import { drumReport } from "./drumTables";
import { measureDrums, measureDrumStem, type MeasuredDrums } from "./drums";
import { eventF, reliability, tempoAccuracy1, tempoAccuracy2 } from "./metrics";
import { measureMoments, momentRows } from "./moments";
import { measurePlan, tuningStepError, type MeasuredPlan } from "./plans";
import { developmentSongs, type DevelopmentSong } from "./songs";

const { values } = parseArgs({ options: { seeds: { type: "string" }, only: { type: "string" } } });
const seedCount = Number(values.seeds ?? 6);
/** Beyond the seeds that the tempo model is fitted on. */
const firstSeed = 101;
const chosenStyles = values.only ? values.only.split(",") : styles;

interface Measured extends MeasuredPlan {
  tuningStepError: number;
  drums: { mix: MeasuredDrums; stem: MeasuredDrums };
  song: DevelopmentSong;
  bpm: number | null;
  confidence: number;
  accuracy1: boolean;
  accuracy2: boolean;
  bpmError: number | null;
  beatF: number;
  downbeatF: number;
  metreRight: boolean;
  barConfidence: number;
  /** Milliseconds by which the found bar 1 lies off the true one; only where the bars are right. */
  leadInError: number | null;
  /** Points by which the swing is off; null where the song is straight and has nothing to swing. */
  swingError: number | null;
}

const table = (head: string[], rows: (string | number)[][]): string =>
  [head, head.map(() => "---"), ...rows].map((row) => `| ${row.join(" | ")} |`).join("\n");
const share = (part: number, whole: number) => (whole === 0 ? "–" : (part / whole).toFixed(3));
const mean = (numbers: number[]) =>
  (numbers.reduce((a, b) => a + b, 0) / Math.max(1, numbers.length)).toFixed(3);
const median = (numbers: number[]) => [...numbers].sort((a, b) => a - b)[Math.floor(numbers.length / 2)] ?? 0;

async function measure(song: DevelopmentSong): Promise<Measured> {
  const decoded = await decodeFile(song.file);
  if (!decoded.ok) throw new Error(`${song.file}: ${decoded.refusal.sentence}`);
  const { analysis } = await analyse(decoded.value.signal);
  const bpm = analysis.tempo?.bpm ?? null;
  const { beats = [], downbeats = [], beatsPerBar, confidence: barConfidence = 0 } = analysis.grid ?? {};
  const truth = song.truth.tempo.bpm;
  const accuracy1 = bpm !== null && tempoAccuracy1(bpm, truth);
  return {
    ...measurePlan(song, analysis),
    tuningStepError: tuningStepError(
      decoded.value.signal,
      analysis.tuningCents,
      Number(song.name.split("-").at(-1)),
    ),
    drums: { mix: measureDrums(song, analysis), stem: await measureDrumStem(song) },
    song,
    bpm,
    accuracy1,
    confidence: analysis.tempo?.confidence ?? 0,
    accuracy2: bpm !== null && tempoAccuracy2(bpm, truth),
    beatF: eventF(song.truth.beats, beats),
    downbeatF: eventF(song.truth.downbeats, downbeats),
    metreRight: beatsPerBar === song.truth.tempo.beatsPerBar,
    barConfidence,
    leadInError: leadInError(song, downbeats),
    swingError: swingError(song, analysis),
    bpmError: bpm !== null && accuracy1 && song.truth.steady ? Math.abs(bpm - truth) : null,
  };
}

/** How far the true bar 1 is from the nearest found downbeat; null where bars were read wrongly. */
function leadInError({ truth }: DevelopmentSong, downbeats: readonly number[]): number | null {
  if (downbeats.length === 0 || eventF(truth.downbeats, downbeats) < 0.8) return null;
  return 1000 * Math.min(...downbeats.map((time) => Math.abs(time - truth.downbeats[0]!)));
}

function swingError({ truth }: DevelopmentSong, { grid }: TrackAnalysis): number | null {
  if (!grid || eventF(truth.beats, grid.beats) < 0.9) return null;
  const { of, percent } = mainSwing(grid.swing);
  const { swingOf, swingPercent } = truth.drums;
  if (swingPercent === 50) return Math.abs(percent - 50);
  return of === swingOf ? Math.abs(percent - swingPercent) : Math.abs(swingPercent - 50);
}

const songs = await developmentSongs(
  Array.from({ length: seedCount }, (_, i) => firstSeed + i),
  chosenStyles,
);
const results: Measured[] = [];
for (const song of songs) {
  const result = await measure(song);
  results.push(result);
  if (!result.accuracy1 || (result.bpmError ?? 0) > 0.05 || result.beatF < 0.9 || result.downbeatF < 0.8) {
    console.log(
      `${song.name}: ${result.bpm} for ${song.truth.tempo.bpm}, confidence ${result.confidence}, beats ${result.beatF.toFixed(2)}, downbeats ${result.downbeatF.toFixed(2)} (${result.barConfidence})`,
    );
  }
}

/** Share of the songs with a value in which it is at most some size, with the median. */
const within = (rows: Measured[], of: (row: Measured) => number | null, most: number): string => {
  const values = rows.flatMap((row) => of(row) ?? []);
  return values.length === 0
    ? "–"
    : `${share(values.filter((v) => v <= most).length, values.length)} (${median(values).toFixed(1)})`;
};

const tempoRow = (name: string, rows: Measured[]) => {
  const errors = rows.flatMap((r) => (r.bpmError === null ? [] : [r.bpmError]));
  return [
    name,
    rows.length,
    share(rows.filter((r) => r.accuracy1).length, rows.length),
    share(rows.filter((r) => r.accuracy2).length, rows.length),
    errors.length > 0 ? median(errors).toFixed(3) : "–",
    errors.length > 0 ? Math.max(...errors).toFixed(3) : "–",
    mean(rows.map((r) => r.beatF)),
    mean(rows.map((r) => r.downbeatF)),
    share(rows.filter((r) => r.metreRight).length, rows.length),
    within(rows, (r) => r.leadInError, 10),
    within(rows, (r) => r.swingError, 2),
  ];
};
const tempoTable = table(
  [
    "style",
    "songs",
    "accuracy 1",
    "accuracy 2",
    "median BPM error",
    "largest BPM error",
    "beat F",
    "downbeat F",
    "metre right",
    "bar 1 within 10 ms (median)",
    "swing within 2 points (median)",
  ],
  [
    ...chosenStyles.map((style) =>
      tempoRow(
        style,
        results.filter((r) => r.song.style === style),
      ),
    ),
    tempoRow("**all**", results),
  ],
);
const reliabilityOf = (answers: { confidence: number; right: boolean }[]) =>
  table(
    ["confidence given", "answers", "mean confidence", "share right"],
    reliability(answers).map((bin) => [
      bin.range,
      bin.count,
      bin.meanConfidence.toFixed(2),
      bin.shareRight.toFixed(2),
    ]),
  );

/** Time and memory of a whole analysis are taken in a process of its own, which is fresh each time. */
async function speedTable(): Promise<string> {
  const folder = path.join(process.cwd(), ".cache", "speed");
  await mkdir(folder, { recursive: true });
  const source = await decodeFile(songs[0]!.file);
  if (!source.ok) throw new Error(source.refusal.sentence);
  const { sampleRate, channels } = source.value.signal;
  const frames = 240 * sampleRate;
  const long = channels.map((channel) => {
    const repeated = new Float32Array(frames);
    for (let i = 0; i < frames; i++) repeated[i] = channel[i % channel.length]!;
    return repeated;
  });
  const wav = path.join(folder, "four-minutes.wav");
  await writeFile(wav, writeWav(long, sampleRate));
  const files = [wav];
  for (const [extension, options] of [
    ["mp3", ["-b:a", "192k"]],
    ["flac", []],
    ["ogg", ["-c:a", "libvorbis"]],
    ["opus", ["-c:a", "libopus"]],
  ] as const) {
    const file = wav.replace(/wav$/, extension);
    const made = spawnSync("ffmpeg", ["-loglevel", "error", "-y", "-i", wav, ...options, file]);
    if (made.status === 0 && existsSync(file)) files.push(file);
  }
  const rows = files.map((file) => {
    const runs = Array.from({ length: 3 }, () => {
      const run = spawnSync("npx", ["tsx", "bench/speed.ts", file], { encoding: "utf8" });
      if (run.status !== 0) throw new Error(run.stderr);
      return JSON.parse(run.stdout) as {
        stages: Record<string, number>;
        total: number;
        cpu: number;
        megabytes: number;
      };
    });
    const run = runs.sort((a, b) => a.cpu - b.cpu)[1]!;
    return [
      path.extname(file).slice(1),
      ...["decode", "loudness", "tone", "onsets", "pitches", "tempo", "drums", "plan"].map((name) =>
        (run.stages[name] ?? 0).toFixed(2),
      ),
      run.total.toFixed(2),
      run.cpu.toFixed(2),
      (run.total / 4).toFixed(2),
      Math.round(run.megabytes),
    ];
  });
  await rm(folder, { recursive: true, force: true });
  return table(
    [
      "four minutes of stereo as",
      "decode s",
      "loudness s",
      "tone s",
      "onsets s",
      "pitches s",
      "tempo s",
      "drums s",
      "plan s",
      "total s",
      "processor s",
      "s per minute",
      "peak MB",
    ],
    rows,
  );
}

const planRow = (name: string, rows: Measured[]) => [
  name,
  rows.length,
  mean(rows.map((r) => r.keyScore)),
  share(rows.filter((r) => r.keyRight).length, rows.length),
  mean(rows.map((r) => r.chordOverlap)),
  share(rows.filter((r) => r.tuningError <= 3).length, rows.length),
  share(rows.filter((r) => r.tuningStepError <= 3).length, rows.length),
  mean(rows.map((r) => r.boundaryF3)),
  mean(rows.map((r) => r.boundaryF05)),
  share(
    rows.reduce((sum, r) => sum + r.presenceRight.drums, 0),
    rows.reduce((sum, r) => sum + r.sections, 0),
  ),
  ...(["bass", "chords", "lead"] as const).map((group) =>
    share(
      rows.reduce((sum, r) => sum + r.presenceRight[group], 0),
      rows.reduce((sum, r) => sum + r.sections, 0),
    ),
  ),
];
const planTable = table(
  [
    "style",
    "songs",
    "key, weighted",
    "key right",
    "chords, major/minor overlap",
    "tuning within 3 cents",
    "step of tuning within 3 cents",
    "boundary F ±3 s",
    "boundary F ±0.5 s",
    "drums right",
    "bass right",
    "chords right",
    "lead right",
  ],
  [
    ...chosenStyles.map((style) =>
      planRow(
        style,
        results.filter((r) => r.song.style === style),
      ),
    ),
    planRow("**all**", results),
  ],
);

const momentSeeds = Array.from({ length: Math.min(3, seedCount) }, (_, i) => firstSeed + i);
const moments = await measureMoments(chosenStyles, momentSeeds);
const momentTable = table(["moment", "written", "found", "right", "F"], momentRows(moments));

/** Versions of two songs of each style, at most. */
const coverageSeeds = Array.from({ length: Math.min(2, seedCount) }, (_, i) => firstSeed + i);
const coverage = await measureCoverage(chosenStyles, coverageSeeds);
for (const r of coverage) {
  if (!r.right || !r.semitonesRight) console.log(`${r.name}, ${r.case}: ${r.found} for ${r.wanted}`);
}
const coverageTable = table(["case", "songs", "right to the bar", "key right"], coverageRows(coverage));
const lineUpSeconds = median(coverage.map((r) => r.seconds)).toFixed(2);

/** Changed recreations of two songs of each style, at most. */
const differences = await measureDifferences(chosenStyles, coverageSeeds);
for (const { name, change, reported, words } of differences) {
  if (reported === false || words.length > 0)
    console.log(`${name}, ${change}: ${reported}, ${words.join(", ")}`);
}
const drums = drumReport(
  results.map(({ song, drums: own }) => ({ style: song.style, name: song.name, ...own })),
  differences,
);

const speed = await speedTable();
const report = `# Benchmarks

Written by \`npm run bench\` on ${new Date().toISOString().slice(0, 10)}, analysis version ${analysisVersion}, on ${cpus().length} cores of ${cpus()[0]?.model.trim() || "an unnamed processor"}, Node ${process.version}. Not edited by hand.

## Tempo, beats, bars

${songs.length} development songs, ${seedCount} of each style. Accuracy 1: within 4 % of the truth. Accuracy 2: that, or within 4 % of half, double, a third or three times it. BPM error over steady songs whose accuracy 1 is right; target at most 0.02, accuracy 1 at least 0.95. Beat and downbeat F: F-measure at ±70 ms, mean over songs; targets 0.95 and 0.88. Bar 1: the found downbeat nearest to the true bar 1, over songs whose bars are right. Swing: of the pairs that the song swings, over songs whose beats are right; straight songs count as 50.

${tempoTable}

Confidence of the tempo, over the same songs. The model that gives it was fitted on twenty other songs of each style; \`npm run fit:grid\` prints what it reaches with whole styles held out.

${reliabilityOf(results.map((r) => ({ confidence: r.confidence, right: r.accuracy1 })))}

Confidence of the bars; right means a downbeat F of at least 0.8.

${reliabilityOf(results.map((r) => ({ confidence: r.barConfidence, right: r.downbeatF >= 0.8 })))}

## Key, chords, sections

The same songs. Key: weighted score, a fifth above counting 0.5, the relative 0.3, the parallel 0.2; target at least 0.88. A loop such as vi – IV – I – V is both a major key's and its relative minor's, and then only one of them stands in the truth. Chords: share of the time in which the chord agrees as major, minor or none; target at least 0.78. Tuning: all songs are written at 440 Hz, but some of the sounds they are played with are not; the step of tuning is how exactly a move of the same recording by a known number of cents is measured. Boundaries: F-measure of where sections begin, the beginning of the first and the end of the last left out; targets 0.75 and 0.65. The last four columns: share of the true sections in which it is rightly said whether the group plays.

${planTable}

Confidence of the key, over the same songs; fitted on six other songs of each style.

${reliabilityOf(results.flatMap((r) => (r.keyConfidence === null ? [] : [{ confidence: r.keyConfidence, right: r.keyRight }])))}

Confidence of the chords; right means as major, minor or none for most of its length. How much a beat counts for it was set on seeds 101 to 103.

${reliabilityOf(results.flatMap((r) => r.chordAnswers))}

## Moments

${momentSeeds.length} songs of each style with moments written into them, those of the style itself included. Right: of the same kind, and within a bar where it begins, or where it ends for what rises or opens. Target F at least 0.7. The rules were set on seeds 1, 2 and 101.

${momentTable}

${drums}

## Lining up

Versions of development songs, mixed otherwise and mostly with a part missing. Right to the bar: every span begins, ends and answers as it was made, with nothing more and nothing less; bars in which the same parts play the very same notes stand for one another. Median time for a pair ${lineUpSeconds} s.

${coverageTable}

## Speed

Whole analysis of one file in a fresh process, one core at work, median of three runs by processor time. Target: at most 19 s and 700 MB.

${speed}
`;
console.log(report);
if (!values.seeds && !values.only) {
  await mkdir("docs", { recursive: true });
  await writeFile("docs/benchmarks.md", report);
}

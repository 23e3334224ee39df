/** Accuracy on the development songs: tempo, beats, bars, key, chords, sections and drums. */
import { analyse } from "@/core/analysis/analyse";
import type { TrackAnalysis } from "@/core/analysis/result";
import { mainSwing } from "@/core/grid/swing";
import { decodeFile } from "@/server/decoding/decode";
import { measureDifferences } from "../drumDifferences";
import { drumReport } from "../drumTables";
import { measureDrums, measureDrumStem, type MeasuredDrums } from "../drums";
import { eventF, reliability, tempoAccuracy1, tempoAccuracy2 } from "../metrics";
import { measurePlan, tuningStepError, type MeasuredPlan } from "../plans";
import { developmentSongs, type DevelopmentSong } from "../songs";
import { mean, median, share, table } from "../tables";
import { yardstickReport, yardstickTrack, type YardstickTrack } from "../yardsticks";
import type { PartOptions, Sections } from "./part";

interface Measured extends MeasuredPlan {
  tuningStepError: number;
  drums: { mix: MeasuredDrums; stem: MeasuredDrums };
  song: DevelopmentSong;
  yardstick: YardstickTrack | null;
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
    yardstick: yardstickTrack(song, analysis),
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

export async function songSections({ styles, seeds }: PartOptions): Promise<Sections> {
  const songs = await developmentSongs([...seeds], [...styles]);
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
      ...styles.map((style) =>
        tempoRow(
          style,
          results.filter((r) => r.song.style === style),
        ),
      ),
      tempoRow("**all**", results),
    ],
  );
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
      ...styles.map((style) =>
        planRow(
          style,
          results.filter((r) => r.song.style === style),
        ),
      ),
      planRow("**all**", results),
    ],
  );

  /** Changed recreations of two songs of each style, at most. */
  const differences = await measureDifferences([...styles], seeds.slice(0, 2));
  for (const { name, change, reported, words } of differences) {
    if (reported === false || words.length > 0)
      console.log(`${name}, ${change}: ${reported}, ${words.join(", ")}`);
  }
  const drums = drumReport(
    results.map(({ song, drums: own }) => ({ style: song.style, name: song.name, ...own })),
    differences,
  );
  return {
    "Tempo, beats, bars": `${songs.length} development songs, ${seeds.length} of each style. Accuracy 1: within 4 % of the truth. Accuracy 2: that, or within 4 % of half, double, a third or three times it. BPM error over steady songs whose accuracy 1 is right; target at most 0.02, accuracy 1 at least 0.95. Beat and downbeat F: F-measure at ±70 ms, mean over songs; targets 0.95 and 0.88. Bar 1: the found downbeat nearest to the true bar 1, over songs whose bars are right. Swing: of the pairs that the song swings, over songs whose beats are right; straight songs count as 50.

${tempoTable}

Confidence of the tempo, over the same songs. The model that gives it was fitted on five other songs of each style and on pieces by others; \`npm run fit:grid\` prints what it reaches on what is held out.

${reliabilityOf(results.map((r) => ({ confidence: r.confidence, right: r.accuracy1 })))}

Confidence of the bars; right means a downbeat F of at least 0.8.

${reliabilityOf(results.map((r) => ({ confidence: r.barConfidence, right: r.downbeatF >= 0.8 })))}`,
    "Key, chords, sections": `The same songs. Key: weighted score, a fifth above counting 0.5, the relative 0.3, the parallel 0.2; target at least 0.88. A loop such as vi – IV – I – V is both a major key's and its relative minor's, and then only one of them stands in the truth. Chords: share of the time in which the chord agrees as major, minor or none; target at least 0.78. Tuning: all songs are written at 440 Hz, but some of the sounds they are played with are not; the step of tuning is how exactly a move of the same recording by a known number of cents is measured. Boundaries: F-measure of where sections begin, the beginning of the first and the end of the last left out; targets 0.75 and 0.65. The last four columns: share of the true sections in which it is rightly said whether the group plays.

${planTable}

Confidence of the key, over the same songs; fitted on six other songs of each style.

${reliabilityOf(results.flatMap((r) => (r.keyConfidence === null ? [] : [{ confidence: r.keyConfidence, right: r.keyRight }])))}

Confidence of the chords; right means as major, minor or none for most of its length. How much a beat counts for it was set on seeds 101 to 103.

${reliabilityOf(results.flatMap((r) => r.chordAnswers))}`,
    Yardsticks: yardstickReport(results.flatMap(({ yardstick }) => yardstick ?? [])),
    Drums: drums.replace(/^## Drums\s*/, "").trim(),
  };
}

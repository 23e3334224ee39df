/**
 * Fits how much the rest of a track says of each hit, on development songs and on the fitting halves of
 * pieces by others with the grids that are heard in them, and writes src/core/drums/repetitionModel.ts. Run it after the drum model was fitted.
 */
import { writeFile } from "node:fs/promises";
import path from "node:path";
import { durationOf, downmix } from "@/core/audio/signal";
import { firstSoundOf, lastSoundOf } from "@/core/audio/silence";
import { drumBandGatherer } from "@/core/drums/bands";
import { repetitionFeatures, repetitionSigns } from "@/core/drums/repetitionPrior";
import { drumActivations, strokeCurves } from "@/core/drums/network";
import { peaksOf, type Peak } from "@/core/drums/peakPicking";
import { drumVoices } from "@/core/drums/voices";
import { loadFft } from "@/core/dsp/fft";
import { gridOf } from "@/core/grid/correction";
import { estimateGrid } from "@/core/grid/estimateGrid";
import { highBandOnsets } from "@/core/grid/highBandOnsets";
import { onsetStrength } from "@/core/grid/onset";
import type { StrokeCurves } from "@/core/grid/strokeCurves";
import { estimateTempo } from "@/core/grid/tempo";
import { styles, styleSong } from "@/demo/songs/styles";
import { decodeFile } from "@/server/decoding/decode";
import { midiPieces, playedTracker, playedWhole, soundFontNames, trackerPieces } from "./material/pieces";
import { developmentSongs } from "./songs";
import { solved } from "./linear";

// Other than those that the drum model has heard.
const seeds = [3, 4, 5];
const penalty = 3e-3;
/** Seconds by which a top may lie off the hit that it stands for. */
const reach = 0.045;

/** Own songs say little of music by others: how much a top of theirs counts beside one of a piece by others. */
const ownWeight = 0.2;

interface Row {
  features: number[];
  isHit: boolean;
  weight: number;
}

/** Which tops stand for hits, each hit for its nearest top. */
function matched(tops: readonly Peak[], truth: readonly (readonly number[])[]): Set<Peak> {
  const found = new Set<Peak>();
  truth.forEach((times, curve) => {
    const own = tops.filter((top) => top.curve === curve);
    for (const time of times) {
      const near = own.filter((top) => Math.abs(top.time - time) <= reach && !found.has(top));
      if (near.length === 0) continue;
      found.add(near.reduce((a, b) => (Math.abs(b.time - time) < Math.abs(a.time - time) ? b : a)));
    }
  });
  return found;
}

/**
 * Logistic regression with a quadratic penalty, by Newton's method; weights of the features, then
 * the bias. A feature that would count the wrong way is left out, and the rest fitted again.
 */
function fit(rows: readonly Row[]): number[] {
  const total = rows.reduce((sum, { weight }) => sum + weight, 0);
  const meanOf = (value: (row: Row) => number) =>
    rows.reduce((sum, row) => sum + row.weight * value(row), 0) / total;
  const means = repetitionSigns.map((_, i) => meanOf(({ features }) => features[i]!));
  const deviations = means.map(
    (mean, i) => Math.sqrt(meanOf(({ features }) => (features[i]! - mean) ** 2)) + 0.05,
  );
  let used = repetitionSigns.map((_, i) => i);
  for (;;) {
    const weights = newton(
      rows.map(({ features, isHit, weight }) => ({
        x: [...used.map((i) => (features[i]! - means[i]!) / deviations[i]!), 1],
        y: isHit ? 1 : 0,
        share: weight / total,
      })),
    );
    const wrong = used.filter((i, k) => weights[k]! * repetitionSigns[i]! < 0);
    if (wrong.length > 0) {
      used = used.filter((i) => !wrong.includes(i));
      continue;
    }
    const plain = repetitionSigns.map((_, i) =>
      used.includes(i) ? weights[used.indexOf(i)]! / deviations[i]! : 0,
    );
    return [...plain, weights.at(-1)! - plain.reduce((sum, w, i) => sum + w * means[i]!, 0)];
  }
}

function newton(rows: readonly { x: number[]; y: number; share: number }[]): number[] {
  const size = rows[0]!.x.length;
  const weights = new Array<number>(size).fill(0);
  for (let round = 0; round < 60; round++) {
    const gradient = weights.map((w, i) => (i < size - 1 ? penalty * w : 0));
    const hessian = weights.map((_, i) => weights.map((__, k) => (i === k ? penalty : 0)));
    for (const { x, y, share } of rows) {
      const p = 1 / (1 + Math.exp(-x.reduce((sum, v, i) => sum + v * weights[i]!, 0)));
      const slope = share * p * (1 - p);
      for (let i = 0; i < size; i++) {
        gradient[i]! += share * (p - y) * x[i]!;
        for (let k = 0; k < size; k++) hessian[i]![k]! += slope * x[i]! * x[k]!;
      }
    }
    const step = solved(hessian, gradient);
    for (let i = 0; i < size; i++) weights[i]! -= step[i]!;
    if (Math.max(...step.map(Math.abs)) < 1e-6) break;
  }
  return weights;
}

await loadFft();
const rows: Row[][] = Array.from({ length: drumVoices.length + 1 }, () => []);

/**
 * @param truth of each curve the times of its hits; null where they are not all known.
 * @param weight of each top.
 */
async function learn(file: string, truth: (readonly number[] | null)[], weight = 1) {
  const decoded = await decodeFile(file);
  if (!decoded.ok) throw new Error(decoded.refusal.sentence);
  const { signal } = decoded.value;
  const stereo = downmix(signal);
  const gatherer = drumBandGatherer(stereo[0].length, signal.sampleRate);
  const onsets = onsetStrength(stereo, signal.sampleRate, undefined, gatherer.add);
  const bands = gatherer.finish();
  const activations = drumActivations(bands);
  const tops = peaksOf(activations, bands.framesPerSecond);
  const grid = gridOf(
    heardGrid(stereo, signal.sampleRate, onsets, strokeCurves(activations)),
    durationOf(signal),
  );
  const features = repetitionFeatures(tops, activations, bands, grid);
  const found = matched(
    tops,
    truth.map((times) => times ?? []),
  );
  tops.forEach((top, i) => {
    if (truth[top.curve]) rows[top.curve]!.push({ features: features[i]!, isHit: found.has(top), weight });
  });
}

/** The grid as the analysis first has it, before hits are heard. */
function heardGrid(
  stereo: readonly [Float32Array, Float32Array],
  rate: number,
  onsets: ReturnType<typeof onsetStrength>,
  strokes: StrokeCurves,
) {
  const tempo = estimateTempo(onsets, strokes);
  const begin = firstSoundOf(stereo, rate) ?? 0;
  const end = lastSoundOf(stereo, rate);
  return tempo && estimateGrid(onsets, highBandOnsets(stereo, rate), tempo.bpm, begin, end, strokes);
}

const byCurve = (strokes: readonly { time: number; voice: string }[]) =>
  [...drumVoices, "bass"].map((voice) =>
    strokes.filter((stroke) => stroke.voice === voice).map(({ time }) => time),
  );

for (const style of styles) {
  for (const seed of seeds) {
    const [song] = await developmentSongs([seed], [style]);
    const bass = styleSong(style, seed)
      .parts.filter(({ role }) => role === "bass")
      .flatMap(({ notes }) => notes.map(({ time }) => time));
    const drums = byCurve(song!.truth.drums.hits).slice(0, drumVoices.length);
    await learn(song!.file, [...drums, bass], ownWeight);
  }
}
const fonts = soundFontNames;
for (const [i, piece] of (await midiPieces()).filter(({ half }) => half === "fit").entries()) {
  const whole = await playedWhole(piece, fonts[i % fonts.length]!);
  if (whole) await learn(whole.file, byCurve(whole.strokes));
}
for (const piece of (await trackerPieces()).filter(({ half }) => half === "fit")) {
  const { mix, truth } = await playedTracker(piece);
  // Claps and open hats are not told apart there; and where nobody is sure, nothing is learned.
  const sure = truth.known.filter(
    (voice) => voice === "kick" && !truth.unsure.some((own) => own.voice === voice),
  );
  const times = byCurve(truth.strokes);
  await learn(
    mix,
    times.map((own, curve) => (sure.includes(drumVoices[curve]!) ? own : null)),
  );
}
const curves = rows.map((own) => fit(own));
await writeFile(
  path.join(process.cwd(), "src/core/drums/repetitionModel.ts"),
  `/** Fitted by \`npm run fit:repetition\`: for each curve weights of the features, then the bias. Not edited by hand. */
import type { RepetitionModel } from "./repetitionPrior";

// oxfmt-ignore
export const repetitionModel: RepetitionModel = {
  curves: [
${curves.map((own) => `    [${own.map((w) => w.toFixed(5)).join(", ")}],`).join("\n")}
  ],
};
`,
);
rows.forEach((own, curve) =>
  console.log(
    `${drumVoices[curve] ?? "bass"}: ${own.length} tops, ${own.filter(({ isHit }) => isHit).length} hits`,
  ),
);

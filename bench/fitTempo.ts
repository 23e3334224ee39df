/**
 * Fits the model that chooses between readings of the beat, and writes it to
 * `src/core/grid/tempoModel.ts`. Multinomial logistic regression with a quadratic penalty; the
 * accuracy printed is cross-validated with whole styles held out, so that it says something about
 * styles the model has not seen.
 */
import { writeFile } from "node:fs/promises";
import path from "node:path";
import { foldToStereo } from "@/core/audio/signal";
import { loadFft } from "@/core/dsp/fft";
import { onsetStrength } from "@/core/grid/onset";
import { tempoCandidates, type TempoCandidate } from "@/core/grid/tempo";
import { decodeFile } from "@/server/decode";
import { developmentSongs } from "./songs";

interface Example {
  style: string;
  candidates: TempoCandidate[];
  right: number;
}

interface Model {
  weights: number[];
  means: number[];
  deviations: number[];
}

const penalty = 0.02;

function fit(examples: readonly Example[]): Model {
  const all = examples.flatMap((e) => e.candidates.map((c) => c.features));
  const size = all[0]!.length;
  const means = Array.from({ length: size }, (_, i) => all.reduce((a, f) => a + f[i]!, 0) / all.length);
  const deviations = means.map(
    (mean, i) => Math.sqrt(all.reduce((a, f) => a + (f[i]! - mean) ** 2, 0) / all.length) || 1,
  );
  const scaled = examples.map((e) => ({
    right: e.right,
    rows: e.candidates.map((c) => c.features.map((f, i) => (f - means[i]!) / deviations[i]!)),
  }));
  const weights = new Array<number>(size).fill(0);
  for (let round = 0; round < 3000; round++) {
    const gradient = weights.map((w) => penalty * w);
    for (const { rows, right } of scaled) {
      const scores = rows.map((row) => row.reduce((a, f, i) => a + f * weights[i]!, 0));
      const top = Math.max(...scores);
      const shares = scores.map((s) => Math.exp(s - top));
      const total = shares.reduce((a, b) => a + b, 0);
      rows.forEach((row, r) => {
        const error = shares[r]! / total - (r === right ? 1 : 0);
        for (let i = 0; i < size; i++) gradient[i]! += (error * row[i]!) / scaled.length;
      });
    }
    for (let i = 0; i < size; i++) weights[i]! -= 0.5 * gradient[i]!;
  }
  return { weights, means, deviations };
}

const choose = ({ weights, means, deviations }: Model, candidates: TempoCandidate[]): number => {
  const scores = candidates.map((c) =>
    c.features.reduce((a, f, i) => a + (weights[i]! * (f - means[i]!)) / deviations[i]!, 0),
  );
  return scores.indexOf(Math.max(...scores));
};

await loadFft();
const songs = await developmentSongs(Array.from({ length: 18 }, (_, i) => i + 1));
const examples: Example[] = [];
let unreachable = 0;
for (const song of songs) {
  const decoded = await decodeFile(song.file);
  if (!decoded.ok) throw new Error(decoded.refusal.sentence);
  const { signal } = decoded.value;
  const candidates = tempoCandidates(onsetStrength(foldToStereo(signal), signal.sampleRate));
  const right = candidates.findIndex((c) => Math.abs(c.bpm / song.truth.tempo.bpm - 1) < 0.04);
  if (right < 0) {
    unreachable++;
    console.log(
      `no candidate: ${song.name} ${song.truth.tempo.bpm} [${candidates.map((c) => c.bpm.toFixed(1)).join(" ")}]`,
    );
  } else examples.push({ style: song.style, candidates, right });
}

let correct = 0;
for (const style of new Set(examples.map((e) => e.style))) {
  const model = fit(examples.filter((e) => e.style !== style));
  const held = examples.filter((e) => e.style === style);
  const hits = held.filter((e) => choose(model, e.candidates) === e.right).length;
  correct += hits;
  console.log(`${style}: ${hits} of ${held.length}`);
}
console.log(`held-out styles: ${correct} of ${songs.length} (${unreachable} without a right candidate)`);

const model = fit(examples);
const fitted = examples.filter((e) => choose(model, e.candidates) === e.right).length;
console.log(`fitted on all: ${fitted} of ${songs.length}`);
const list = (values: number[]) => `[${values.map((v) => v.toFixed(4)).join(", ")}]`;
await writeFile(
  path.join(process.cwd(), "src/core/grid/tempoModel.ts"),
  `/** Fitted by \`npm run fit:tempo\`; one entry a feature of \`tempoCandidates\`. Not edited by hand. */
// prettier-ignore
export const tempoModel = {
  weights: ${list(model.weights)},
  means: ${list(model.means)},
  deviations: ${list(model.deviations)},
};
`,
);

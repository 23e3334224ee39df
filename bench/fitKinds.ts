/**
 * Fits by what drums of one voice are told apart, and writes src/core/drums/drumsModel.ts: `npm run fit:kinds`.
 * Learned from pieces by others whose strokes say which sample they are of, with the hits that are found in
 * them; prints for the pieces of the measuring half how many drums of one sample are told as one, and how many
 * of several are told apart. Run it after the drum model was fitted.
 */
import { mkdir, readFile, writeFile } from "node:fs/promises";
import { existsSync } from "node:fs";
import path from "node:path";
import { deserialize, serialize } from "node:v8";
import { analyse } from "@/core/analysis/analyse";
import { downmix } from "@/core/audio/signal";
import { drumBandGatherer } from "@/core/drums/bands";
import { hearDrums, soundingHits } from "@/core/drums/estimateDrums";
import { strokeTimbres, timbreSize } from "@/core/drums/strokeTimbre";
import {
  drumsOfTimbres,
  pairFeatures,
  placedStrokes,
  smallGroups,
  type DrumsModel,
} from "@/core/drums/tellDrumsApart";
import { backVoices, type DrumVoice } from "@/core/drums/voices";
import { loadFft } from "@/core/dsp/fft";
import { gridOf } from "@/core/grid/correction";
import { onsetStrength } from "@/core/grid/onset";
import { decodeFile } from "@/server/decoding/decode";
import { discriminants, solved } from "./linear";
import {
  midiPieces,
  playedTracker,
  playedWhole,
  soundFontNames,
  trackerPieces,
  type Stroke,
} from "./material/pieces";

const parts = { kick: ["kick"], snare: backVoices } as const satisfies Record<string, readonly DrumVoice[]>;
type Part = keyof typeof parts;
const partNames = Object.keys(parts) as Part[];

const axisCount: Record<Part, number> = { kick: 8, snare: 30 };
/** Added to how strokes of one sample vary, as a share of their mean variance. */
const ridge = 0.3;
/** Of the logistic regression. */
const penalty = 1;
/** Two strokes this near in time are one. */
const reach = 0.03;
const fewestOfSample = 8;
/** A group is one sample's if it has this share of its strokes. */
const pure = 0.8;
const fewestStrokes = 16;
/** Below it two groups are one drum: rather one drum too few than one that is not there. */
const leastProbability: Record<Part, number> = { kick: 0.1, snare: 0.5 };

/** Strokes of one part of a piece. */
interface Heard {
  name: string;
  voices: DrumVoice[];
  times: number[];
  timbres: Float32Array;
  /** Of each stroke the sample that it is of; null where it is none's, or two sound at once. */
  samples: (string | null)[];
  /** How often each sample is struck. */
  struck: Map<string, number>;
}
type Piece = Record<Part, Heard>;

const folder = path.join(process.cwd(), ".cache", "kinds");

async function heardPiece(name: string, mix: string, truth: readonly Stroke[]): Promise<Piece> {
  const file = path.join(folder, `${name.replace(/[^\w.-]+/g, "_")}.bin`);
  if (existsSync(file)) return deserialize(await readFile(file)) as Piece;
  const decoded = await decodeFile(mix);
  if (!decoded.ok) throw new Error(decoded.refusal.sentence);
  const { analysis } = await analyse(decoded.value.signal);
  const stereo = downmix(decoded.value.signal);
  const gatherer = drumBandGatherer(stereo[0].length, decoded.value.signal.sampleRate);
  onsetStrength(stereo, decoded.value.signal.sampleRate, undefined, gatherer.add);
  const bands = gatherer.finish();
  const { hits } = soundingHits(hearDrums(bands), gridOf(analysis.grid, analysis.durationSeconds));
  const of = (part: Part): Heard => {
    const isOwn = ({ voice }: { voice: string }) => (parts[part] as readonly string[]).includes(voice);
    const own = hits.filter(isOwn);
    const real = truth.filter(isOwn);
    const struck = new Map<string, number>();
    for (const { sample } of real) struck.set(sample, (struck.get(sample) ?? 0) + 1);
    const times = own.map(({ time }) => time);
    return {
      name,
      voices: own.map(({ voice }) => voice),
      times,
      timbres: strokeTimbres(times, bands),
      samples: times.map((time) => {
        const near = new Set(
          real.flatMap((stroke) => (Math.abs(stroke.time - time) <= reach ? [stroke.sample] : [])),
        );
        return near.size === 1 ? [...near][0]! : null;
      }),
      struck,
    };
  };
  const piece: Piece = { kick: of("kick"), snare: of("snare") };
  await mkdir(folder, { recursive: true });
  await writeFile(file, serialize(piece));
  return piece;
}

async function pieces(half: "fit" | "measure"): Promise<Piece[]> {
  const all: Piece[] = [];
  for (const piece of (await trackerPieces()).filter((own) => own.half === half)) {
    const { mix, truth } = await playedTracker(piece);
    all.push(await heardPiece(piece.name, mix, truth.strokes));
  }
  const midi = (await midiPieces()).filter((own) => own.half === half);
  for (const [i, piece] of midi.entries()) {
    const whole = await playedWhole(piece, soundFontNames[i % soundFontNames.length]!);
    if (whole) all.push(await heardPiece(piece.name, whole.file, whole.strokes));
  }
  return all;
}

/** Rows of the strokes of each sample of a piece that is struck often enough. */
const ofSamples = ({ samples, timbres }: Heard): Float64Array[][] =>
  [...new Set(samples)].flatMap((sample) => {
    const own = [...samples.keys()].filter((i) => sample !== null && samples[i] === sample);
    return own.length < fewestOfSample
      ? []
      : [own.map((i) => Float64Array.from(timbres.subarray(i * timbreSize, (i + 1) * timbreSize)))];
  });

/** Of two groups of strokes what they are told apart by, and whether they are of two samples. */
function pairsOf({ timbres, samples }: Heard, axes: DrumsModel["axes"]) {
  const strokes = placedStrokes(timbres, axes);
  const groups = smallGroups(strokes).flatMap((group) => {
    const counts = new Map<string, number>();
    for (const i of group) if (samples[i]) counts.set(samples[i], (counts.get(samples[i]) ?? 0) + 1);
    const known = [...counts.values()].reduce((a, b) => a + b, 0);
    const [most] = [...counts].sort((a, b) => b[1] - a[1]);
    return most && most[1] >= pure * known ? [{ group, sample: most[0] }] : [];
  });
  return groups.flatMap((a, i) =>
    groups.slice(0, i).map((b) => ({
      features: pairFeatures(strokes, a.group, b.group),
      areTwo: a.sample !== b.sample,
    })),
  );
}

/** Logistic regression with a quadratic penalty on features of one scale, by Newton's method. */
function logistic(pairs: readonly { features: number[]; areTwo: boolean }[]): number[] {
  const size = pairs[0]!.features.length;
  const meanOf = (of: (features: readonly number[]) => number) =>
    pairs.reduce((sum, { features }) => sum + of(features), 0) / pairs.length;
  const means = Array.from({ length: size }, (_, i) => meanOf((features) => features[i]!));
  const scales = means.map((mean, i) => Math.sqrt(meanOf((features) => (features[i]! - mean) ** 2)) || 1);
  const rows = pairs.map(({ features, areTwo }) => ({
    x: [1, ...features.map((own, i) => (own - means[i]!) / scales[i]!)],
    y: areTwo ? 1 : 0,
  }));
  let weights = new Array<number>(size + 1).fill(0);
  for (let round = 0; round < 50; round++) {
    const hessian = weights.map((_, i) => weights.map((__, k) => (i === k ? penalty : 0)));
    const gradient = weights.map((own, i) => (i > 0 ? penalty * own : 0));
    for (const { x, y } of rows) {
      const p = 1 / (1 + Math.exp(-x.reduce((sum, own, i) => sum + own * weights[i]!, 0)));
      x.forEach((own, i) => {
        gradient[i]! += own * (p - y);
        x.forEach((other, k) => (hessian[i]![k]! += own * other * p * (1 - p)));
      });
    }
    const step = solved(hessian, gradient);
    weights = weights.map((own, i) => own - step[i]!);
  }
  const [constant, ...scaled] = weights;
  const plain = scaled.map((own, i) => own / scales[i]!);
  return [plain.reduce((sum, own, i) => sum - own * means[i]!, constant!), ...plain];
}

function fit(part: Part, all: readonly Piece[]): DrumsModel {
  const own = all.map((piece) => piece[part]).filter(({ times }) => times.length >= fewestStrokes);
  const axes = discriminants(own.flatMap(ofSamples), axisCount[part], ridge);
  const weights = logistic(own.flatMap((heard) => pairsOf(heard, axes)));
  return { axes, weights, leastProbability: leastProbability[part] };
}

/** Drums of a part as the model tells them, by voice; small ones count for the largest. */
function drumsOf({ voices, timbres }: Heard, model: DrumsModel): string[] {
  const names: string[] = voices.map(() => "");
  for (const voice of new Set(voices)) {
    const own = [...voices.keys()].filter((i) => voices[i] === voice);
    const rows = new Float32Array(own.length * timbreSize);
    own.forEach((i, k) => rows.set(timbres.subarray(i * timbreSize, (i + 1) * timbreSize), k * timbreSize));
    drumsOfTimbres(rows, model).forEach((drum, k) => (names[own[k]!] = `${voice} ${drum}`));
  }
  const counts = new Map<string, number>();
  for (const name of names) counts.set(name, (counts.get(name) ?? 0) + 1);
  const [most] = [...counts].sort((a, b) => b[1] - a[1]);
  const least = Math.max(fewestOfSample, 0.1 * names.length);
  return names.map((name) => (counts.get(name)! < least ? most![0] : name));
}

function report(part: Part, model: DrumsModel, all: readonly Piece[]): void {
  const one = { all: 0, right: 0 };
  const several = { all: 0, right: 0, known: 0, pure: 0 };
  for (const { [part]: heard } of all) {
    const { struck, samples, times } = heard;
    const total = [...struck.values()].reduce((a, b) => a + b, 0);
    if (total < fewestStrokes || times.length < fewestStrokes) continue;
    const large = [...struck.values()].filter((own) => own >= Math.max(fewestOfSample, 0.1 * total)).length;
    const drums = drumsOf(heard, model);
    const told = new Set(drums).size;
    if (large <= 1) {
      one.all++;
      if (told === 1) one.right++;
      continue;
    }
    several.all++;
    if (told === 1) continue;
    several.right++;
    let right = 0;
    let known = 0;
    for (const drum of new Set(drums)) {
      const counts = new Map<string, number>();
      drums.forEach((own, i) => {
        const sample = samples[i];
        if (own === drum && sample) counts.set(sample, (counts.get(sample) ?? 0) + 1);
      });
      right += Math.max(0, ...counts.values());
      for (const count of counts.values()) known += count;
    }
    if (known === 0) continue;
    several.known++;
    several.pure += right / known;
  }
  const share = several.known ? (several.pure / several.known).toFixed(2) : "–";
  console.log(
    `${part}: of one sample told as one ${one.right}/${one.all}, of several told apart ${several.right}/${several.all}, ${share} of their strokes with their own`,
  );
}

await loadFft();
const fitted = await pieces("fit");
const models = Object.fromEntries(partNames.map((part) => [part, fit(part, fitted)])) as Record<
  Part,
  DrumsModel
>;
for (const [half, all] of [
  ["fit", fitted],
  ["measure", await pieces("measure")],
] as const) {
  console.log(half);
  for (const part of partNames) report(part, models[part], all);
}
const list = (values: readonly number[], digits: number) =>
  `[${values.map((own) => Number(own.toFixed(digits))).join(", ")}]`;
await writeFile(
  path.join(process.cwd(), "src/core/drums/drumsModel.ts"),
  `/** Fitted by \`npm run fit:kinds\` on pieces by others: how drums of one voice are told apart. Not edited by hand. */
import type { DrumsModel } from "./tellDrumsApart";

// oxfmt-ignore
export const drumsModel: Record<"${partNames.join('" | "')}", DrumsModel> = {
${partNames
  .map((part) => {
    const { axes, weights, leastProbability: least } = models[part];
    const rows = axes.map((axis) => `      ${list(axis, 3)},`).join("\n");
    return `  ${part}: {
    axes: [
${rows}
    ],
    weights: ${list(weights, 4)},
    leastProbability: ${least},
  },`;
  })
  .join("\n")}
};
`,
);

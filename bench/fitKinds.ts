/**
 * Fits by what drums of one voice are told apart, and writes src/core/drums/drumsModel.ts: `npm run fit:kinds`.
 * Learned from pieces by others whose strokes say which sample they are of, with the hits that are found in
 * them; prints for the pieces of the measuring half how many drums of one sample are told as one, and how many
 * of several are told apart. Run it after the drum model was fitted.
 */
import { writeFile } from "node:fs/promises";
import path from "node:path";
import { drumBandCount } from "@/core/drums/bands";
import { bandOfTimbre, timbreSize } from "@/core/drums/strokeTimbre";
import { pairFeatures, placedStrokes, smallGroups, type DrumsModel } from "@/core/drums/tellDrumsApart";
import { loadFft } from "@/core/dsp/fft";
import {
  fewestOfSample,
  fewestStrokes,
  kindCounts,
  kindPieces,
  partNames,
  pureShare,
  type Heard,
  type Part,
  type Piece,
} from "./kindPieces";
import { discriminants, solved } from "./linear";

const axisCount: Record<Part, number> = { kick: 8, snare: 30 };
/** Added to how strokes of one sample vary, as a share of their mean variance. */
const ridge = 0.3;
/** Of the logistic regression. */
const penalty = 1;
/** A group is one sample's if it has this share of its strokes. */
const pure = 0.8;
/** Below it two groups are one drum: rather one drum too few than one that is not there. */
const leastProbability: Record<Part, number> = { kick: 0.1, snare: 0.5 };

/** Of each part the bands that are its own: what stands above them is of those struck with it. */
const ownBands: Record<Part, number> = { kick: 24, snare: drumBandCount };

/** Rows of the strokes of each sample of a piece that is struck often enough. */
const ofSamples = ({ samples, timbres }: Heard, end: number): Float64Array[][] =>
  [...new Set(samples)].flatMap((sample) => {
    const own = [...samples.keys()].filter((i) => sample !== null && samples[i] === sample);
    return own.length < fewestOfSample
      ? []
      : [
          own.map((i) =>
            Float64Array.from({ length: timbreSize }, (_, d) =>
              bandOfTimbre(d) < end ? timbres[i * timbreSize + d]! : 0,
            ),
          ),
        ];
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
  const axes = discriminants(
    own.flatMap((heard) => ofSamples(heard, ownBands[part])),
    axisCount[part],
    ridge,
  );
  const weights = logistic(own.flatMap((heard) => pairsOf(heard, axes)));
  return { axes, weights, leastProbability: leastProbability[part] };
}

await loadFft();
const fitted = await kindPieces("fit");
const models = Object.fromEntries(partNames.map((part) => [part, fit(part, fitted)])) as Record<
  Part,
  DrumsModel
>;
for (const [half, all] of [
  ["fit", fitted],
  ["measure", await kindPieces("measure")],
] as const) {
  console.log(half);
  for (const part of partNames) {
    const { one, several } = kindCounts(part, models[part], all);
    console.log(
      `${part}: of one sample told as one ${one.right}/${one.all}, of several told apart ${several.right}/${several.all}, ${pureShare(several)} of their strokes with their own`,
    );
  }
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
    const rows = axes.map((axis) => `      [${axis.join(", ")}],`).join("\n");
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

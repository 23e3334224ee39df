/** Fits the chord model on what is heard in development songs: `npm run fit:chords`. */
import { writeFile } from "node:fs/promises";
import path from "node:path";
import { parseArgs } from "node:util";
import { beatChroma, chromaSize } from "@/core/harmony/beatChroma";
import { chordStates, noChord, noneFeatures, type ChordModel } from "@/core/harmony/chordModel";
import { majorOrMinor, readChord } from "@/core/harmony/chords";
import { heardSongs } from "./heard";

const { values: options } = parseArgs({ options: { seeds: { type: "string", default: "6" } } });
const seeds = Array.from({ length: Number(options.seeds) }, (_, i) => i + 1);

/** One beat: what sounds, features of no chord, and which state is right. */
interface Beat {
  values: Float32Array;
  none: number[];
  right: number;
}

const stateOf = (label: string): number => {
  const kind = majorOrMinor(readChord(label) ?? null);
  return kind === null ? noChord : kind === undefined ? -1 : kind.root + (kind.minor ? 12 : 0);
};

const beats: Beat[] = [];
for await (const { song, curves } of heardSongs(seeds)) {
  const { beats: times, chords } = song.truth;
  const chroma = beatChroma(curves.pitches, times);
  for (let beat = 0; beat < chroma.count; beat++) {
    const middle = (times[beat]! + times[beat + 1]!) / 2;
    const label = chords.find(({ start, end }) => middle >= start && middle < end)?.label ?? "N";
    const right = stateOf(label);
    if (right < 0) continue;
    const values = chroma.values.slice(beat * chromaSize, (beat + 1) * chromaSize);
    beats.push({ values, none: noneFeatures(chroma, beat), right });
  }
}
console.log(`${beats.length} beats`);

const noneCount = beats[0]!.none.length;
const model = {
  templates: [new Float64Array(chromaSize), new Float64Array(chromaSize)] as const,
  biases: new Float64Array(2),
  none: new Float64Array(noneCount),
};
const penalty = 2e-4;
const rounds = 250;
// Adam (Kingma & Ba 2015): the features differ much in scale.
const groups = [...model.templates, model.biases, model.none];
const firsts = groups.map((g) => new Float64Array(g.length));
const seconds = groups.map((g) => new Float64Array(g.length));
const scores = new Float64Array(chordStates);
for (let round = 1; round <= rounds; round++) {
  const gradients = groups.map((g) => g.map((w) => penalty * w));
  let loss = 0;
  let rightCount = 0;
  for (const { values, none, right } of beats) {
    for (let kind = 0; kind < 2; kind++) {
      const template = model.templates[kind]!;
      for (let root = 0; root < 12; root++) {
        let score = model.biases[kind]!;
        for (let i = 0; i < chromaSize; i++) {
          score += template[i]! * values[i - (i % 12) + (((i % 12) + root) % 12)]!;
        }
        scores[12 * kind + root] = score;
      }
    }
    scores[noChord] = none.reduce((sum, f, i) => sum + f * model.none[i]!, 0);
    const highest = Math.max(...scores);
    let total = 0;
    for (let s = 0; s < chordStates; s++) total += Math.exp(scores[s]! - highest);
    if (scores[right] === highest) rightCount++;
    loss -= (scores[right]! - highest - Math.log(total)) / beats.length;
    for (let s = 0; s < chordStates; s++) {
      const share = Math.exp(scores[s]! - highest) / total;
      const error = (share - (s === right ? 1 : 0)) / beats.length;
      if (Math.abs(error) < 1e-9) continue;
      if (s === noChord) {
        for (let i = 0; i < noneCount; i++) gradients[3]![i]! += error * none[i]!;
        continue;
      }
      const kind = s < 12 ? 0 : 1;
      const root = s % 12;
      const gradient = gradients[kind]!;
      for (let i = 0; i < chromaSize; i++) {
        gradient[i]! += error * values[i - (i % 12) + (((i % 12) + root) % 12)]!;
      }
      gradients[2]![kind]! += error;
    }
  }
  groups.forEach((group, g) => {
    for (let i = 0; i < group.length; i++) {
      const gradient = gradients[g]![i]!;
      firsts[g]![i] = 0.9 * firsts[g]![i]! + 0.1 * gradient;
      seconds[g]![i] = 0.999 * seconds[g]![i]! + 0.001 * gradient ** 2;
      const first = firsts[g]![i]! / (1 - 0.9 ** round);
      const second = seconds[g]![i]! / (1 - 0.999 ** round);
      group[i]! -= (0.1 * first) / (Math.sqrt(second) + 1e-8);
    }
  });
  if (round % 50 === 0) {
    console.log(`${round}: loss ${loss.toFixed(4)}, beats right ${(rightCount / beats.length).toFixed(3)}`);
  }
}

const list = (numbers: Float64Array) => `[${[...numbers].map((w) => w.toFixed(3)).join(", ")}]`;
const fitted: Record<keyof ChordModel, string> = {
  templates: `[\n${model.templates.map((t) => `    ${list(t)},\n`).join("")}  ]`,
  biases: list(model.biases),
  none: list(model.none),
};
await writeFile(
  path.join(process.cwd(), "src/core/harmony/chordWeights.ts"),
  `/** Fitted by \`npm run fit:chords\`; rows and features of \`ChordModel\`. Not edited by hand. */
// oxfmt-ignore
export const chordWeights = {
${Object.entries(fitted)
  .map(([name, value]) => `  ${name}: ${value},\n`)
  .join("")}};
`,
);

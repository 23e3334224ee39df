/**
 * Fits how far lifted parts stand free, from what the lifting can tell, and writes src/core/lens/freedomModel.ts.
 * Learned from mixes whose parts are known: own songs, and the fitting halves of tracker and MIDI pieces.
 * What is not a part's own adds up in power: a floor, and multiples of what the evidence says.
 */
import { existsSync } from "node:fs";
import { mkdir, readFile, writeFile } from "node:fs/promises";
import path from "node:path";
import { analyse } from "@/core/analysis/analyse";
import { loadFft } from "@/core/dsp/fft";
import { distortionTerms, heardIn, lensParts, lift, type Evidence, type LensPart } from "@/core/lens";
import { stereo } from "@/core/testing/signals";
import { powerToDecibels } from "@/core/units";
import { chance } from "@/demo/random";
import { renderRate } from "@/demo/render";
import { styles } from "@/demo/songs/styles";
import { asKnown, signalToDistortion } from "./material/distortion";
import { midiParts, ownParts, trackerParts, type PartedPiece } from "./material/parts";
import { midiPieces, soundFontNames, trackerPieces } from "./material/pieces";
import { quantile } from "./tables";

const seed = 203;
const piecesOfOthers = 14;
/** Further apart nobody cares. */
const [worst, best] = [-10, 20];
const rounds = 4000;
/** How far a weight may lie from 1, as a power of e. */
const range = [-8, 4] as const;

interface Row {
  source: string;
  part: LensPart;
  evidence: Evidence;
  /** What the part is free by. */
  truth: number;
}

const mean = (values: readonly number[]) => values.reduce((a, b) => a + b, 0) / Math.max(1, values.length);
const clipped = (decibels: number) => Math.max(worst, Math.min(best, decibels));

const folder = path.join(process.cwd(), ".cache", "freedom");

/** Lifted once and kept: the folder is to be cleared when the lens changes. */
async function rowsOf(name: string, make: () => Promise<PartedPiece>): Promise<Row[]> {
  const file = path.join(folder, `${name.replace(/[^\w.-]+/g, "_")}.json`);
  if (existsSync(file)) return JSON.parse(await readFile(file, "utf8")) as Row[];
  const piece = await make();
  const { analysis } = await analyse(stereo(piece.mix[0], piece.mix[1], renderRate));
  const lifted = lift(piece.mix, renderRate, heardIn(analysis));
  const rows = lensParts.flatMap((part): Row[] => {
    const { evidence } = lifted[part];
    // Whether a tracker piece has a bass is not known.
    if (!evidence || (part === "bass" && piece.source === "tracker")) return [];
    const truth = piece.parts[part];
    const free = truth ? signalToDistortion(truth, asKnown(piece, lifted, part)) : worst;
    return [{ source: piece.source, part, evidence, truth: clipped(free) }];
  });
  await writeFile(file, JSON.stringify(rows));
  return rows;
}

const told = ({ evidence }: Row, weights: readonly number[]) =>
  clipped(
    -powerToDecibels(distortionTerms(evidence).reduce((sum, term, i) => sum + weights[i]! * term, 1e-3)),
  );

/** Mean error in dB, every source as much. */
function errorOf(rows: readonly Row[], weights: readonly number[]): number {
  const sources = [...new Set(rows.map(({ source }) => source))];
  return mean(
    sources.map((source) =>
      mean(
        rows.filter((row) => row.source === source).map((row) => Math.abs(told(row, weights) - row.truth)),
      ),
    ),
  );
}

/** Weights by a search at random, ever nearer to the best so far. */
function fitted(rows: readonly Row[]): number[] {
  const c = chance(1);
  const count = distortionTerms(rows[0]!.evidence).length;
  let logs = Array.from({ length: count }, () => -2);
  const weightsOf = (own: readonly number[]) => own.map((x) => (x <= range[0] ? 0 : Math.exp(x)));
  let least = errorOf(rows, weightsOf(logs));
  for (let round = 0; round < rounds; round++) {
    const step = 2 * (1 - round / rounds) + 0.05;
    const tried = logs.map((x) =>
      c.next() < 0.5 ? x : Math.max(range[0], Math.min(range[1], x + c.between(-step, step))),
    );
    const error = errorOf(rows, weightsOf(tried));
    if (error < least) [logs, least] = [tried, error];
  }
  // What is never there has no weight.
  return weightsOf(logs).map((weight, i) =>
    rows.some(({ evidence }) => distortionTerms(evidence)[i]! > 0) ? weight : 0,
  );
}

await loadFft();
await mkdir(folder, { recursive: true });
const rows: Row[] = [];
const fitting = <T extends { half: string }>(pieces: readonly T[]) =>
  pieces.filter(({ half }) => half === "fit").slice(0, piecesOfOthers);
const makers: [name: string, make: () => Promise<PartedPiece>][] = [
  ...styles.map((style): (typeof makers)[number] => [`own ${style}`, () => ownParts(style, seed)]),
  ...fitting(await trackerPieces()).map((piece): (typeof makers)[number] => [
    `tracker ${piece.name}`,
    () => trackerParts(piece),
  ]),
  ...fitting(await midiPieces()).map((piece, i): (typeof makers)[number] => {
    const font = soundFontNames[i % soundFontNames.length]!;
    return [`midi ${piece.name} ${font}`, () => midiParts(piece, font)];
  }),
];
for (const [name, make] of makers) {
  rows.push(...(await rowsOf(name, make)));
  console.error(name);
}
const lines: string[] = [];
for (const part of lensParts) {
  const own = rows.filter((row) => row.part === part);
  const weights = fitted(own);
  const errors = (told_: (row: Row) => number, of: readonly Row[] = own) =>
    of.map((row) => Math.abs(told_(row) - row.truth));
  const inWords = (all: readonly number[]) =>
    `${quantile(all, 0.5).toFixed(1)} (${quantile(all, 0.9).toFixed(1)})`;
  // Held out: each source by what the others say.
  const held = [...new Set(own.map(({ source }) => source))].map((source) => {
    const others = own.filter((row) => row.source !== source);
    const ofOthers = fitted(others.length > 0 ? others : own);
    return `${source} ${inWords(
      errors(
        (row) => told(row, ofOthers),
        own.filter((row) => row.source === source),
      ),
    )}`;
  });
  console.log(
    `${part}: ${own.length}, off by ${inWords(errors((row) => clipped(-powerToDecibels(row.evidence.unsure))))} by the filter alone, ${inWords(errors((row) => told(row, weights)))} fitted, held out ${held.join(", ")}`,
  );
  lines.push(`  ${part}: [${weights.map((weight) => weight.toFixed(4)).join(", ")}],`);
}
await writeFile(
  path.join(process.cwd(), "src/core/lens/freedomModel.ts"),
  `/** Fitted by \`npm run fit:freedom\`: for each part weights of \`distortionTerms\`. Not edited by hand. */
import type { LensPart } from "./parts";

// oxfmt-ignore
export const freedomModel: Record<LensPart, readonly number[]> = {
${lines.join("\n")}
};
`,
);

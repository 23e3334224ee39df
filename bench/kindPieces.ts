/** Kicks and snares of pieces by others, with the hits that are found in them and the sample that each is of. */
import { existsSync } from "node:fs";
import { mkdir, readFile, writeFile } from "node:fs/promises";
import path from "node:path";
import { deserialize, serialize } from "node:v8";
import { analyse } from "@/core/analysis/analyse";
import { analysisVersion } from "@/core/analysis/result";
import { downmix } from "@/core/audio/signal";
import { drumBandGatherer } from "@/core/drums/bands";
import { hearDrums, soundingHits } from "@/core/drums/estimateDrums";
import { strokeTimbres, timbreSize } from "@/core/drums/strokeTimbre";
import { drumsOfTimbres, type DrumsModel } from "@/core/drums/tellDrumsApart";
import { backVoices, type DrumVoice } from "@/core/drums/voices";
import { gridOf } from "@/core/grid/correction";
import { onsetStrength } from "@/core/grid/onset";
import { decodeFile } from "@/server/decoding/decode";
import {
  midiPieces,
  playedTracker,
  playedWhole,
  soundFontNames,
  trackerPieces,
  type Stroke,
} from "./material/pieces";
import type { Half } from "./material/packages";
import { thinned } from "./parts/part";

export const parts = { kick: ["kick"], snare: backVoices } as const satisfies Record<
  string,
  readonly DrumVoice[]
>;
export type Part = keyof typeof parts;
export const partNames = Object.keys(parts) as Part[];

/** Two strokes this near in time are one. */
const reach = 0.03;
export const fewestOfSample = 8;
export const fewestStrokes = 16;

/** Strokes of one part of a piece. */
export interface Heard {
  name: string;
  voices: DrumVoice[];
  times: number[];
  timbres: Float32Array;
  /** Of each stroke the sample that it is of; null where it is none's, or two sound at once. */
  samples: (string | null)[];
  /** How often each sample is struck. */
  struck: Map<string, number>;
}
export type Piece = Record<Part, Heard>;

const folder = path.join(process.cwd(), ".cache", "kinds", String(analysisVersion));

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

/** All pieces of one half, or one in so many of them. */
export async function kindPieces(half: Half, oneIn = 1): Promise<Piece[]> {
  const some = <T extends { half: Half }>(all: readonly T[]) =>
    thinned(
      all.filter((own) => own.half === half),
      oneIn,
    );
  const all: Piece[] = [];
  for (const piece of some(await trackerPieces())) {
    const { mix, truth } = await playedTracker(piece);
    all.push(await heardPiece(piece.name, mix, truth.strokes));
  }
  const midi = some(await midiPieces());
  for (const [i, piece] of midi.entries()) {
    const whole = await playedWhole(piece, soundFontNames[i % soundFontNames.length]!);
    if (whole) all.push(await heardPiece(piece.name, whole.file, whole.strokes));
  }
  return all;
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

/** How drums of one sample, and of several, are told in some pieces. */
export function kindCounts(part: Part, model: DrumsModel, all: readonly Piece[]) {
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
  return { one, several };
}

export const pureShare = ({ known, pure }: { known: number; pure: number }): string =>
  known ? (pure / known).toFixed(2) : "–";

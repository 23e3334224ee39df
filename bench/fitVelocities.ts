/**
 * Fits how hard strokes are from how far the bands rise, and writes src/core/drums/velocityModel.ts.
 * Learned from development songs that are mixed anew, with hits that are moved and struck harder or
 * softer at random, so that no voice is always loud where another sounds, and from pieces by others. Run it after the drum model
 * and the habit model were fitted.
 */
import { existsSync } from "node:fs";
import { mkdir, readFile, writeFile } from "node:fs/promises";
import path from "node:path";
import { deserialize, serialize } from "node:v8";
import { downmix } from "@/core/audio/signal";
import { drumBandGatherer, type DrumBands } from "@/core/drums/bands";
import { hearDrums, soundingHits } from "@/core/drums/estimateDrums";
import { velocityLevel } from "@/core/drums/groove";
import { leastConfidence, type DrumHit } from "@/core/drums/hits";
import { withKinds } from "@/core/drums/kinds";
import {
  velocityFeatures,
  velocityFeatureCount,
  bandGroupCount,
  bandRises,
} from "@/core/drums/velocityEstimation";
import { drumVoices, type DrumVoice } from "@/core/drums/voices";
import { applyBiquad, designBiquad } from "@/core/dsp/biquad";
import { loadFft } from "@/core/dsp/fft";
import type { Grid } from "@/core/grid/grid";
import { onsetStrength } from "@/core/grid/onset";
import { secondsOf } from "@/demo/makeSong";
import { addNoise, mixDown } from "@/demo/mix";
import { chance } from "@/demo/random";
import { renderParts, renderRate } from "@/demo/render";
import { barsOf, straightTimeOf } from "@/demo/song";
import { styles, styleSong } from "@/demo/songs/styles";
import { decodeFile } from "@/server/decoding/decode";
import {
  midiPieces,
  playedTracker,
  playedWhole,
  soundFontNames,
  trackerPieces,
  type Stroke,
} from "./material/pieces";
import { matchedEvents } from "./metrics";
import { solved } from "./linear";

const seeds = [11, 12];
/** Weight of the penalty on large weights, in hits of one song. */
const penalty = 100;
/** Voices in fewer songs than this are left as the network has them. */
const leastSongs = 10;
/** Bands in which a kick has nothing of its own: what rises there belongs to others. */
const kickGroups = 6;

/** What is kept of a piece: nothing that the drum model has to do with. */
interface Kept {
  bands: DrumBands;
  grid: Grid | null;
  truth: { time: number; voice: DrumVoice; velocity: number }[];
}
interface Heard extends Kept {
  hits: DrumHit[];
}

/** A piece with what is heard in it now. */
const heardNow = (kept: Kept): Heard => ({
  ...kept,
  hits: withKinds(soundingHits(hearDrums(kept.bands), kept.grid).hits, kept.bands),
});

const folder = path.join(process.cwd(), ".cache", "velocities");

/** A song whose hits have other velocities and times, heard. */
async function heard(style: string, seed: number): Promise<Heard> {
  const file = path.join(folder, `${style.replaceAll(" ", "-")}-${seed}.bin`);
  if (existsSync(file)) return heardNow(deserialize(await readFile(file)) as Kept);
  const song = styleSong(style, seed);
  const c = chance(seed * 911 + style.length * 13);
  const shifts = new Map<DrumVoice, number>();
  for (const { notes } of song.parts) {
    for (const note of notes) {
      const { voice } = note;
      if (!voice) continue;
      if (!shifts.has(voice)) shifts.set(voice, c.between(-0.015, 0.015));
      note.time = Math.max(0, note.time + shifts.get(voice)!);
      // Half of the hits as the style has them.
      if (c.next() < 0.5) note.velocity = Math.round(c.between(30, 127));
    }
  }
  const mix = mixDown(
    await renderParts(song.parts, secondsOf(song)),
    song.parts.map((part) => ({ ...part.mix, gainDb: part.mix.gainDb + c.between(-3, 3) })),
    { driveDb: c.between(0, 12), ceilingDb: -0.5, tiltDb: c.between(-2, 2) },
  );
  // Some are dull, as after a poor encoder, some are noisy.
  if (c.next() < 0.25) {
    const dull = designBiquad("lowPass", renderRate, c.between(8000, 16000), 0.707);
    for (const samples of mix) for (let k = 0; k < 2; k++) applyBiquad(dull, samples);
  }
  if (c.next() < 0.25) addNoise(mix, c.between(-65, -45), c.next);
  const gatherer = drumBandGatherer(mix[0].length, renderRate);
  onsetStrength(mix, renderRate, undefined, gatherer.add);
  const bands = gatherer.finish();
  const beats = Array.from({ length: barsOf(song) * song.beatsPerBar + 1 }, (_, i) =>
    straightTimeOf(song, i),
  );
  const grid: Grid = { beats, barOne: 0, beatsPerBar: song.beatsPerBar, steady: true, bpm: song.bpm };
  const result: Kept = {
    bands,
    grid,
    truth: song.parts.flatMap(({ notes }) =>
      notes.flatMap(({ time, voice, velocity }) =>
        voice ? [{ time, voice, velocity: velocity / 127 }] : [],
      ),
    ),
  };
  await writeFile(file, serialize(result));
  return heardNow(result);
}

/** A piece by others, heard. */
async function heardPiece(name: string, mix: string, truth: readonly Stroke[]): Promise<Heard> {
  const file = path.join(folder, `${name.replace(/[^\w.-]+/g, "_")}.bin`);
  if (existsSync(file)) return heardNow(deserialize(await readFile(file)) as Kept);
  const decoded = await decodeFile(mix);
  if (!decoded.ok) throw new Error(decoded.refusal.sentence);
  const stereo = downmix(decoded.value.signal);
  const gatherer = drumBandGatherer(stereo[0].length, decoded.value.signal.sampleRate);
  onsetStrength(stereo, decoded.value.signal.sampleRate, undefined, gatherer.add);
  const bands = gatherer.finish();
  const result: Kept = {
    bands,
    grid: null,
    truth: truth.flatMap(({ time, voice, velocity }) =>
      voice === "bass" ? [] : [{ time, voice, velocity }],
    ),
  };
  await writeFile(file, serialize(result));
  return heardNow(result);
}

/** All that is learned from: own songs, and the fitting halves of pieces by others. */
async function* everything(): AsyncGenerator<{ fold: number; own: Heard }> {
  for (const seed of seeds) for (const style of styles) yield { fold: seed, own: await heard(style, seed) };
  let count = 0;
  for (const piece of (await midiPieces()).filter(({ half }) => half === "fit")) {
    const font = soundFontNames[count++ % soundFontNames.length]!;
    const whole = await playedWhole(piece, font);
    if (whole)
      yield {
        fold: seeds[count % seeds.length]!,
        own: await heardPiece(piece.name, whole.file, whole.strokes),
      };
  }
  for (const piece of (await trackerPieces()).filter(({ half }) => half === "fit")) {
    const { mix, truth } = await playedTracker(piece);
    yield { fold: seeds[count++ % seeds.length]!, own: await heardPiece(piece.name, mix, truth.strokes) };
  }
}

interface Row {
  features: Float64Array;
  /** True level against the mean of the voice, dB. */
  level: number;
}

/** Rows of one voice in one song; none with too few hits. */
function rowsOf({ hits, bands, truth }: Heard, voice: DrumVoice): Row[] {
  const own = hits.filter((hit) => hit.voice === voice && hit.confidence >= leastConfidence);
  const real = truth.filter((hit) => hit.voice === voice).sort((a, b) => a.time - b.time);
  const pairs = matchedEvents(
    real.map(({ time }) => time),
    own.map(({ time }) => time),
    0.05,
  );
  if (pairs.length < 12) return [];
  const found = pairs.map(([, k]) => own[k]!);
  const levels = pairs.map(([i]) => velocityLevel(real[i]!.velocity));
  // Strokes that are all as hard teach nothing.
  if (Math.max(...levels) - Math.min(...levels) < 1) return [];
  const mean = levels.reduce((a, b) => a + b, 0) / levels.length;
  return velocityFeatures(
    found.map(({ velocity }) => velocityLevel(velocity)),
    bandRises(
      bands,
      found.map(({ time }) => time),
    ),
    found.map(({ kind }) => kind ?? 0),
  ).map((features, i) => ({ features, level: levels[i]! - mean }));
}

const predicted = ({ features }: Row, weights: readonly number[]) =>
  features.reduce((sum, value, i) => sum + value * weights[i]!, 0);

/** Linear regression with a quadratic penalty; widened so that strokes vary as much as the true ones do. */
function fit(songs: readonly (readonly Row[])[], groups: number): number[] {
  const isUsed = (i: number) => i === 0 || (i - 1) % bandGroupCount < groups;
  const used = Array.from({ length: velocityFeatureCount }, (_, i) => i).filter(isUsed);
  const matrix = used.map((i) => used.map((k) => (i === k ? penalty : 0)));
  const right = new Array<number>(used.length).fill(0);
  for (const rows of songs) {
    // A song with many hits says more, but not in proportion.
    const weight = 1 / Math.sqrt(rows.length);
    for (const { features, level } of rows) {
      used.forEach((i, row) => {
        right[row]! += weight * features[i]! * level;
        used.forEach((k, column) => (matrix[row]![column]! += weight * features[i]! * features[k]!));
      });
    }
  }
  const solution = solved(matrix, right);
  const weights = Array.from({ length: velocityFeatureCount }, (_, i) =>
    isUsed(i) ? solution[used.indexOf(i)]! : 0,
  );
  let real = 0;
  let found = 0;
  for (const row of songs.flat()) {
    real += row.level ** 2;
    found += predicted(row, weights) ** 2;
  }
  const wider = Math.sqrt(real / found);
  return weights.map((w) => w * wider);
}

const correlation = (rows: readonly Row[], of: (row: Row) => number): number => {
  let both = 0;
  let a = 0;
  let b = 0;
  for (const row of rows) {
    both += of(row) * row.level;
    a += of(row) ** 2;
    b += row.level ** 2;
  }
  return both / Math.sqrt(a * b + 1e-9);
};
const mean = (values: readonly number[]) => values.reduce((a, b) => a + b, 0) / values.length;

await loadFft();
await mkdir(folder, { recursive: true });
const songs: { seed: number; rows: Record<DrumVoice, Row[]> }[] = [];
for await (const { fold, own } of everything()) {
  songs.push({
    seed: fold,
    rows: Object.fromEntries(drumVoices.map((voice) => [voice, rowsOf(own, voice)])) as Record<
      DrumVoice,
      Row[]
    >,
  });
}
const lines: string[] = [];
for (const voice of drumVoices) {
  const groups = voice === "kick" ? kickGroups : bandGroupCount;
  const own = songs.filter(({ rows }) => rows[voice].length > 0);
  if (own.length < leastSongs) continue;
  // Held out: the songs of one seed, heard with what the others say.
  const held = own.map(({ seed, rows }) => {
    const weights = fit(
      own.filter((other) => other.seed !== seed).map((other) => other.rows[voice]),
      groups,
    );
    return correlation(rows[voice], (row) => predicted(row, weights));
  });
  const network = own.map(({ rows }) => correlation(rows[voice], ({ features }) => features[0]!));
  console.log(
    `${voice}: ${own.length} songs, correlation within a song ${mean(network).toFixed(3)} by the network, ${mean(held).toFixed(3)} held out`,
  );
  const weights = fit(
    own.map(({ rows }) => rows[voice]),
    groups,
  );
  lines.push(`  ${voice}: [${weights.map((w) => w.toFixed(3)).join(", ")}],`);
}
await writeFile(
  path.join(process.cwd(), "src/core/drums/velocityModel.ts"),
  `/** Fitted by \`npm run fit:velocities\`: for each voice weights of the features of strokes. Not edited by hand. */
import type { DrumVoice } from "./voices";

// oxfmt-ignore
export const velocityModel: Partial<Record<DrumVoice, readonly number[]>> = {
${lines.join("\n")}
};
`,
);

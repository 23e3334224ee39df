/** What tempo and bars are found from, for pieces of all sources; kept, since it takes seconds a piece. */
import { createHash } from "node:crypto";
import { existsSync } from "node:fs";
import { mkdir, readFile, writeFile } from "node:fs/promises";
import path from "node:path";
import { deserialize, serialize } from "node:v8";
import { firstSoundOf } from "@/core/audio/silence";
import { downmix } from "@/core/audio/signal";
import { drumBandGatherer } from "@/core/drums/bands";
import { drumActivations, strokeCurves } from "@/core/drums/network";
import { onsetStrength, type OnsetStrength } from "@/core/grid/onset";
import type { StrokeCurves } from "@/core/grid/strokeCurves";
import { styles } from "@/demo/songs/styles";
import { decodeFile } from "@/server/decoding/decode";
import { midiGrid, trackerGrid, type GridTruth } from "./material/gridTruth";
import {
  midiPieces,
  playedMidi,
  playedTracker,
  playedWhole,
  soundFontNames,
  trackerPieces,
} from "./material/pieces";
import type { Half } from "./material/packages";
import { developmentSongs } from "./songs";

/** A piece with its beats. */
export interface GridPiece {
  name: string;
  source: "own" | "midi" | "tracker";
  /** What is held out together: a style, or a piece through all fonts. */
  group: string;
  file: string;
  truth: GridTruth;
}

export interface GridInputs {
  onsets: OnsetStrength;
  strokes: StrokeCurves;
  firstSound: number;
  length: number;
}

/** Pieces of all sources of one half; of the own songs these seeds. */
export async function gridPieces(half: Half, seeds: readonly number[]): Promise<GridPiece[]> {
  const pieces: GridPiece[] = [];
  for (const { name, style, file, truth } of await developmentSongs(seeds, styles)) {
    const { beats, downbeats, tempo } = truth;
    pieces.push({ name, source: "own", group: style, file, truth: { beats, downbeats, bpm: tempo.bpm } });
  }
  for (const piece of (await midiPieces()).filter((own) => own.half === half)) {
    const own = { source: "midi", group: piece.name } as const;
    for (const font of soundFontNames) {
      const whole = await playedWhole(piece, font);
      if (!whole) continue;
      const truth = await midiGrid(piece, whole.seconds);
      if (!truth) break;
      pieces.push({ ...own, name: `${piece.name} (${font})`, file: whole.file, truth });
      // Once without its drums, as songs without a kit have it.
      const played = font === "tim" ? await playedMidi(piece, font) : null;
      if (played) pieces.push({ ...own, name: `${piece.name} (no drums)`, file: played.music, truth });
    }
  }
  for (const piece of (await trackerPieces()).filter((own) => own.half === half)) {
    const { mix, truth } = await playedTracker(piece);
    pieces.push({
      name: piece.name,
      source: "tracker",
      group: piece.name,
      file: mix,
      truth: trackerGrid(truth),
    });
  }
  return pieces;
}

const folder = path.join(process.cwd(), ".cache", "grid-inputs");

export async function gridInputs({ file }: GridPiece): Promise<GridInputs> {
  // The models that hear strokes are part of the question.
  const asked = createHash("sha1").update(file);
  for (const model of ["model", "whitenedModel"])
    asked.update(await readFile(path.join(process.cwd(), `src/core/drums/${model}.ts`)));
  const key = asked.digest("hex");
  const kept = path.join(folder, `${key}.bin`);
  if (existsSync(kept)) return deserialize(await readFile(kept)) as GridInputs;
  const decoded = await decodeFile(file);
  if (!decoded.ok) throw new Error(`${file}: ${decoded.refusal.sentence}`);
  const { signal } = decoded.value;
  const stereo = downmix(signal);
  const gatherer = drumBandGatherer(stereo[0].length, signal.sampleRate);
  const onsets = onsetStrength(stereo, signal.sampleRate, undefined, gatherer.add);
  const inputs: GridInputs = {
    onsets,
    strokes: strokeCurves(drumActivations(gatherer.finish())),
    firstSound: firstSoundOf(stereo, signal.sampleRate) ?? 0,
    length: signal.channels[0]!.length / signal.sampleRate,
  };
  await mkdir(folder, { recursive: true });
  await writeFile(kept, serialize(inputs));
  return inputs;
}

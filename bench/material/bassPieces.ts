/** Songs and pieces whose bass line is known. */
import { readFile } from "node:fs/promises";
import type { Signal } from "@/core/audio/signal";
import { Midi } from "@/core/formats/midiFile";
import { developmentMaster, makeSong } from "@/demo/makeSong";
import type { Song } from "@/demo/song";
import { styleSong } from "@/demo/songs/styles";
import { decodeFile } from "@/server/decoding/decode";
import { bassOfMidi, type BassTruth, type TrueBassNote } from "./bassTruth";
import type { Half } from "./packages";
import { midiPieces, playedWhole, soundFontNames } from "./pieces";

export interface BassPiece {
  source: string;
  name: string;
  signal: Signal;
  notes: BassTruth["notes"];
}

/** Pieces with fewer bass notes say little. */
export const fewestNotes = 20;
/** Where another part sounds beneath more of the notes than this, the bass part is not what one hears lowest. */
export const mostBeneath = 0.25;

/** The bass line of an own song, in order. */
export const bassOfSong = ({ parts }: Song): TrueBassNote[] =>
  parts
    .filter(({ role }) => role === "bass")
    .flatMap((part) => part.notes.map(({ time, duration, pitch }) => ({ time, end: time + duration, pitch })))
    .sort((a, b) => a.time - b.time);

/** Own songs of a seed, and MIDI pieces by others of one half through sound fonts by turns. */
export async function* bassPieces(
  styles: readonly string[],
  seed: number,
  half: Half,
  oneIn = 1,
): AsyncGenerator<BassPiece> {
  for (const style of styles) {
    const song = styleSong(style, seed);
    const notes = bassOfSong(song);
    if (notes.length < fewestNotes) continue;
    yield { source: "own songs", name: style, signal: await makeSong(song, developmentMaster(seed)), notes };
  }
  const pieces = (await midiPieces())
    .filter((piece) => piece.half === half)
    .filter((_, i) => i % oneIn === 0);
  for (const [i, piece] of pieces.entries()) {
    const { notes, beneath } = bassOfMidi(new Midi(await readFile(piece.file)));
    if (notes.length < fewestNotes || beneath > mostBeneath) continue;
    const font = soundFontNames[i % soundFontNames.length]!;
    const whole = await playedWhole(piece, font);
    const decoded = whole && (await decodeFile(whole.file));
    if (decoded?.ok)
      yield {
        source: `MIDI, ${font}`,
        name: piece.name,
        signal: decoded.value.signal,
        notes: notes.filter(({ time }) => time < whole!.seconds - 0.5),
      };
  }
}

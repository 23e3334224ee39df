/** The bass line: whether its notes are found, at their pitch and in their octave, by source. */
import { analyse } from "@/core/analysis/analyse";
import type { Signal } from "@/core/audio/signal";
import { developmentMaster, makeSong } from "@/demo/makeSong";
import { styleSong } from "@/demo/songs/styles";
import { decodeFile } from "@/server/decoding/decode";
import { midiPieces, playedWhole, soundFontNames } from "../material/pieces";
import { mean, table } from "../tables";
import { firstSeed, type PartOptions, type Sections } from "./part";

const within = 0.05;
/** Pieces with fewer bass notes say little. */
const fewestNotes = 20;
const mostPieces = 24;

interface Row {
  source: string;
  name: string;
  onset: number;
  pitch: number;
  octave: number;
}

async function measured(
  source: string,
  name: string,
  signal: Signal,
  truth: readonly { time: number; pitch: number }[],
): Promise<Row | null> {
  if (truth.length < fewestNotes) return null;
  const { analysis } = await analyse(signal);
  const pairs = (isRight: (midi: number, pitch: number) => boolean) => {
    const used = new Set<number>();
    let count = 0;
    for (const { time, pitch } of truth) {
      const found = analysis.bass.findIndex(
        (own, i) => !used.has(i) && Math.abs(own.start - time) <= within && isRight(own.midi, pitch),
      );
      if (found < 0) continue;
      used.add(found);
      count++;
    }
    return count;
  };
  const f = (count: number) => (2 * count) / (truth.length + analysis.bass.length);
  const right = pairs((midi, pitch) => midi === pitch);
  const inAnyOctave = pairs((midi, pitch) => (midi - pitch) % 12 === 0);
  const row = {
    source,
    name,
    onset: f(pairs(() => true)),
    pitch: f(right),
    octave: inAnyOctave > 0 ? right / inAnyOctave : NaN,
  };
  console.error(
    `${source} ${name}: ${row.onset.toFixed(2)} ${row.pitch.toFixed(2)} ${row.octave.toFixed(2)}`,
  );
  return row;
}

export async function lowEndSections({ styles }: PartOptions): Promise<Sections> {
  const rows: (Row | null)[] = [];
  for (const style of styles) {
    const song = styleSong(style, firstSeed);
    const truth = song.parts
      .filter(({ role }) => role === "bass")
      .flatMap(({ notes }) => notes.map(({ time, pitch }) => ({ time, pitch })))
      .sort((a, b) => a.time - b.time);
    rows.push(await measured("own songs", style, await makeSong(song, developmentMaster(firstSeed)), truth));
  }
  const pieces = (await midiPieces()).filter(({ half }) => half === "measure").slice(0, mostPieces);
  for (const [i, piece] of pieces.entries()) {
    const font = soundFontNames[i % soundFontNames.length]!;
    const whole = await playedWhole(piece, font);
    if (!whole) continue;
    const decoded = await decodeFile(whole.file);
    if (!decoded.ok) continue;
    const truth = whole.strokes.flatMap(({ time, voice, pitch }) =>
      voice === "bass" && pitch !== undefined ? [{ time, pitch }] : [],
    );
    rows.push(await measured(`MIDI, ${font}`, piece.name, decoded.value.signal, truth));
  }
  const known = rows.filter((row) => row !== null);
  const sources = [...new Set(known.map(({ source }) => source))];
  return {
    "Bass line": `Notes of the bass part, which nothing of the pitch reading was fitted on but on eight own songs of another seed. F-measure of beginnings at ±50 ms; the same with the right pitch; of notes with the right name, the share in the right octave. Means over pieces with at least ${fewestNotes} notes. Targets: 0.85 with pitch, 0.95 in the right octave.\n\n${table(
      ["source", "pieces", "beginnings", "with pitch", "right octave"],
      sources.map((source) => {
        const own = known.filter((row) => row.source === source);
        return [
          source,
          own.length,
          mean(own.map(({ onset }) => onset)),
          mean(own.map(({ pitch }) => pitch)),
          mean(own.map(({ octave }) => octave).filter((value) => !Number.isNaN(value))),
        ];
      }),
    )}`,
  };
}

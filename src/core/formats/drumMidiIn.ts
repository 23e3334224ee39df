/** A drum part from a Standard MIDI File (type 0 or 1) of any program. */
import { voiceOfNote } from "../drums/generalMidi";
import type { ImportedPattern } from "../drums/correction";
import type { DrumVoice } from "../drums/voices";
import { refuse, success, type Outcome } from "../outcome";
import { bpmRange } from "../ranges";
import type { Bpm } from "../units";
import { Midi, type MidiFile } from "./midiFile";

const { ceil, max, min } = Math;

/** A note number of the file, how often it is struck, and the voice that it is taken for. */
export interface ReadNote {
  note: number;
  count: number;
  /** By the map of General MIDI; null where that has none. */
  voice: DrumVoice | null;
}

export interface ReadDrumPart {
  /** Notes by number. */
  notes: ReadNote[];
  /** In quarters from the beginning of the file. */
  hits: { quarter: number; note: number; velocity: number }[];
  /** Whole bars of the file's own metre, in quarters. */
  lengthQuarters: number;
  /** As the file says; null where it says nothing. */
  bpm: Bpm | null;
  /** Whether a drum channel was found; else all notes were taken. */
  fromDrumChannel: boolean;
}

const longestFile = 5_000_000;
/** Bars from 1/8 to 16/4, in quarters. */
const [shortestBar, longestBar] = [0.5, 16];
const drumChannel = 9;

const asText = (bytes: Uint8Array, at: number) => String.fromCharCode(...bytes.subarray(at, at + 4));

/** A sentence where the chunks of the file do not hold together. */
function faultOf(bytes: Uint8Array): Outcome<never> | null {
  const again = "Export the drum part again as a Standard MIDI File (.mid), type 0 or 1.";
  if (bytes.length > longestFile)
    return refuse("too-large", "This MIDI file is over 5 MB.", "Export the drum part alone.");
  if (bytes.length < 14 || asText(bytes, 0) !== "MThd") {
    return refuse("bad-request", "This is not a MIDI file.", again);
  }
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (view.getUint32(4) < 6) return refuse("bad-request", "The head of this MIDI file is damaged.", again);
  if (view.getUint16(8) > 1) {
    return refuse(
      "bad-request",
      "This MIDI file holds patterns that do not belong together (type 2).",
      again,
    );
  }
  if (view.getUint16(12) >= 0x8000 || view.getUint16(12) === 0) {
    return refuse("bad-request", "This MIDI file counts in film frames, not in beats.", again);
  }
  let at = 8 + view.getUint32(4);
  let tracks = 0;
  while (at + 8 <= bytes.length) {
    if (asText(bytes, at) === "MTrk") tracks++;
    at += 8 + view.getUint32(at + 4);
  }
  if (tracks === 0 || at > bytes.length) {
    return refuse("bad-request", "This MIDI file is cut off or damaged.", again);
  }
  return null;
}

/** Length of a bar of a metre; of four quarters where the file names one that cannot be. */
function quartersOfBar([beats, unit]: readonly number[] = []): number {
  const quarters = ((beats ?? 4) * 4) / (unit ?? 4);
  return quarters >= shortestBar && quarters <= longestBar ? quarters : 4;
}

/** Reads the notes of the drum channel, or all notes where there is none. */
export function readDrumMidi(bytes: Uint8Array): Outcome<ReadDrumPart> {
  const fault = faultOf(bytes);
  if (fault) return fault;
  let midi: MidiFile;
  try {
    midi = new Midi(bytes);
  } catch {
    // The package says what it stumbled over in terms of bytes, which helps nobody.
    return refuse(
      "bad-request",
      "This MIDI file is damaged.",
      "Export the drum part again as a Standard MIDI File (.mid), type 0 or 1.",
    );
  }
  const { ppq, tempos, timeSignatures } = midi.header;
  const drums = midi.tracks.filter(({ channel, notes }) => channel === drumChannel && notes.length > 0);
  const tracks = drums.length > 0 ? drums : midi.tracks.filter(({ notes }) => notes.length > 0);
  const hits = tracks
    .flatMap(({ notes }) =>
      notes.map(({ ticks, midi: note, velocity }) => ({ quarter: ticks / ppq, note, velocity })),
    )
    .filter(({ quarter, velocity }) => Number.isFinite(quarter) && velocity > 0)
    .sort((a, b) => a.quarter - b.quarter);
  if (hits.length === 0) {
    return refuse("bad-request", "This MIDI file holds no notes.", "Choose the file of the drum part.");
  }
  const counts = new Map<number, number>();
  for (const { note } of hits) counts.set(note, (counts.get(note) ?? 0) + 1);
  const barQuarters = quartersOfBar(timeSignatures[0]?.timeSignature);
  const ends = tracks.map(({ endOfTrackTicks }) => (endOfTrackTicks ?? 0) / ppq);
  const last = hits.at(-1)!.quarter;
  // An end that lies a hair behind a bar line, or far behind the last hit, says nothing of the length.
  const end = max(...ends) > last + 4 * barQuarters ? last + 0.01 : max(last + 0.01, ...ends);
  return success({
    notes: [...counts]
      .map(([note, count]) => ({ note, count, voice: voiceOfNote(note) }))
      .sort((a, b) => a.note - b.note),
    hits,
    lengthQuarters: max(1, ceil(end / barQuarters - 0.02)) * barQuarters,
    bpm: bpmRange.safeParse(tempos[0]?.bpm).data ?? null,
    fromDrumChannel: drums.length > 0,
  });
}

/** Laid over bars of a grid, each note number as the voice that was chosen for it; null leaves it out. */
export function asPattern(
  { hits, lengthQuarters }: ReadDrumPart,
  voices: ReadonlyMap<number, DrumVoice | null>,
  place: { name: string; firstBar: number; repeats: boolean; quartersPerBeat: number },
): ImportedPattern {
  const { name, firstBar, repeats, quartersPerBeat } = place;
  return {
    name,
    firstBar,
    repeats,
    lengthBeats: lengthQuarters / quartersPerBeat,
    hits: hits.flatMap(({ quarter, note, velocity }) => {
      const voice = voices.get(note) ?? null;
      return voice ? [{ beat: quarter / quartersPerBeat, voice, velocity: min(1, max(0.01, velocity)) }] : [];
    }),
  };
}

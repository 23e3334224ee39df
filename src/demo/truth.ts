/** What a generated song is known to contain, in the shape of the command line's output. */
import type { DrumVoice } from "@/core/drums/voices";
import { barsOf, sectionSpans, straightTimeOf, type ChordSpan, type PartRole, type Song } from "./song";

export interface SongTruth {
  title: string;
  artist: string;
  style: string;
  steady: boolean;
  tempo: { bpm: number; beatsPerBar: number };
  beats: number[];
  downbeats: number[];
  key: { tonic: string; mode: "major" | "minor" };
  chords: { start: number; end: number; label: string }[];
  sections: { start: number; end: number; label: string }[];
  drums: {
    swingPercent: number;
    swingOf: 8 | 16;
    hits: { time: number; voice: DrumVoice; velocity: number }[];
  };
}

/** The chords as they can be heard: none where no pitched part plays. */
function soundingChords(song: Song): Pick<ChordSpan, "startBeat" | "beats" | "label">[] {
  const pitched = song.parts.filter((part) => part.sound !== "drums").flatMap((part) => part.notes);
  const result: Pick<ChordSpan, "startBeat" | "beats" | "label">[] = [];
  for (const { startBeat, beats, label } of song.chords) {
    const [from, to] = [straightTimeOf(song, startBeat), straightTimeOf(song, startBeat + beats)];
    const sounds = pitched.some(({ time, duration }) => time < to - early && time + duration > from + early);
    const last = result.at(-1);
    if (!sounds && last?.label === "N") last.beats += beats;
    else result.push({ startBeat, beats, label: sounds ? label : "N" });
  }
  return result;
}

/** Notes are played up to so much early or late: seconds. */
const early = 0.06;

export function truthOf(song: Song): SongTruth {
  const beatCount = barsOf(song) * song.beatsPerBar;
  const beats = Array.from({ length: beatCount }, (_, beat) => straightTimeOf(song, beat));
  const span = (startBeat: number, length: number) => ({
    start: straightTimeOf(song, startBeat),
    end: straightTimeOf(song, startBeat + length),
  });
  return {
    title: song.title,
    artist: song.artist,
    style: song.style,
    steady: song.drift === 0,
    tempo: { bpm: song.bpm, beatsPerBar: song.beatsPerBar },
    beats,
    downbeats: beats.filter((_, beat) => beat % song.beatsPerBar === 0),
    key: { tonic: song.tonic, mode: song.mode },
    chords: soundingChords(song).map((c) => ({ ...span(c.startBeat, c.beats), label: c.label })),
    sections: sectionSpans(song).map((s) => ({ ...span(s.startBeat, s.beats), label: s.name })),
    drums: {
      swingPercent: song.swing.percent,
      swingOf: song.swing.of,
      hits: song.parts
        .flatMap((p) => p.notes)
        .flatMap((n) => (n.voice ? [{ time: n.time, voice: n.voice, velocity: n.velocity / 127 }] : []))
        .sort((a, b) => a.time - b.time),
    },
  };
}

/** Which groups of parts play in each section, in more than a note or two. */
export function rolesIn(song: Song): PartRole[][] {
  return sectionSpans(song).map(({ startBeat, beats }) => {
    const [from, to] = [straightTimeOf(song, startBeat), straightTimeOf(song, startBeat + beats)];
    const plays = song.parts.filter(
      ({ notes }) => notes.filter(({ time }) => time >= from - early && time < to - early).length > 2,
    );
    return [...new Set(plays.flatMap(({ role }) => (role ? [role] : [])))];
  });
}

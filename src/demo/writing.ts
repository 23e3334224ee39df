/** Small tools for writing parts: drum patterns as text, chords, bass lines, comping, melodies. */
import type { DrumVoice } from "@/core/drums/voices";
import { sectionSpans, timeOf, type ChordSpan, type Part, type PartMix, type Song } from "./song";

const pitchClasses = ["C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B"];
const flats: Record<string, string> = { Db: "C#", Eb: "D#", Gb: "F#", Ab: "G#", Bb: "A#" };

/** Pitch class 0–11 of a note name with ♯ or ♭ written # or b. */
export const pitchClass = (name: string): number => pitchClasses.indexOf(flats[name] ?? name);

/** General MIDI percussion map (General MIDI level 1), the notes used here. */
const drumNotes: Record<string, { note: number; voice: DrumVoice }> = {
  kick: { note: 36, voice: "kick" },
  deepKick: { note: 35, voice: "kick" },
  snare: { note: 38, voice: "snare" },
  electricSnare: { note: 40, voice: "snare" },
  clap: { note: 39, voice: "clap" },
  rim: { note: 37, voice: "rim" },
  hat: { note: 42, voice: "hat" },
  pedalHat: { note: 44, voice: "hat" },
  openHat: { note: 46, voice: "openHat" },
  lowTom: { note: 45, voice: "tom" },
  highTom: { note: 50, voice: "tom" },
  crash: { note: 49, voice: "cymbal" },
  ride: { note: 51, voice: "cymbal" },
  mutedConga: { note: 62, voice: "perc" },
  openConga: { note: 63, voice: "perc" },
  lowConga: { note: 64, voice: "perc" },
  shaker: { note: 82, voice: "perc" },
  tambourine: { note: 54, voice: "perc" },
  cowbell: { note: 56, voice: "perc" },
};

/** Loudness of the letters of a drum pattern. */
const velocities: Record<string, number> = { X: 116, x: 96, o: 66, ",": 40 };

/** Adds a part, or returns the one already there under this name. */
export function part(song: Song, name: string, sound: number | "drums", mix: Partial<PartMix> = {}): Part {
  const known = song.parts.find((p) => p.name === name);
  if (known) return known;
  const made: Part = { name, sound, notes: [], mix: { gainDb: 0, pan: 0, room: 0.1, ...mix } };
  song.parts.push(made);
  return made;
}

/** In which sections something plays: all, or those whose names begin with one of these. */
export type Where = "all" | readonly string[];

/** Spans in beats of the sections named, or of all. */
export function spansOf(song: Song, where: Where) {
  return sectionSpans(song).filter(
    (span) => where === "all" || where.some((name) => span.name.startsWith(name)),
  );
}

/**
 * Writes a drum pattern into sections. Each string is one bar; its length is the number of steps
 * in the bar; bars are repeated to fill the section.
 */
export function drums(
  song: Song,
  into: Part,
  sound: string,
  where: Where,
  bars: readonly string[],
  lateSeconds = 0,
): void {
  const { note, voice } = drumNotes[sound]!;
  into.role = "drums";
  for (const span of spansOf(song, where)) {
    for (let bar = 0; bar * song.beatsPerBar < span.beats; bar++) {
      const pattern = bars[bar % bars.length]!;
      for (let step = 0; step < pattern.length; step++) {
        const velocity = velocities[pattern[step]!];
        if (velocity === undefined) continue;
        const beat = span.startBeat + bar * song.beatsPerBar + (step * song.beatsPerBar) / pattern.length;
        into.notes.push({
          time: Math.max(0, timeOf(song, beat) + lateSeconds + song.chance.spread(song.looseness.seconds)),
          duration: 0.25,
          pitch: note,
          velocity: loose(song, velocity),
          voice,
        });
      }
    }
  }
}

const loose = (song: Song, velocity: number): number =>
  Math.max(8, Math.min(127, Math.round(velocity * (1 + song.chance.spread(song.looseness.velocity)))));

const qualities: Record<string, { intervals: number[]; harte: string }> = {
  "": { intervals: [0, 4, 7], harte: "maj" },
  m: { intervals: [0, 3, 7], harte: "min" },
  7: { intervals: [0, 4, 7, 10], harte: "7" },
  maj7: { intervals: [0, 4, 7, 11], harte: "maj7" },
  m7: { intervals: [0, 3, 7, 10], harte: "min7" },
  sus4: { intervals: [0, 5, 7], harte: "sus4" },
  dim: { intervals: [0, 3, 6], harte: "dim" },
};

/**
 * Lays a chord loop over sections. A chord is written as semitones above the tonic and a quality:
 * `0m`, `8`, `3maj7`.
 */
export function harmony(song: Song, where: Where, loop: readonly string[], beatsEach: number): void {
  const tonic = pitchClass(song.tonic);
  for (const span of spansOf(song, where)) {
    for (let i = 0; i * beatsEach < span.beats; i++) {
      const [, degree, quality] = /^(\d+)(.*)$/.exec(loop[i % loop.length]!)!;
      const root = (tonic + Number(degree)) % 12;
      const { intervals, harte } = qualities[quality!]!;
      song.chords.push({
        startBeat: span.startBeat + i * beatsEach,
        beats: Math.min(beatsEach, span.beats - i * beatsEach),
        label: `${pitchClasses[root]}:${harte}`,
        root,
        intervals,
      });
    }
  }
  song.chords.sort((a, b) => a.startBeat - b.startBeat);
}

export const chordAt = (song: Song, beat: number): ChordSpan | undefined =>
  song.chords.find((c) => beat >= c.startBeat - 1e-6 && beat < c.startBeat + c.beats - 1e-6);

/** Lowest note of a pitch class at or above a MIDI note. */
const atOrAbove = (pitchClassWanted: number, lowest: number): number =>
  lowest + ((((pitchClassWanted - lowest) % 12) + 12) % 12);

/** Walks over the steps of a one-bar pattern in sections. */
function eachStep(
  song: Song,
  where: Where,
  bars: readonly string[],
  visit: (beat: number, letter: string, stepBeats: number) => void,
): void {
  for (const span of spansOf(song, where)) {
    for (let bar = 0; bar * song.beatsPerBar < span.beats; bar++) {
      const pattern = bars[bar % bars.length]!;
      const stepBeats = song.beatsPerBar / pattern.length;
      for (let step = 0; step < pattern.length; step++) {
        if (pattern[step] === ".") continue;
        visit(span.startBeat + bar * song.beatsPerBar + step * stepBeats, pattern[step]!, stepBeats);
      }
    }
  }
}

function sound(song: Song, into: Part, beat: number, beats: number, pitch: number, velocity: number): void {
  const time = Math.max(0, timeOf(song, beat) + song.chance.spread(song.looseness.seconds));
  const duration = Math.max(0.05, timeOf(song, beat + beats) - timeOf(song, beat));
  into.notes.push({ time, duration, pitch, velocity: loose(song, velocity) });
}

/** Bass from chord roots: `1` root, `8` octave above, `5` fifth; `lengthSteps` long. */
export function bass(
  song: Song,
  into: Part,
  where: Where,
  bars: readonly string[],
  lengthSteps = 1,
  lowest = 28,
): void {
  into.role = "bass";
  eachStep(song, where, bars, (beat, letter, stepBeats) => {
    const chord = chordAt(song, beat);
    if (!chord) return;
    const offset = letter === "8" ? 12 : letter === "5" ? 7 : 0;
    sound(song, into, beat, stepBeats * lengthSteps * 0.92, atOrAbove(chord.root, lowest) + offset, 98);
  });
}

/** Chord hits in a rhythm; letters are the velocities of drum patterns. */
export function comp(
  song: Song,
  into: Part,
  where: Where,
  bars: readonly string[],
  lengthSteps = 1,
  lowest = 57,
): void {
  into.role = "chords";
  eachStep(song, where, bars, (beat, letter, stepBeats) => {
    const chord = chordAt(song, beat);
    if (!chord) return;
    for (const interval of chord.intervals) {
      const pitch = atOrAbove((chord.root + interval) % 12, lowest);
      sound(song, into, beat, stepBeats * lengthSteps * 0.95, pitch, (velocities[letter] ?? 80) * 0.8);
    }
  });
}

/** Each chord held for its whole length. */
export function pad(song: Song, into: Part, where: Where, lowest = 57, velocity = 70): void {
  into.role = "chords";
  const spans = spansOf(song, where);
  for (const chord of song.chords) {
    if (!spans.some((s) => chord.startBeat >= s.startBeat && chord.startBeat < s.startBeat + s.beats))
      continue;
    for (const interval of chord.intervals) {
      const pitch = atOrAbove((chord.root + interval) % 12, lowest);
      sound(song, into, chord.startBeat, chord.beats * 0.98, pitch, velocity);
    }
  }
}

/** A made-up melody: chord tones and scale steps over a rhythm, the same phrase each four bars. */
export function melody(
  song: Song,
  into: Part,
  where: Where,
  bars: readonly string[],
  lengthSteps = 2,
  lowest = 69,
): void {
  into.role = "lead";
  const scale = song.mode === "minor" ? [0, 2, 3, 5, 7, 8, 10] : [0, 2, 4, 5, 7, 9, 11];
  const tonic = pitchClass(song.tonic);
  const phrase = new Map<string, number>();
  eachStep(song, where, bars, (beat, letter, stepBeats) => {
    const chord = chordAt(song, beat);
    if (!chord) return;
    const key = `${chord.label}@${(beat % (song.beatsPerBar * 4)).toFixed(3)}`;
    let pitch = phrase.get(key);
    if (pitch === undefined) {
      const strong = Math.abs(beat - Math.round(beat)) < 1e-6;
      const wanted = strong
        ? (chord.root + song.chance.pick(chord.intervals)) % 12
        : (tonic + song.chance.pick(scale)) % 12;
      pitch = atOrAbove(wanted, lowest + (song.chance.next() < 0.3 ? 5 : 0));
      phrase.set(key, pitch);
    }
    sound(song, into, beat, stepBeats * lengthSteps * 0.95, pitch, velocities[letter] ?? 90);
  });
}

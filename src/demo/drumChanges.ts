/** Known differences of drums: what a recreation may get wrong, made on purpose. Each changes a song in place and says what it did. */
import type { DrumVoice } from "@/core/drums/voices";
import { barsOf, straightTimeOf, timeOf, type Note, type Part, type Song } from "./song";

const { abs, max, round } = Math;

const drumParts = (song: Song): Part[] => song.parts.filter(({ sound }) => sound === "drums");

/** Sixteenths, in 6/8 too, that notes are written on at the finest, in steps to the beat. */
const finest = 24;

/** The written place in beats that a note was played for, and how far off it is. */
export function writtenPlace(song: Song, { time }: Note): { beat: number; off: number } {
  const from = round(((time - song.leadInSeconds) * song.bpm * finest) / 60) - finest;
  let best = { beat: 0, off: Infinity };
  for (let k = max(0, from); k <= from + 2 * finest; k++) {
    // Of steps at the same distance the coarser one is intended.
    if (k % 2 !== 0 && k % 3 !== 0) continue;
    const off = time - timeOf(song, k / finest);
    if (abs(off) < abs(best.off) - (k % (finest / 4) === 0 ? -1e-3 : 1e-3)) best = { beat: k / finest, off };
  }
  return best;
}

/** Takes out the hits of a voice for which a test holds. */
export function removeHits(song: Song, voice: DrumVoice, goes: (beat: number) => boolean): Note[] {
  const gone: Note[] = [];
  for (const part of drumParts(song)) {
    part.notes = part.notes.filter((note) => {
      const leaves = note.voice === voice && goes(writtenPlace(song, note).beat);
      if (leaves) gone.push(note);
      return !leaves;
    });
  }
  return gone;
}

/** Adds hits of a voice, sounding as the others of it do, where none is nearer than a sixteenth. */
export function addHits(song: Song, voice: DrumVoice, beats: readonly number[]): Note[] {
  const part = drumParts(song).find(({ notes }) => notes.some((note) => note.voice === voice));
  const like = part?.notes.find((note) => note.voice === voice);
  if (!part || !like) return [];
  const end = barsOf(song) * song.beatsPerBar;
  const added = beats
    .filter((beat) => beat < end)
    .map((beat) => ({ ...like, time: timeOf(song, beat), velocity: 104 }))
    .filter(({ time }) =>
      drumParts(song).every(({ notes }) =>
        notes.every((note) => note.voice !== voice || abs(note.time - time) > 0.9 * (15 / song.bpm)),
      ),
    );
  part.notes.push(...added);
  part.notes.sort((a, b) => a.time - b.time);
  return added;
}

/** Moves the hits of a voice for which a test holds. */
export function shiftHits(
  song: Song,
  voice: DrumVoice,
  seconds: number,
  moves: (beat: number) => boolean = () => true,
): void {
  for (const { notes } of drumParts(song)) {
    for (const note of notes) {
      if (note.voice === voice && moves(writtenPlace(song, note).beat))
        note.time = max(0, note.time + seconds);
    }
  }
}

/** Strikes all hits of a voice equally hard. */
export function flattenVelocities(song: Song, voice: DrumVoice): void {
  const notes = drumParts(song).flatMap((part) => part.notes.filter((note) => note.voice === voice));
  const mean = round(notes.reduce((sum, { velocity }) => sum + velocity, 0) / max(1, notes.length));
  for (const note of notes) note.velocity = mean;
}

/** Plays drums straight that are swung: all of them, or those of one voice. */
export function straighten(song: Song, voice: DrumVoice | null = null): void {
  for (const { notes } of drumParts(song)) {
    for (const note of notes) {
      if (voice !== null && note.voice !== voice) continue;
      const { beat, off } = writtenPlace(song, note);
      note.time = max(0, straightTimeOf(song, beat) + off);
    }
  }
}

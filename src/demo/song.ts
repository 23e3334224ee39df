/**
 * Songs as notes: what the generator writes before anything sounds. Positions are in beats from
 * bar 1; `timeOf` turns them into seconds.
 */
import type { DrumVoice } from "@/core/drums/voices";
import { chance, type Chance } from "./random";

/** One sounding note. */
export interface Note {
  /** Seconds from the start of the file. */
  time: number;
  /** Seconds. */
  duration: number;
  /** MIDI note number. */
  pitch: number;
  /** 1–127. */
  velocity: number;
  /** The drum voice, for notes of drum parts. */
  voice?: DrumVoice;
}

/** One instrument's notes and its place in the mix. */
export interface Part {
  name: string;
  /** General MIDI program (0-based), or the drum kit. */
  sound: number | "drums";
  /** Which drum kit, as a General MIDI program; the standard kit when left out. */
  kit?: number;
  notes: Note[];
  mix: PartMix;
  /** What it plays, as its writer knows. */
  role?: PartRole;
}

/** Broad groups of parts. */
export type PartRole = "drums" | "bass" | "chords" | "lead";

/** How a part stands in the mix. */
export interface PartMix {
  gainDb: number;
  /** −1 left … 1 right. */
  pan: number;
  /** Share sent to the room, 0–1. */
  room: number;
  highPassHz?: number;
  lowPassHz?: number;
}

/** A labelled span of whole bars. */
export interface SectionPlan {
  name: string;
  bars: number;
}

/** A chord in Harte syntax with its place. */
export interface ChordSpan {
  startBeat: number;
  beats: number;
  label: string;
  /** Pitch classes of root and chord tones above it, in semitones. */
  root: number;
  intervals: number[];
}

export interface SongSettings {
  title: string;
  artist: string;
  style: string;
  seed: number;
  bpm: number;
  /** 2 stands for 6/8: two beats of three eighths. */
  beatsPerBar: 2 | 3 | 4;
  tonic: string;
  mode: "major" | "minor";
  /** Length of the first of two eighths or sixteenths, in percent of the pair: 50 = straight. */
  swing: { of: 8 | 16; percent: number };
  sections: SectionPlan[];
  /** Silence before bar 1. */
  leadInSeconds: number;
  /** Largest departure of the local tempo from `bpm`, as a share; 0 = steady. */
  drift: number;
  /** Spread of hit times in seconds and of velocities as a share. */
  looseness: { seconds: number; velocity: number };
}

export interface Song extends SongSettings {
  parts: Part[];
  chords: ChordSpan[];
  chance: Chance;
}

export function startSong(settings: SongSettings): Song {
  return { ...settings, parts: [], chords: [], chance: chance(settings.seed) };
}

/** Whole length in bars. */
export const barsOf = (song: SongSettings): number =>
  song.sections.reduce((sum, section) => sum + section.bars, 0);

const driftPeriodBeats = 96;

/** Seconds from the start of the file for a position in beats, swing included. */
export function timeOf(song: SongSettings, beat: number): number {
  const pair = song.swing.of === 8 ? 1 : 0.5;
  const whole = Math.floor(beat / pair + 1e-9) * pair;
  const inside = (beat - whole) / pair;
  const turn = song.swing.percent / 100;
  const swung = inside < 0.5 ? inside * 2 * turn : turn + (inside - 0.5) * 2 * (1 - turn);
  return straightTimeOf(song, whole + swung * pair);
}

/** Seconds for a position in beats as the grid has it, without swing. */
export function straightTimeOf(song: SongSettings, beat: number): number {
  const beatSeconds = 60 / song.bpm;
  const depth = (song.drift * beatSeconds * driftPeriodBeats) / (2 * Math.PI);
  const sway = depth * (1 - Math.cos((2 * Math.PI * beat) / driftPeriodBeats));
  return song.leadInSeconds + beat * beatSeconds + sway;
}

/** The sections with their place in beats. */
export function sectionSpans(song: SongSettings): { name: string; startBeat: number; beats: number }[] {
  let at = 0;
  return song.sections.map(({ name, bars }) => {
    const startBeat = at;
    at += bars * song.beatsPerBar;
    return { name, startBeat, beats: bars * song.beatsPerBar };
  });
}

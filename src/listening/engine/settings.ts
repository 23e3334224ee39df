/** What the mixer is told and what it tells. */
import type { Seconds } from "@/core/units";
import type { Side, Timeline } from "./timeline";

/** Which sides sound: the chosen one, each in one ear, or both mixed. Both are then kept together. */
export type Arrangement = "one" | "ears" | "blend";

/** A turn of one side: so many bars, or a section. */
export type Trade = number | "sections";

/** A file as the mixer knows it. */
export interface DeckSetup {
  sampleRate: number;
  frames: number;
  timeline: Timeline;
}

export interface MixerSettings {
  /** The side that is heard, and in whose own tempo time passes unless `together`. */
  activeSide: Side;
  arrangement: Arrangement;
  /** After how many bars the other side is heard, by turns, or section by section; null where nothing changes by itself. */
  trade: Trade | null;
  /** Beats at which sections begin. */
  sections: readonly number[];
  /** Share of the recreation in a blend, 0–1. */
  blend: number;
  /** Whether the recreation is brought to the tempo of the reference. */
  together: boolean;
  /** Speed of play, 1 = as it is. The pitch changes with it and is corrected behind the mixer. */
  speed: number;
  /** Gain of each side for equal loudness. */
  trim: Record<Side, number>;
  /** Beats between which play goes round. */
  loop: { from: number; to: number } | null;
  /** Gain of the click; 0 = off. */
  click: number;
  beatsPerBar: number;
}

export const plainSettings: MixerSettings = {
  activeSide: "reference",
  arrangement: "one",
  trade: null,
  sections: [],
  blend: 0.5,
  together: false,
  speed: 1,
  trim: { reference: 1, version: 1 },
  loop: null,
  click: 0,
  beatsPerBar: 4,
};

/** Where play is, for those who watch. */
export interface MixerReport {
  playing: boolean;
  /** Whether samples that should sound have not arrived. */
  waiting: boolean;
  /** Beats of the reference from bar 1. */
  beat: number;
  /** Seconds in the file of the side that is heard. */
  seconds: Seconds;
  activeSide: Side;
}

/** What a style of development songs is, and the forms and loops that styles share. */
import type { Chance } from "../random";
import type { Song } from "../song";

export const minorLoops = [
  ["0m", "8", "3", "10"],
  ["0m", "10", "8", "10"],
  ["0m", "5m", "8", "7m"],
  ["0m7", "5m7", "10", "3maj7"],
  ["0m", "0m", "8", "10"],
];
export const majorLoops = [
  ["0", "7", "9m", "5"],
  ["0", "9m", "5", "7"],
  ["0", "5", "7", "5"],
  ["9m", "5", "0", "7"],
  ["0maj7", "9m7", "2m7", "7"],
];

/** How songs of a style are made. */
export interface StylePlan {
  bpm: [number, number];
  swing?: { of: 8 | 16; percent: [number, number] };
  mode?: "major" | "minor";
  beatsPerBar?: 2 | 3 | 4;
  sections: readonly (readonly [string, number])[];
  looseness?: [number, number];
  drift?: number;
  write(song: Song, c: Chance, loop: string[]): void;
}

export const clubForm = [
  ["intro", 4],
  ["verse", 8],
  ["chorus", 8],
  ["break", 4],
  ["chorus 2", 8],
] as const;
export const songForm = [
  ["intro", 4],
  ["verse", 8],
  ["chorus", 8],
  ["verse 2", 8],
  ["outro", 4],
] as const;
export const groove = ["verse", "chorus", "outro"];

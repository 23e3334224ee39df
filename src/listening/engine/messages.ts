/** What the page and the audio thread say to each other. */
import type { DeckSetup, MixerReport, MixerSettings } from "./settings";
import type { Side } from "./timeline";

/** To the audio thread. */
export type Order =
  | { kind: "deck"; side: Side; setup: DeckSetup | null; keepPieces: boolean }
  | { kind: "piece"; side: Side; piece: number; channels: [Float32Array, Float32Array] }
  | { kind: "drop"; side: Side; piece: number }
  | { kind: "clear"; side: Side }
  | { kind: "settings"; settings: Partial<MixerSettings> }
  | { kind: "play" }
  | { kind: "pause" }
  /** Seeks are numbered from 1, so that reports can say which of them they come after. */
  | { kind: "seek"; beat: number; number: number };

/** From the audio thread, some thirty times a second and whenever an order was carried out. */
export type Report = MixerReport & {
  /** Time of the audio context at which the report was true. */
  time: number;
  /** Number of the last seek that was carried out; 0 before the first. */
  seeks: number;
};

/** Name under which the processor is registered. */
export const processorName = "plain-mirror-mixer";

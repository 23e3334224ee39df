import type { Cents, Hertz } from "../units";

/** MIDI number of the lowest pitch kept: C2, 65.4 Hz. */
export const lowestPitch = 36;
/** Semitones kept: five octaves. */
export const pitchCount = 60;

/** Strength of each semitone over time. */
export interface PitchSalience {
  framesPerSecond: Hertz;
  /** `frames × pitchCount` strengths ≥ 0, frame by frame; frame i is centred on i / framesPerSecond. */
  strengths: Float32Array;
  /** How far the track is tuned above A4 = 440 Hz, −50 … 50; 0 where nothing is pitched. */
  tuningCents: Cents;
}

import type { BassNote, LowEndMeasures } from "../lowEnd";

/** What the low end of a track is like that is made as it says. */
export const madeUpLowEnd = (changes: Partial<LowEndMeasures> = {}): LowEndMeasures => ({
  kicks: 96,
  notes: 96,
  kickLengthBeats: 0.36,
  kickLengthIsSure: true,
  kickHz: 52,
  roomBeats: 0.64,
  kickToBassDb: 4.1,
  bassEvennessDb: 1.2,
  below30Db: -41,
  monoCorrelation: 0.99,
  monoLossDb: -0.1,
  ducking: null,
  kickBassCorrelation: 0.02,
  invertedGainDb: 0.1,
  moved: null,
  kickCurve: [-6, 0, -3, -8, -14, -21],
  ...changes,
});

/** A note of a beat's half on every beat, from half a second on. */
export const madeUpBass = (beatSeconds: number, beats: number): BassNote[] =>
  Array.from({ length: beats }, (_, beat) => ({
    start: 0.5 + beat * beatSeconds,
    end: 0.5 + (beat + 0.5) * beatSeconds,
    midi: 33 + (beat % 4 === 3 ? 2 : 0),
    cents: 0,
    levelDb: -18,
    sure: 1,
  }));

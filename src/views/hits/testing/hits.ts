/** Made-up hits as the server tells them. */
import { hitBands, type HitMeasures } from "@/core/hits/hitMeasures";
import type { ShownHit } from "@/models/hits";

export const madeUpMeasures = (change: Partial<HitMeasures> = {}): HitMeasures => ({
  fundamentalHz: 49,
  glideSemitones: -9,
  attackMs: 3,
  decay: { to20: 150, to40: 320 },
  bands: hitBands.map((hz) => (hz < 2000 ? { levelDb: -hz / 100, to20: 100, to40: null } : null)),
  clickDb: -20,
  brightnessHz: 120,
  noisiness: 0.1,
  position: 0,
  sideToMidDb: -60,
  tail: "plain",
  peakDb: -6,
  thirdOctaves: Array.from({ length: 29 }, (_, i) => -2 * i),
  ...change,
});
export const shownHit = (name: string, count: number, change?: Partial<HitMeasures>): ShownHit => ({
  name,
  voice: name.split("-")[0] as ShownHit["voice"],
  count,
  used: Math.min(40, count),
  clean: 0.9,
  known: 0.4,
  strokes: Array.from({ length: count }, (_, i) => [2 + i / 2, 0.9, i < 40 ? 1 : 0]),
  measures: madeUpMeasures(change),
  outline: Array.from({ length: 300 }, (_, i) => Math.exp(-i / 60)),
});
export const answered = (hits: ShownHit[]) =>
  ({ ok: true, json: () => Promise.resolve({ hits }) }) as unknown as Response;

/**
 * Tells bass notes from kicks: where a kick is left out, the bass note that it usually goes with
 * sounds much like it, but for the beater, which is heard far above the bass.
 */
import type { Grid } from "../grid/grid";
import type { Decibels, Fraction } from "../units";
import type { DrumBands } from "./bands";
import { leastConfidence, type DrumHit } from "./hits";
import { stepInBar } from "./patterns";
import { placeHits, stepsPerBeat, straight } from "./steps";
import { bandGroupCount, bandRises } from "./velocityEstimation";

/** Groups of bands in which the beater is heard: about 1.5 to 6 kHz. */
const beater = [5, 6] as const;
/** A step on which most kicks are this sure has a habit. */
const clear: Fraction = 0.94;
/** There a kick is a bass note if it is less sure than this, and its beater rises this much less than usual. */
const suspicions: readonly { lessSure: Fraction; softer: Decibels }[] = [
  { lessSure: 0.85, softer: 5.5 },
  { lessSure: 0.96, softer: 15 },
];
/** Fewer bars than this show no habit. */
const leastBars = 4;

/** The upper one where two are in the middle. */
const median = (values: readonly number[]): number => [...values].sort((a, b) => a - b)[values.length >> 1]!;

/** Hits of which kicks that are rather bass notes are too unsure to count. */
export function withoutBassNotes(hits: readonly DrumHit[], grid: Grid, bands: DrumBands): DrumHit[] {
  const { beatsPerBar } = grid;
  const shape = { beatsPerBar, stepsPerBeat: stepsPerBeat(beatsPerBar) };
  const kicks = hits.filter(({ voice, confidence }) => voice === "kick" && confidence >= leastConfidence);
  const steps = new Map<number, DrumHit[]>();
  for (const placed of placeHits(kicks, grid, straight)) {
    const step = stepInBar(placed, shape);
    steps.set(step, [...(steps.get(step) ?? []), placed.hit]);
  }
  const unsure = new Set<DrumHit>();
  for (const own of steps.values()) {
    if (own.length < leastBars || median(own.map(({ confidence }) => confidence)) < clear) continue;
    const rises = bandRises(
      bands,
      own.map(({ time }) => time),
    );
    const beaters = own.map(
      (_, i) => beater.reduce((sum, group) => sum + rises[i * bandGroupCount + group]!, 0) / beater.length,
    );
    const usual = median(beaters);
    own.forEach((hit, i) => {
      const isBass = suspicions.some(
        ({ lessSure, softer }) => hit.confidence < lessSure && beaters[i]! < usual - softer,
      );
      if (isBass) unsure.add(hit);
    });
  }
  return hits.map((hit) =>
    unsure.has(hit) ? { ...hit, confidence: hit.confidence * leastConfidence } : hit,
  );
}

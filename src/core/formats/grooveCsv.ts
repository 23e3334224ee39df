/** The timing and velocity of drums step by step, as a table that other programs can follow. */
import { stepInBar, type BarShape } from "../drums/patterns";
import { placeInWords, type PlacedHit } from "../drums/steps";
import { drumVoices, voiceNames } from "../drums/voices";
import type { BarRange } from "../grid/grid";

/**
 * One row a voice and step of the bar that is struck: how far behind (+) the straight and the swung
 * step in ms, velocity 1–127, and in how many bars.
 */
export function grooveCsv(
  placed: readonly PlacedHit[],
  { first, last }: BarRange,
  shape: BarShape,
  beatSeconds: number,
): string {
  const inside = placed.filter(({ bar }) => bar >= first && bar <= last);
  const rows = drumVoices.flatMap((voice) => {
    const bySteps = new Map<number, PlacedHit[]>();
    for (const own of inside) {
      if (own.hit.voice !== voice) continue;
      const step = stepInBar(own, shape);
      bySteps.set(step, [...(bySteps.get(step) ?? []), own]);
    }
    return [...bySteps]
      .sort(([a], [b]) => a - b)
      .map(([step, own]) => {
        const mean = (of: (hit: PlacedHit) => number) =>
          own.reduce((sum, hit) => sum + of(hit), 0) / own.length;
        return [
          voiceNames[voice],
          step + 1,
          placeInWords(step / shape.stepsPerBeat, shape.beatsPerBar),
          (1000 * beatSeconds * mean(({ beat, quantised }) => beat - quantised)).toFixed(1),
          (1000 * mean(({ offset }) => offset)).toFixed(1),
          Math.max(1, Math.round(127 * mean(({ hit }) => hit.velocity))),
          own.length,
        ].join(",");
      });
  });
  const head = "voice,step,beat,behind straight step (ms),behind swung step (ms),velocity (1-127),hits";
  return [head, ...rows, ""].join("\r\n");
}

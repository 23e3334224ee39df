/**
 * Measures of accuracy. Tempo as in MIREX audio tempo estimation and mir_eval's companions: within
 * 4 % of the truth (accuracy 1), or of its half, double, third or triple too (accuracy 2; Gouyon
 * et al. 2006, "An experimental comparison of audio tempo induction algorithms").
 */

const tolerance = 0.04;

const near = (bpm: number, truth: number) => Math.abs(bpm - truth) <= tolerance * truth;

/** Within 4 % of the truth. */
export function tempoAccuracy1(bpm: number, truth: number): boolean {
  if (!(truth > 0)) throw new Error(`a true tempo above 0 is expected, got ${truth}`);
  return near(bpm, truth);
}

/** Within 4 % of the truth or of half, double, a third or three times it. */
export const tempoAccuracy2 = (bpm: number, truth: number): boolean =>
  [1, 1 / 2, 2, 1 / 3, 3].some((factor) => tempoAccuracy1(bpm, truth * factor));

/** How often answers of a certain confidence are right. Empty bins are left out. */
export function reliability(answers: readonly { confidence: number; right: boolean }[]) {
  const edges = [0, 0.5, 0.7, 0.8, 0.9, 0.95, 1.0001];
  return edges.slice(0, -1).flatMap((low, i) => {
    const high = edges[i + 1]!;
    const inside = answers.filter((a) => a.confidence >= low && a.confidence < high);
    if (inside.length === 0) return [];
    return [
      {
        range: `${low.toFixed(2)}–${Math.min(1, high).toFixed(2)}`,
        count: inside.length,
        meanConfidence: inside.reduce((sum, a) => sum + a.confidence, 0) / inside.length,
        shareRight: inside.filter((a) => a.right).length / inside.length,
      },
    ];
  });
}

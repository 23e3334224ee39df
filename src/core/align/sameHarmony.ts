/** Whether bars that answer each other go through the same harmony. */
import type { Fraction } from "../units";
import type { BarFeatures, SimilarityParts } from "./barFeatures";
import type { Run } from "./runs";

const { max, min } = Math;

/** Where one side has so much less above middle C than the other its harmony may not be there yet: drums and bass alone. */
const leastUpper: Fraction = 0.6;

/** How far the harmony of bars that answer each other agrees. */
export interface CommonHarmony {
  /** In the key in which they are held against each other. */
  agrees: Fraction;
  /** By how much more than in the eleven other keys, on average. */
  beyondOtherKeys: number;
}

/**
 * How far the harmony of bars that answer each other agrees, bars that are hardly pitched counted little.
 *
 * @param semitones by which the version sounds higher; null where no transposition fits: then the best counts.
 * @returns null where one side has none, or next to none beside the other.
 */
export function harmonyInCommon(
  reference: BarFeatures,
  version: BarFeatures,
  { pitched, harmonyAt }: Pick<SimilarityParts, "pitched" | "harmonyAt">,
  runs: readonly Run[],
  semitones: number | null,
): CommonHarmony | null {
  const places = runs.flatMap((run) =>
    Array.from({ length: run.bars }, (_, i) => (run.reference + i) * version.count + run.version + i),
  );
  const weights = places.reduce((sum, at) => sum + pitched[at]!, 0);
  const [ours, theirs] = [upperOf(reference, runs, "reference"), upperOf(version, runs, "version")];
  if (weights === 0 || min(ours, theirs) < leastUpper * max(ours, theirs)) return null;
  const inKeys = Array.from({ length: 12 }, (_, by) => {
    const harmony = harmonyAt(by);
    return max(0, min(1, places.reduce((sum, at) => sum + pitched[at]! * harmony[at]!, 0) / weights));
  });
  const agrees = semitones === null ? max(...inKeys) : inKeys[(semitones + 12) % 12]!;
  const others = inKeys.reduce((sum, own) => sum + own, -agrees) / 11;
  return { agrees, beyondOtherKeys: agrees - others };
}

/** What sounds above middle C beside all that sounds, over bars that answer each other. */
function upperOf(
  { upper, energy }: BarFeatures,
  runs: readonly Run[],
  side: "reference" | "version",
): number {
  let strengths = 0;
  let energies = 0;
  for (const run of runs)
    for (let bar = run[side]; bar < run[side] + run.bars; bar++) {
      strengths += upper[bar]!;
      energies += energy[bar]!;
    }
  return energies > 0 ? strengths / Math.sqrt(energies) : 0;
}

/** Takes out of a comparison what is not played but measured: levels, a shift of the grid, what is covered. */
import type { Seconds } from "../units";
import type { ComparedHit } from "./compareDrums";
import { clearVoices, leastForMean, trustedAt, type Placed } from "./pairing";
import { stepInBar, type BarShape } from "./patterns";
import { drumVoices } from "./voices";

const { abs, max, min } = Math;

/** Beside a hit that agrees, another of its voice within this is a flam or an echo of hearing. */
const doubled: Seconds = 0.05;

/** Takes out of the differences in force how much harder the version strikes each voice in general. */
export function level(hits: readonly ComparedHit[]): void {
  for (const voice of drumVoices) {
    const own = hits.filter((hit) => hit.voice === voice && hit.harder !== null);
    if (own.length === 0) continue;
    const mean = own.reduce((sum, { harder }) => sum + harder!, 0) / own.length;
    for (const hit of own) hit.harder! -= mean;
  }
}

/** Takes out of all lateness what every voice has in common: that is where the grid lies, not how drums are played. */
export function takeOutCommonShift(hits: readonly ComparedHit[]): void {
  const matched = hits.filter((hit) => hit.late !== null);
  const shifts = drumVoices.flatMap((voice) => {
    const late = matched.filter((hit) => hit.voice === voice).map((hit) => hit.late!);
    return late.length >= max(leastForMean, 0.05 * matched.length) ? [median(late)] : [];
  });
  if (shifts.length < 2) return;
  const common = shifts.every((s) => s > 0)
    ? min(...shifts)
    : shifts.every((s) => s < 0)
      ? max(...shifts)
      : 0;
  for (const hit of hits) if (hit.late !== null) hit.late -= common;
}

const median = (values: readonly number[]): number => {
  const sorted = [...values].sort((a, b) => a - b);
  return (sorted[(sorted.length - 1) >> 1]! + sorted[sorted.length >> 1]!) / 2;
};

/** Of a voice that can be covered, a step that is there in more or fewer bars than this is rather covered now and then than played so. */
const coveredShares = { from: 0.15, to: 0.85, leastBars: 4 } as const;

/**
 * Marks as unsure what lacks where the other side hardly hears the voice or hears its step now and
 * then, and doubles of hits that agree.
 */
export function doubt(
  hits: readonly ComparedHit[],
  reference: readonly Placed[],
  version: readonly Placed[],
  shape: BarShape,
): void {
  for (const voice of drumVoices) {
    const trusted = (side: readonly Placed[]) => {
      const own = side.filter(({ hit }) => hit.voice === voice);
      const mean = own.reduce((sum, { hit }) => sum + hit.confidence, 0) / own.length;
      return own.length === 0 || mean >= trustedAt;
    };
    const trust = { missing: trusted(version), extra: trusted(reference) };
    const agreed = hits.filter((hit) => hit.voice === voice && hit.kind === "agrees");
    const stepOf = (hit: ComparedHit) => stepInBar((hit.reference ?? hit.version)!, shape);
    const isCovered = (hit: ComparedHit) => {
      if (clearVoices.includes(voice)) return false;
      const there = agreed.filter((other) => stepOf(other) === stepOf(hit)).length;
      const lacks = hits.filter(
        (other) => other.voice === voice && other.kind === hit.kind && stepOf(other) === stepOf(hit),
      ).length;
      const share = there / (there + lacks);
      return (
        there + lacks >= coveredShares.leastBars && share > coveredShares.from && share < coveredShares.to
      );
    };
    for (const hit of hits) {
      if (hit.voice !== voice || hit.kind === "agrees") continue;
      const { time } = (hit.reference ?? hit.version)!.hit;
      const side = hit.kind === "missing" ? "reference" : "version";
      const isDouble = agreed.some((other) => abs(other[side]!.hit.time - time) <= doubled);
      if (isDouble || !trust[hit.kind] || isCovered(hit)) hit.sure = false;
    }
  }
}

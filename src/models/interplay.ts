/** What never sounds together and what answers what, in words. */
import type { Interplay, Together } from "@/core/lens/interplay";
import type { ElementRecord } from "@/core/study";
import { barRangesOf, barWords } from "./coverage";
import { coveringName } from "./covering";

/** How long a turn is, in words. */
function turnWords({ turnBeats }: Together, beatsPerBar: number): string {
  const bars = turnBeats / beatsPerBar;
  if (bars >= 1) return bars < 1.5 ? "a bar each" : `${Math.round(bars)} bars each`;
  return turnBeats < 1.5 ? "a beat each" : `${Math.round(turnBeats)} beats each`;
}

/**
 * @param longest at most so many ranges of bars are named.
 * @returns what is so, and what the other side does.
 */
export function interplayWords(
  { parts, kind, side, reference, version, bars }: Interplay,
  elements: readonly ElementRecord[],
  beatsPerBar: number,
  longest = 3,
): { title: string; detail: string } {
  const [first, second] = parts.map((part) => coveringName(part, elements)) as [string, string];
  const own = side === "version" ? version : reference;
  const title =
    kind === "answers"
      ? `${first} and ${second} answer one another, ${turnWords(own, beatsPerBar)}`
      : `${first} and ${second} never sound together`;
  if (side === "both") return { title, detail: "On both sides." };
  const ranges = barRangesOf(bars);
  const listed = ranges.slice(0, longest).map(barWords).join(", ");
  const where = `${listed}${ranges.length > longest ? " and more" : ""}`;
  return {
    title,
    detail:
      side === "reference"
        ? `In the reference. In yours both sound in ${where}.`
        : `In yours. In the reference both sound in ${where}.`,
  };
}

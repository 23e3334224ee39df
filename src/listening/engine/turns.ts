/** Whose turn it is where both sides are heard a few bars each. */
import type { MixerSettings, Trade } from "./settings";
import type { Side } from "./timeline";

/** Nearer than this two places are one. */
const sameBeat = 0.01;

/**
 * @param beat of the reference from bar 1.
 * @param trade what a turn is; turns are counted from where the loop begins, else from bar 1 or the first section.
 */
export function sideInTurn(
  beat: number,
  trade: Trade,
  { loop, beatsPerBar, sections }: Pick<MixerSettings, "loop" | "beatsPerBar" | "sections">,
): Side {
  // At the end of a loop its first turn comes next.
  if (loop && beat >= loop.to) return "reference";
  const from = loop?.from ?? (trade === "sections" ? (sections[0] ?? 0) : 0);
  const turn =
    trade === "sections"
      ? sections.filter((start) => start > from + sameBeat && start <= beat).length
      : Math.floor((beat - from) / (trade * beatsPerBar));
  return turn % 2 === 0 ? "reference" : "version";
}

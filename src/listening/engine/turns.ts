/** Whose turn it is where both sides are heard a few bars each. */
import type { MixerSettings } from "./settings";
import type { Side } from "./timeline";

/**
 * @param beat of the reference from bar 1.
 * @param bars of a turn; turns are counted from where the loop begins, else from bar 1.
 */
export function sideInTurn(
  beat: number,
  bars: number,
  { loop, beatsPerBar }: Pick<MixerSettings, "loop" | "beatsPerBar">,
): Side {
  // At the end of a loop its first turn comes next.
  if (loop && beat >= loop.to) return "reference";
  const turn = Math.floor((beat - (loop?.from ?? 0)) / (bars * beatsPerBar));
  return turn % 2 === 0 ? "reference" : "version";
}

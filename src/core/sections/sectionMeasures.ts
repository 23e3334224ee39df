/** What happens inside a section, from what its bars sound like. */
import {
  presenceGroups,
  type FormEstimate,
  type PlacedSection,
  type PresenceGroup,
  type SectionMeasures,
} from "./formEstimate";

const { max, min } = Math;

function mean(values: readonly number[], from: number, to: number): number {
  let sum = 0;
  for (let bar = from; bar < to; bar++) sum += values[bar]!;
  return sum / max(1, to - from);
}

/** From bars on, a group counts as playing in a section: the mean of its chances, any effect at all. */
const groupIn = (group: PresenceGroup, chances: readonly number[], a: number, b: number): number =>
  group === "effects" ? Number(chances.slice(a, b).some((chance) => chance > 0)) : mean(chances, a, b);

/** What happens inside a section, measured or moved by hand; null where it has no bars that sound. */
export function measuresOfSection(
  { firstBar, lastBar }: Pick<PlacedSection, "firstBar" | "lastBar">,
  { bars }: FormEstimate,
): SectionMeasures | null {
  const a = max(0, firstBar - bars.firstBar);
  const b = min(bars.loudness.length, lastBar + 1 - bars.firstBar);
  if (b <= a) return null;
  // Levels are averaged as powers, brightness in octaves.
  const power = (levels: readonly number[]) =>
    10 *
    Math.log10(
      mean(
        levels.slice(a, b).map((level) => 10 ** (level / 10)),
        0,
        b - a,
      ),
    );
  return {
    loudness: power(bars.loudness),
    brightness:
      2 **
      mean(
        bars.brightness.slice(a, b).map((hertz) => Math.log2(max(20, hertz))),
        0,
        b - a,
      ),
    width: power(bars.width),
    density: mean(bars.density, a, b),
    presence: Object.fromEntries(
      presenceGroups.map((group) => [group, groupIn(group, bars.presence[group], a, b)]),
    ) as SectionMeasures["presence"],
  };
}

import { spanOfBars, type BarRange, type Grid } from "@/core/grid/grid";
import type { Span } from "@/core/study";
import { usePlayback } from "@/listening/Playback";

/** A section of the reference, in its bars. */
export interface StripSection {
  firstBar: number;
  lastBar: number;
  name: string;
}

/** Narrower than this many pixels no name is readable. */
const leastRoom = 26;

/** Names of the reference's sections over the strip; pressing one selects its bars. */
export function StripSections({
  grid,
  sections,
  bars,
  look: { from, to },
  width,
  onBars,
}: {
  grid: Grid;
  sections: readonly StripSection[];
  bars: BarRange | null;
  look: Span;
  width: number;
  onBars(bars: BarRange): void;
}) {
  const playback = usePlayback();
  return (
    <div className="strip-sections" role="group" aria-label="Sections of the reference">
      {sections.map(({ firstBar, lastBar, name }) => {
        const span = spanOfBars(grid, { first: firstBar, last: lastBar });
        if (span.to <= from || span.from >= to) return null;
        const left = Math.max(from, span.from);
        const share = (Math.min(to, span.to) - left) / (to - from);
        return (
          <button
            key={firstBar}
            type="button"
            className="plain-button tiny-text clip"
            style={{ left: `${(100 * (left - from)) / (to - from)}%`, width: `${100 * share}%` }}
            title={`${name}, bars ${firstBar}–${lastBar}: select it`}
            aria-pressed={bars?.first === firstBar && bars.last === lastBar}
            onClick={() => {
              onBars({ first: firstBar, last: lastBar });
              playback.seek(span.from);
            }}
          >
            {share * width > leastRoom ? name : ""}
          </button>
        );
      })}
    </div>
  );
}

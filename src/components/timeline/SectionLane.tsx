import type { BarRange } from "@/core/grid/grid";
import { stretchOn, type Axis } from "./axis";

/** A section of the reference, in its bars. */
export interface LaneSection {
  firstBar: number;
  lastBar: number;
  name: string;
}

/** Narrower than this many pixels no name is readable. */
const leastRoom = 26;

/** Names of the reference's sections over a timeline; pressing one selects its bars. */
export function SectionLane({
  axis,
  startOf,
  sections,
  bars,
  width,
  onBars,
}: {
  axis: Axis;
  /** Where a bar begins on the axis. */
  startOf(bar: number): number;
  sections: readonly LaneSection[];
  /** Those that are selected. */
  bars: BarRange | null;
  /** Pixels; 0 where not known. */
  width: number;
  onBars(bars: BarRange): void;
}) {
  return (
    <div className="section-lane" role="group" aria-label="Sections of the reference">
      {sections.map(({ firstBar, lastBar, name }) => {
        const shown = stretchOn(axis, startOf(firstBar), startOf(lastBar + 1));
        if (!shown) return null;
        return (
          <button
            key={firstBar}
            type="button"
            className="plain-button tiny-text clip"
            style={{ left: shown.left, width: shown.width }}
            title={`${name}, bars ${firstBar}–${lastBar}: select it`}
            aria-pressed={bars?.first === firstBar && bars.last === lastBar}
            onClick={() => onBars({ first: firstBar, last: lastBar })}
          >
            {shown.share * width > leastRoom ? name : ""}
          </button>
        );
      })}
    </div>
  );
}

"use client";

import { useRef, type MouseEvent } from "react";
import { Playhead } from "@/components/timeline/Playhead";
import { SectionLane } from "@/components/timeline/SectionLane";
import { useWidth } from "@/components/useWidth";
import { usePlayback } from "@/listening/Playback";
import type { BarKind, DescribedBar } from "@/core/drums";
import type { BarRange } from "@/core/grid/grid";
import type { CountedSection } from "@/core/plan";

const words: Record<BarKind, string> = {
  typical: "typical",
  "last of four": "last of four, differs",
  fill: "a fill",
  varies: "varies",
  silent: "no drums",
};

/** Bars of the same letter look alike. */
const looks = 6;
const lookOf = (letter: string | null) =>
  letter === null ? "none" : `pattern-${(letter.charCodeAt(0) - 65) % looks}`;

/**
 * All bars in a row: above the line what kind of bar the reference has, alike bars alike; below it
 * how much of the bar's drums the version has.
 */
export function BarOverview({
  sections,
  bars,
  agreement,
  beatsPerBar,
  shown,
  onShow,
}: {
  sections: readonly CountedSection[];
  bars: readonly DescribedBar[];
  agreement: ReadonlyMap<number, { agrees: number; all: number }> | null;
  beatsPerBar: number;
  shown: BarRange;
  onShow(bars: BarRange): void;
}) {
  const playback = usePlayback();
  const box = useRef<HTMLDivElement>(null);
  const width = useWidth(box);
  const first = bars[0]?.bar ?? 1;
  const axis = { from: first, to: first + Math.max(1, bars.length) };
  return (
    <div className="bar-overview" role="group" aria-label="All bars">
      <SectionLane
        axis={axis}
        startOf={(bar) => bar}
        sections={sections}
        bars={shown}
        width={width}
        onBars={onShow}
      />
      <div ref={box} className="bar-overview-bars">
        {bars.map(({ bar, kind, letter }) => {
          const own = agreement?.get(bar);
          const share = own && own.all > 0 ? own.agrees / own.all : null;
          const agreed = share === null ? "" : `, ${Math.round(100 * share)} % of its hits agree`;
          return (
            <button
              key={bar}
              type="button"
              className={`overview-bar${bar >= shown.first && bar <= shown.last ? " shown" : ""}`}
              aria-pressed={bar >= shown.first && bar <= shown.last}
              aria-label={`Bar ${bar}: ${letter === null ? "no drums" : `${letter}, ${words[kind]}`}${agreed}`}
              title={`Bar ${bar}: ${letter === null ? "no drums" : `${letter}, ${words[kind]}`}${agreed}`}
              onClick={(event: MouseEvent) =>
                onShow(
                  event.shiftKey
                    ? { first: Math.min(bar, shown.first), last: Math.max(bar, shown.first) }
                    : { first: bar, last: bar },
                )
              }
            >
              <span className={`upper ${lookOf(letter)} ${kind === "typical" ? "" : "departs"}`} />
              {kind === "fill" && <span className="fill-mark" aria-hidden="true" />}
              <span className="lower" style={{ height: share === null ? 0 : `${46 * share}%` }} />
            </button>
          );
        })}
        <Playhead axis={axis} position={() => playback.beat() / beatsPerBar + 1} />
      </div>
    </div>
  );
}

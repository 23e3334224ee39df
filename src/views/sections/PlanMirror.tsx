"use client";

import { useRef, useState } from "react";
import { percentAt, stretchOn, type Axis } from "@/components/timeline/axis";
import { EdgeHandle } from "@/components/timeline/EdgeHandle";
import { Playhead } from "@/components/timeline/Playhead";
import type { BarRange } from "@/core/grid/grid";
import type { CountedSection } from "@/core/plan";
import type { Answered } from "@/models/plan";

/** A section that is looked at: on which side, and its place in that side's list. */
export interface ChosenSection {
  side: "reference" | "version";
  place: number;
}

/** Kinds of pattern, by letter. */
const patterns = 6;
export const patternOf = (letter: string): string =>
  `pattern-${(letter.charCodeAt(0) - 65 + patterns * 5) % patterns}`;

/**
 * Both plans on the mirror line, bar for bar: the reference's sections above, below them those of
 * the version that answer. Boundaries are dragged, or moved with the arrow keys.
 */
export function PlanMirror({
  bars,
  upper,
  lower,
  beatsPerBar,
  chosen,
  beat,
  onChoose,
  onMove,
}: {
  /** Bars at the left and right edge. */
  bars: BarRange;
  upper: readonly CountedSection[];
  lower: readonly Answered<CountedSection>[] | null;
  beatsPerBar: number;
  chosen: ChosenSection | null;
  /** Beat of the reference that sounds. */
  beat(): number;
  onChoose(section: ChosenSection): void;
  /** The section begins some bars later, or earlier. */
  onMove(section: ChosenSection, by: number): void;
}) {
  const box = useRef<HTMLDivElement>(null);
  const axis: Axis = { from: bars.first, to: bars.last + 1 };
  const [drag, setDrag] = useState<{ at: ChosenSection; by: number } | null>(null);
  const moved = (side: ChosenSection["side"], place: number) =>
    drag && drag.at.side === side && drag.at.place === place ? drag.by : 0;

  const block = (
    side: ChosenSection["side"],
    place: number,
    section: CountedSection,
    from: number,
    to: number,
    key: string,
  ) => {
    const shown = stretchOn(axis, from, to);
    if (!shown) return null;
    const length = section.lastBar - section.firstBar + 1;
    const isChosen = chosen?.side === side && chosen.place === place;
    return (
      <button
        key={key}
        type="button"
        className={`plan-block ${side} ${patternOf(section.letter)}`}
        style={{ left: shown.left, width: shown.width }}
        aria-pressed={isChosen}
        aria-label={`${side === "reference" ? "Reference" : "Version"}: ${section.name}, letter ${section.letter}, ${length} bars from bar ${section.firstBar}`}
        title={`${section.name} (${section.letter}), bars ${section.firstBar}–${section.lastBar}`}
        onClick={() => onChoose({ side, place })}
      >
        <span className="plan-words">
          <span className="strong clip">{section.name}</span>
          <span className="soft clip">
            {section.letter} · {length}
          </span>
        </span>
      </button>
    );
  };
  const handle = (side: ChosenSection["side"], place: number, section: CountedSection, bar: number) => {
    const at = { side, place };
    return (
      <EdgeHandle
        key={`handle ${side} ${place}`}
        className={`plan-handle ${side}`}
        style={{ left: percentAt(axis, bar + moved(side, place)) }}
        label={`${section.name} starts at bar ${section.firstBar}`}
        title="Drag to move the start of this section"
        step={() => box.current!.getBoundingClientRect().width / (axis.to - axis.from)}
        onDrag={(by) => setDrag(by === 0 ? null : { at, by })}
        onMove={(by) => onMove(at, by)}
      />
    );
  };

  return (
    <div
      ref={box}
      className={`plan-mirror${lower ? "" : " alone"}`}
      role="group"
      aria-label="Sections of both, bar by bar"
    >
      {upper.map((section, place) =>
        block("reference", place, section, section.firstBar, section.lastBar + 1, `upper ${place}`),
      )}
      {lower?.map(({ item, place, startBeat, endBeat }, i) =>
        block("version", place, item, startBeat / beatsPerBar + 1, endBeat / beatsPerBar + 1, `lower ${i}`),
      )}
      {upper.map((section, place) =>
        place === 0 ? null : handle("reference", place, section, section.firstBar),
      )}
      {lower?.map(({ item, place, startBeat }, i) => {
        const isFirst = place === 0 || lower.findIndex((other) => other.place === place) !== i;
        return isFirst ? null : handle("version", place, item, startBeat / beatsPerBar + 1);
      })}
      <Playhead axis={axis} position={() => beat() / beatsPerBar + 1} />
    </div>
  );
}

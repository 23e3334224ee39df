"use client";

import { useMemo, type KeyboardEvent } from "react";
import { percentAt, stretchOn, type Axis } from "@/components/timeline/axis";
import { Playhead } from "@/components/timeline/Playhead";
import { chordName, chordWords } from "@/core/harmony/chords";
import type { PlacedChord } from "@/core/harmony/harmonyEstimate";
import type { Spelling } from "@/core/harmony/notes";
import { secondsAt, type Grid } from "@/core/grid/grid";
import type { ComparedBeat, CountedSection } from "@/core/plan";
import { usePlayback } from "@/listening/Playback";
import type { Answered } from "@/models/plan";
import { barsARow, chartRows, type ChartRow } from "@/models/chartRows";

/** A chord that is looked at: on which side, and its place in that side's list. */
export interface ChosenChord {
  side: "reference" | "version";
  place: number;
}

/** Narrower than this, in beats, a name has no room. */
const leastNamed = 0.9;

/**
 * Chords as a chart on the mirror line: each row some bars, the reference's chords above the line,
 * below it what answers them. Where they differ, the line is broken by a mark.
 */
export function ChordLines({
  grid,
  sections,
  upper,
  lower,
  beats,
  spelling,
  only,
  chosen,
  onChoose,
  onKey,
}: {
  grid: Grid;
  sections: readonly CountedSection[];
  upper: readonly PlacedChord[];
  lower: readonly Answered<PlacedChord>[] | null;
  beats: readonly ComparedBeat[];
  spelling: Spelling;
  /** Selected bars; all where nothing is selected. */
  only: { first: number; last: number } | null;
  chosen: ChosenChord | null;
  onChoose(chord: ChosenChord): void;
  /** Keys pressed on the chosen chord; true where the key did something. */
  onKey(event: KeyboardEvent): boolean;
}) {
  const playback = usePlayback();
  const { beatsPerBar } = grid;
  const rows = useMemo(() => chartRows(grid, sections, only), [grid, sections, only]);
  const apart = useMemo(
    () => new Set(beats.filter((b) => !b.agrees).map((b) => Math.round(b.beat))),
    [beats],
  );

  const axisOf = (row: ChartRow): Axis => ({
    from: (row.firstBar - 1) * beatsPerBar,
    to: (row.firstBar - 1 + row.bars) * beatsPerBar,
  });
  const pick = (side: ChosenChord["side"], place: number, beat: number) => {
    onChoose({ side, place });
    playback.seek(secondsAt(grid, beat));
  };
  const chordButton = (
    row: ChartRow,
    side: ChosenChord["side"],
    place: number,
    own: PlacedChord,
    startBeat: number,
    endBeat: number,
  ) => {
    const axis = axisOf(row);
    const from = Math.max(startBeat, axis.from);
    const to = Math.min(endBeat, axis.to);
    const shown = stretchOn(axis, from, to);
    if (!shown || to - from < 0.05) return null;
    const differs =
      side === "version" &&
      Array.from({ length: Math.ceil(to - from) }, (_, i) => Math.round(from) + i).some((beat) =>
        apart.has(beat),
      );
    const isChosen = chosen?.side === side && chosen.place === place;
    const name = chordName(own.chord, spelling);
    const goesOn = startBeat < axis.from - 0.01;
    const bar = Math.floor(from / beatsPerBar) + 1;
    return (
      <button
        key={`${side} ${place} ${from}`}
        type="button"
        className={`chord-cell ${side}${differs ? " differs" : ""}${own.chord ? "" : " none"}${own.confidence < 0.5 ? " unsure" : ""}`}
        style={{ left: shown.left, width: shown.width }}
        aria-pressed={isChosen}
        aria-label={`${side === "reference" ? "Reference" : "Version"}, bar ${bar}: ${own.chord ? chordWords(own.chord, spelling) : "no chord"}${differs ? ", not as in the reference" : ""}`}
        tabIndex={isChosen || (!chosen && side === "reference" && place === 0) ? 0 : -1}
        onClick={() => pick(side, place, from)}
        onKeyDown={(event) => {
          if (onKey(event)) {
            event.preventDefault();
            event.stopPropagation();
          }
        }}
      >
        <span className={goesOn ? "soft" : undefined}>{to - from >= leastNamed ? name : ""}</span>
      </button>
    );
  };

  return (
    <div className="chord-rows" role="group" aria-label="Chords, bar by bar">
      {rows.map((row) => (
        <div key={row.firstBar} className={`chord-row${row.section ? " begins" : ""}`}>
          <div className="chord-row-head tiny-text">
            <span className="strong">{row.section?.name ?? ""}</span>
            <span className="soft">{row.firstBar}</span>
          </div>
          <div
            className={`chord-row-music${lower ? "" : " alone"}`}
            style={{ width: `${(100 * row.bars) / barsARow}%` }}
          >
            {Array.from({ length: row.bars + 1 }, (_, i) => (
              <span
                key={i}
                className="chord-bar-line"
                style={{ left: percentAt(axisOf(row), (row.firstBar - 1 + i) * beatsPerBar) }}
              />
            ))}
            {upper.map((own, place) => chordButton(row, "reference", place, own, own.startBeat, own.endBeat))}
            {lower?.map(({ item, place, startBeat, endBeat }) =>
              chordButton(row, "version", place, item, startBeat, endBeat),
            )}
            <Playhead axis={axisOf(row)} position={() => playback.beat()} />
          </div>
        </div>
      ))}
    </div>
  );
}

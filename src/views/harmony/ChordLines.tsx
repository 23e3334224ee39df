"use client";

import { useMemo, useRef, type KeyboardEvent } from "react";
import { useFrames } from "@/components/useFrames";
import { chordName, chordWords } from "@/core/harmony/chords";
import type { PlacedChord } from "@/core/harmony/harmonyEstimate";
import type { Spelling } from "@/core/harmony/notes";
import { beatAt, secondsAt, type Grid } from "@/core/grid/grid";
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
  const box = useRef<HTMLDivElement>(null);
  const playhead = useRef<HTMLDivElement>(null);
  const { beatsPerBar } = grid;
  const rows = useMemo(() => chartRows(grid, sections, only), [grid, sections, only]);
  const apart = useMemo(
    () => new Set(beats.filter((b) => !b.agrees).map((b) => Math.round(b.beat))),
    [beats],
  );

  useFrames(() => {
    const line = playhead.current;
    if (!line) return;
    const beat = beatAt(grid, playback.position());
    const at = rows.findIndex(
      ({ firstBar, bars }) =>
        beat >= (firstBar - 1) * beatsPerBar && beat < (firstBar - 1 + bars) * beatsPerBar,
    );
    const row = at < 0 ? null : (box.current?.children[at] as HTMLElement | undefined);
    line.style.visibility = row ? "visible" : "hidden";
    if (!row) return;
    const music = row.querySelector<HTMLElement>(".chord-row-music")!;
    const share = (beat - (rows[at]!.firstBar - 1) * beatsPerBar) / (rows[at]!.bars * beatsPerBar);
    line.style.top = `${row.offsetTop}px`;
    line.style.height = `${row.offsetHeight}px`;
    line.style.left = `${music.offsetLeft + share * music.offsetWidth}px`;
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
    const rowStart = (row.firstBar - 1) * beatsPerBar;
    const rowBeats = row.bars * beatsPerBar;
    const from = Math.max(startBeat, rowStart);
    const to = Math.min(endBeat, rowStart + rowBeats);
    if (to - from < 0.05) return null;
    const differs =
      side === "version" &&
      Array.from({ length: Math.ceil(to - from) }, (_, i) => Math.round(from) + i).some((beat) =>
        apart.has(beat),
      );
    const isChosen = chosen?.side === side && chosen.place === place;
    const name = chordName(own.chord, spelling);
    const goesOn = startBeat < rowStart - 0.01;
    const bar = Math.floor(from / beatsPerBar) + 1;
    return (
      <button
        key={`${side} ${place} ${from}`}
        type="button"
        className={`chord-cell ${side}${differs ? " differs" : ""}${own.chord ? "" : " none"}${own.confidence < 0.5 ? " unsure" : ""}`}
        style={{
          left: `${(100 * (from - rowStart)) / rowBeats}%`,
          width: `${(100 * (to - from)) / rowBeats}%`,
        }}
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
    <div className="position-relative">
      <div ref={box} className="chord-rows" role="group" aria-label="Chords, bar by bar">
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
                <span key={i} className="chord-bar-line" style={{ left: `${(100 * i) / row.bars}%` }} />
              ))}
              {upper.map((own, place) =>
                chordButton(row, "reference", place, own, own.startBeat, own.endBeat),
              )}
              {lower?.map(({ item, place, startBeat, endBeat }) =>
                chordButton(row, "version", place, item, startBeat, endBeat),
              )}
            </div>
          </div>
        ))}
      </div>
      <div ref={playhead} className="chord-playhead" />
    </div>
  );
}

"use client";

import { useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import { moveLimits, spanOfMove, hasGain, type EqualiserMove, type KeptMove } from "@/core/equaliser";
import { moveTitle } from "@/models/equaliser";

const lowest = Math.log2(20);
const octaves = Math.log2(20000) - lowest;
const place = (hertz: number) => (100 * (Math.log2(hertz) - lowest)) / octaves;

const rowHeight = 22;

/** A step of the arrow keys: a twelfth of an octave, 0.1 dB. */
const step = { octaves: 1 / 12, gain: 0.1, width: 1.1 } as const;

const within = (value: number, low: number, high: number) => Math.min(high, Math.max(low, value));

/** A move by octaves and decibels, inside the limits. */
export function moved(
  move: EqualiserMove,
  by: { octaves?: number; gain?: number; q?: number },
): EqualiserMove {
  const { lowestHz, highestHz, mostGainDb, leastQ, mostQ } = moveLimits;
  const hz = within(move.hz * 2 ** (by.octaves ?? 0), lowestHz, highestHz);
  const digits = 10 ** (2 - Math.floor(Math.log10(hz)));
  return {
    ...move,
    hz: Math.round(hz * digits) / digits,
    gainDb: hasGain(move.type)
      ? Math.round(10 * within(move.gainDb + (by.gain ?? 0), -mostGainDb, mostGainDb)) / 10
      : 0,
    q: move.type === "peak" ? Math.round(100 * within(move.q * (by.q ?? 1), leastQ, mostQ)) / 100 : move.q,
  };
}

/** The row that each span stands in, so that none covers another. */
function rowsOf(moves: readonly EqualiserMove[]): number[] {
  const ends: number[] = [];
  return moves.map((move) => {
    const { fromHz, toHz } = spanOfMove(move);
    const free = ends.findIndex((end) => end <= fromHz * 1.001);
    const own = free >= 0 ? free : ends.length;
    ends[own] = toHz;
    return own;
  });
}

/** Between which frequencies each move works, below the gap: dragged, or moved by the arrow keys. */
export function MoveSpans({
  moves,
  chosen,
  onChoose,
  onChange,
}: {
  moves: readonly KeptMove[];
  chosen: number | null;
  onChoose(index: number): void;
  /** @param isDone false while it is still being dragged. */
  onChange(index: number, next: EqualiserMove, isDone: boolean): void;
}) {
  const row = useRef<HTMLDivElement>(null);
  const [drag, setDrag] = useState<{ index: number; x: number; move: EqualiserMove } | null>(null);

  const dragged = (event: PointerEvent, isDone: boolean) => {
    if (!drag || !row.current) return;
    const by = ((event.clientX - drag.x) / row.current.clientWidth) * octaves;
    if (Math.abs(by) > 1e-3) onChange(drag.index, moved(drag.move, { octaves: by }), isDone);
  };
  const pressed = (event: KeyboardEvent, index: number, move: KeptMove) => {
    const times = event.shiftKey ? 5 : 1;
    const next = {
      ArrowLeft: { octaves: -times * step.octaves },
      ArrowRight: { octaves: times * step.octaves },
      ArrowUp: event.altKey ? { q: step.width ** -times } : { gain: times * step.gain },
      ArrowDown: event.altKey ? { q: step.width ** times } : { gain: -times * step.gain },
    }[event.key];
    if (!next) return;
    event.preventDefault();
    event.stopPropagation();
    onChange(index, moved(move, next), true);
  };
  const rows = rowsOf(moves);
  return (
    <div
      className="move-spans"
      ref={row}
      style={{ height: 4 + rowHeight * Math.max(1, ...rows.map((own) => own + 1)) }}
      aria-label="Where the moves work"
      role="group"
    >
      {moves.map((move, index) => {
        const { fromHz, toHz } = spanOfMove(move);
        return (
          <button
            key={index}
            type="button"
            className={`move-span${move.on ? "" : " is-off"}`}
            style={{
              top: rows[index]! * rowHeight,
              left: `${place(fromHz)}%`,
              width: `${place(toHz) - place(fromHz)}%`,
            }}
            aria-label={`Move ${index + 1}: ${moveTitle(move)}. Left and right change the frequency, up and down the gain.`}
            aria-pressed={chosen === index}
            onClick={() => onChoose(index)}
            onKeyDown={(event) => pressed(event, index, move)}
            onPointerDown={(event) => {
              event.currentTarget.setPointerCapture(event.pointerId);
              setDrag({ index, x: event.clientX, move });
            }}
            onPointerMove={(event) => dragged(event, false)}
            onPointerUp={(event) => {
              dragged(event, true);
              setDrag(null);
            }}
            onPointerCancel={() => setDrag(null)}
          >
            <span>{index + 1}</span>
          </button>
        );
      })}
    </div>
  );
}

"use client";

import { useCallback, useEffect, useMemo, useRef, useState, type PointerEvent } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import { clock } from "@/components/format";
import { usePlayback } from "@/listening/Playback";
import type { CoverageSpan } from "@/core/align/coverage";
import { barsIn, barsOf, spanOfBars, type BarRange, type Grid } from "@/core/grid/grid";
import { shortestSpan, timesOf, type LinedUpBars, type Span } from "@/core/study";
import { useStoredCurve } from "@/components/useStoredCurve";
import { useThemeInks } from "@/components/useThemeInks";
import { fineContext, useWidth } from "@/components/useWidth";
import { CoverageEdges } from "./CoverageEdges";
import { drawStrip, rulerBars, rulerHeight, rulerTimes, type Half, type Placed } from "./draw";

/** A track as the strip shows it. */
export interface StripTrack {
  hash: string;
  sampleRate: number;
  seconds: number;
  name: string;
  grid: Grid | null;
  /** Whether the waveform is there yet. */
  ready: boolean;
}

/** Closest look: this many seconds over the width. */
const closest = 2;
/** Movement below this many pixels is a click, not a selection. */
const clickReach = 4;

/**
 * Both whole tracks on the mirror line: reference up, and below each of its bars what of the
 * version answers it. Drag selects bars, a click moves the playhead, wheel and keys zoom.
 */
export function MirrorStrip({
  reference,
  recreation,
  lined,
  selection,
  bars,
  sections,
  onBars,
  onSelect,
  onCoverage,
}: {
  reference: StripTrack | null;
  recreation: StripTrack | null;
  /** Null where the two are not lined up: both then lie on one scale of seconds. */
  lined: LinedUpBars | null;
  selection: Span | null;
  bars: BarRange | null;
  /** Sections of the reference, in its bars. */
  sections: readonly { firstBar: number; lastBar: number; name: string }[];
  onBars(bars: BarRange): void;
  onSelect(span: Span | null): void;
  onCoverage(spans: CoverageSpan[]): void;
}) {
  const playback = usePlayback();
  const inks = useThemeInks();
  const canvas = useRef<HTMLCanvasElement>(null);
  const playhead = useRef<HTMLDivElement>(null);
  const width = useWidth(canvas);
  const whole = Math.max(reference?.seconds ?? 0, lined ? 0 : (recreation?.seconds ?? 0), 1);
  const [look, setLook] = useState<Span | null>(null);
  const { from, to } = look && look.to <= whole + 1 ? look : { from: 0, to: whole };
  const height = 110;
  const [drag, setDrag] = useState<{ anchor: number; now: number; x: number; moved: boolean } | null>(null);

  const referenceOverview = useStoredCurve(reference?.ready ? reference.hash : null, "overview");
  const recreationOverview = useStoredCurve(recreation?.ready ? recreation.hash : null, "overview");
  const grid = reference?.grid ?? null;
  const answers = useMemo(
    () => (lined ? lined.spans.map((span) => ({ span, times: timesOf(span, lined) })) : null),
    [lined],
  );

  useEffect(() => {
    const context = fineContext(canvas.current, width, height);
    if (!context) return;
    const half = (
      track: StripTrack | null,
      overview: Uint8Array | null,
      ink: string,
      tint: string,
      parts?: readonly Placed[],
    ): Half | null =>
      track && {
        overview,
        sampleRate: track.sampleRate,
        seconds: track.seconds,
        ink,
        tint,
        parts: parts ?? [{ from: 0, to: track.seconds, ownFrom: 0, ownTo: track.seconds }],
      };
    drawStrip(context, {
      width,
      height,
      from,
      to,
      lineInk: inks.soft,
      reference: half(reference, referenceOverview, inks.reference, inks.referenceTint),
      recreation: half(
        recreation,
        recreationOverview,
        inks.recreation,
        inks.recreationTint,
        answers?.map(({ times }) => ({
          from: times.reference.from,
          to: times.reference.to,
          ownFrom: times.version.from,
          ownTo: times.version.to,
        })),
      ),
    });
  }, [width, from, to, reference, recreation, referenceOverview, recreationOverview, inks, answers]);

  const zoom = useCallback(
    (factor: number, around?: number) => {
      setLook((now) => {
        const old = now ?? { from: 0, to: whole };
        const length = Math.min(whole, Math.max(closest, (old.to - old.from) * factor));
        if (length >= whole) return null;
        const pivot = around ?? (selection ? (selection.from + selection.to) / 2 : (old.from + old.to) / 2);
        const share = Math.min(1, Math.max(0, (pivot - old.from) / (old.to - old.from)));
        const start = Math.min(whole - length, Math.max(0, pivot - share * length));
        return { from: start, to: start + length };
      });
    },
    [whole, selection],
  );
  const move = useCallback(
    (share: number) => {
      setLook((now) => {
        if (!now) return null;
        const length = now.to - now.from;
        const start = Math.min(whole - length, Math.max(0, now.from + share * length));
        return { from: start, to: start + length };
      });
    },
    [whole],
  );

  useEffect(() => {
    const element = canvas.current;
    if (!element) return;
    // Bound by hand: the framework's wheel listeners cannot keep the page from scrolling.
    const turn = (event: WheelEvent) => {
      event.preventDefault();
      const box = element.getBoundingClientRect();
      const at = from + ((event.clientX - box.left) / box.width) * (to - from);
      if (event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY))
        move(Math.sign(event.deltaX || event.deltaY) * 0.1);
      else zoom(event.deltaY > 0 ? 1.25 : 0.8, at);
    };
    element.addEventListener("wheel", turn, { passive: false });
    return () => element.removeEventListener("wheel", turn);
  }, [from, to, zoom, move]);

  // By the character, wherever the keyboard has it.
  const byCharacter = { useKey: true, ignoreModifiers: true, splitKey: " ", preventDefault: true } as const;
  useHotkeys("+,=", () => zoom(0.5, playback.position()), byCharacter, [zoom, playback]);
  useHotkeys("-", () => zoom(2, playback.position()), byCharacter, [zoom, playback]);
  useHotkeys("0", () => setLook(null));
  useHotkeys(
    "escape",
    () => onSelect(null),
    { enabled: selection !== null, ignoreEventWhen: (event) => event.defaultPrevented },
    [onSelect],
  );

  useEffect(() => {
    let frame = 0;
    const show = () => {
      const element = playhead.current;
      if (element) {
        const share = (playback.position() - from) / (to - from);
        element.style.visibility = share >= 0 && share <= 1 ? "visible" : "hidden";
        element.style.left = `${100 * share}%`;
      }
      frame = requestAnimationFrame(show);
    };
    show();
    return () => cancelAnimationFrame(frame);
  }, [playback, from, to]);

  const timeAt = (event: PointerEvent) => {
    const box = canvas.current!.getBoundingClientRect();
    const share = Math.min(1, Math.max(0, (event.clientX - box.left) / box.width));
    return Math.min(whole, from + share * (to - from));
  };
  const dragged = drag?.moved
    ? { from: Math.min(drag.anchor, drag.now), to: Math.max(drag.anchor, drag.now) }
    : null;
  const shown =
    dragged && grid ? spanOfBars(grid, barsIn(grid, dragged.from, dragged.to)) : (dragged ?? selection);
  const shownBars = dragged && grid ? barsIn(grid, dragged.from, dragged.to) : bars;
  const percent = (seconds: number) =>
    `${Math.min(100, Math.max(0, (100 * (seconds - from)) / (to - from)))}%`;
  const marks = useMemo(
    () =>
      grid
        ? rulerBars(grid, from, to, width).map(({ bar, seconds }) => ({ seconds, text: String(bar) }))
        : rulerTimes(from, to, width).map((seconds) => ({ seconds, text: clock(seconds, to - from < 20) })),
    [grid, from, to, width],
  );
  const empty = useMemo(() => {
    if (!lined || !grid) return [];
    const all = barsOf(grid);
    const gaps: BarRange[] = [];
    let next = all.first;
    for (const span of [...lined.spans].sort((a, b) => a.referenceFirst - b.referenceFirst)) {
      if (span.referenceFirst > next) gaps.push({ first: next, last: span.referenceFirst - 1 });
      next = Math.max(next, span.referenceFirst + span.bars);
    }
    if (next <= all.last) gaps.push({ first: next, last: all.last });
    return gaps;
  }, [lined, grid]);
  const zoomed = to - from < whole - 1e-6;

  return (
    <section className="strip" aria-label="Both tracks over time">
      {grid && sections.length > 0 && (
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
                style={{ left: percent(left), width: `${100 * share}%` }}
                title={`${name}, bars ${firstBar}–${lastBar}: select it`}
                aria-pressed={bars?.first === firstBar && bars.last === lastBar}
                onClick={() => {
                  onBars({ first: firstBar, last: lastBar });
                  playback.seek(span.from);
                }}
              >
                {share * width > 26 ? name : ""}
              </button>
            );
          })}
        </div>
      )}
      <div className="position-relative" style={{ height }}>
        <canvas
          ref={canvas}
          role="img"
          aria-label={`Waveforms: ${reference ? "reference above" : "no reference"}, ${recreation ? `${recreation.name} below` : "no version"}`}
          onPointerDown={(event) => {
            event.currentTarget.setPointerCapture(event.pointerId);
            const time = timeAt(event);
            // Shift stretches the selection from its far end.
            const anchor =
              event.shiftKey && selection
                ? Math.abs(time - selection.from) < Math.abs(time - selection.to)
                  ? selection.to
                  : selection.from
                : time;
            setDrag({ anchor, now: time, x: event.clientX, moved: event.shiftKey });
          }}
          onPointerMove={(event) => {
            if (!drag) return;
            setDrag({
              ...drag,
              now: timeAt(event),
              moved: drag.moved || Math.abs(event.clientX - drag.x) > clickReach,
            });
          }}
          onPointerUp={(event) => {
            if (!drag) return;
            const now = timeAt(event);
            setDrag(null);
            if (!drag.moved) playback.seek(now);
            else if (Math.abs(now - drag.anchor) >= shortestSpan) {
              onSelect({ from: Math.min(drag.anchor, now), to: Math.max(drag.anchor, now) });
              playback.seek(Math.min(drag.anchor, now));
            }
          }}
          onPointerCancel={() => setDrag(null)}
        />
        {marks.map(({ seconds, text }) => (
          <span
            key={seconds}
            className="tiny-text soft"
            style={{
              position: "absolute",
              left: percent(seconds),
              top: 0,
              borderLeft: "1px solid var(--line)",
              paddingLeft: 4,
              lineHeight: "14px",
              pointerEvents: "none",
            }}
          >
            {text}
          </span>
        ))}
        {recreation?.ready &&
          empty.map((gap) => {
            const span = spanOfBars(grid!, gap);
            if (span.to <= from || span.from >= to) return null;
            const left = Math.max(from, span.from);
            const room = ((Math.min(to, span.to) - left) / (to - from)) * width;
            return (
              <span
                key={gap.first}
                data-testid="not-recreated"
                className="not-recreated tiny-text soft"
                style={{ left: percent(left), width: room - 3, top: middleOf(height) + 2 }}
                title={`Bars ${gap.first} to ${gap.last} are not recreated`}
              >
                {room > 84 ? "not recreated" : ""}
              </span>
            );
          })}
        {lined && recreation?.ready && (
          <CoverageEdges
            lined={lined}
            from={from}
            to={to}
            width={width}
            top={middleOf(height)}
            onChange={onCoverage}
          />
        )}
        {shown && shown.to > from && shown.from < to && (
          <div
            data-testid="selection"
            className="selection-frame"
            style={{
              top: rulerHeight - 2,
              left: percent(shown.from),
              width: `calc(${percent(shown.to)} - ${percent(shown.from)})`,
            }}
          />
        )}
        <div
          ref={playhead}
          style={{
            position: "absolute",
            top: rulerHeight - 4,
            bottom: 0,
            width: 1.5,
            background: "var(--ink)",
            pointerEvents: "none",
          }}
        />
        {reference && !reference.ready && (
          <p className="small-text soft" style={{ position: "absolute", top: 34, left: 8 }}>
            The reference is being analysed.
          </p>
        )}
        {recreation && !recreation.ready && (
          <p className="small-text soft" style={{ position: "absolute", bottom: 0, left: 8 }}>
            {recreation.name} is being analysed.
          </p>
        )}
        {reference && !recreation && (
          <p className="small-text soft" style={{ position: "absolute", bottom: 4, left: 8 }}>
            Your recreation will hang here, below the line.
          </p>
        )}
      </div>
      <div className="strip-tools">
        {shown ? (
          <span>
            Selected{" "}
            <span className="strong">
              {shownBars
                ? shownBars.first === shownBars.last
                  ? `bar ${shownBars.first}`
                  : `bars ${shownBars.first}–${shownBars.last}`
                : `${clock(shown.from, true)} – ${clock(shown.to, true)}`}
            </span>{" "}
            <span className="soft">
              {shownBars && `${clock(shown.from, true)} – ${clock(shown.to, true)}, `}
              {(shown.to - shown.from).toFixed(1)} s
            </span>{" "}
            <button type="button" className="plain-button underlined" onClick={() => onSelect(null)}>
              Select nothing
            </button>
          </span>
        ) : (
          <span className="soft">Drag to select bars; every view then compares those.</span>
        )}
        <span className="ms-auto soft">
          {zoomed && (
            <>
              <button type="button" className="plain-button underlined" onClick={() => setLook(null)}>
                Whole track
              </button>
              {" · "}
            </>
          )}
          <button
            type="button"
            className="plain-button underlined"
            aria-label="Zoom in"
            onClick={() => zoom(0.5)}
          >
            closer
          </button>
          {" · "}
          <button
            type="button"
            className="plain-button underlined"
            aria-label="Zoom out"
            disabled={!zoomed}
            onClick={() => zoom(2)}
          >
            wider
          </button>
        </span>
      </div>
    </section>
  );
}

/** Height of the mirror line. */
const middleOf = (height: number): number => rulerHeight + (height - rulerHeight) / 2;

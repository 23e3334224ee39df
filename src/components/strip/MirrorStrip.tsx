"use client";

import { useCallback, useEffect, useMemo, useRef, useState, type PointerEvent } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import { clock } from "@/components/format";
import { usePlayback } from "@/listening/Playback";
import { barAt } from "@/core/grid/gridEstimate";
import { shortestSpan, type Span } from "@/core/study";
import { drawStrip, rulerHeight, rulerTimes, type Half } from "./draw";
import { useOverview } from "./useOverview";

/** A track as the strip shows it. */
export interface StripTrack {
  hash: string;
  sampleRate: number;
  seconds: number;
  name: string;
  /** Where its bars begin, seconds. */
  downbeats: readonly number[];
  /** Whether the waveform is there yet. */
  ready: boolean;
}

/** Closest look: this many seconds over the width. */
const closest = 2;
/** Movement below this many pixels is a click, not a selection. */
const clickReach = 4;

function useThemeInks() {
  const [inks, setInks] = useState({
    reference: "#2b4a9b",
    referenceTint: "#dce4f6",
    recreation: "#b4491b",
    recreationTint: "#f6ddd0",
    soft: "#5d6470",
  });
  useEffect(() => {
    const read = () => {
      const style = getComputedStyle(document.documentElement);
      const ink = (name: string) => style.getPropertyValue(name).trim();
      setInks({
        reference: ink("--reference"),
        referenceTint: ink("--reference-tint"),
        recreation: ink("--recreation"),
        recreationTint: ink("--recreation-tint"),
        soft: ink("--soft"),
      });
    };
    read();
    window.addEventListener("themechange", read);
    return () => window.removeEventListener("themechange", read);
  }, []);
  return inks;
}

/**
 * Both whole tracks on the mirror line: reference up, version down, on one scale of seconds.
 * Drag selects, a click moves the playhead, wheel and keys zoom.
 */
export function MirrorStrip({
  reference,
  recreation,
  selection,
  onSelect,
}: {
  reference: StripTrack | null;
  recreation: StripTrack | null;
  selection: Span | null;
  onSelect(span: Span | null): void;
}) {
  const playback = usePlayback();
  const inks = useThemeInks();
  const canvas = useRef<HTMLCanvasElement>(null);
  const playhead = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(0);
  const whole = Math.max(reference?.seconds ?? 0, recreation?.seconds ?? 0, 1);
  const [look, setLook] = useState<Span | null>(null);
  const { from, to } = look && look.to <= whole + 1 ? look : { from: 0, to: whole };
  const height = 110;
  const [drag, setDrag] = useState<{ anchor: number; now: number; x: number; moved: boolean } | null>(null);

  const referenceOverview = useOverview(reference?.ready ? reference.hash : null);
  const recreationOverview = useOverview(recreation?.ready ? recreation.hash : null);

  useEffect(() => {
    const element = canvas.current?.parentElement;
    if (!element) return;
    const observer = new ResizeObserver(([entry]) => setWidth(Math.floor(entry!.contentRect.width)));
    observer.observe(element);
    return () => observer.disconnect();
  }, []);

  useEffect(() => {
    const element = canvas.current;
    const context = element?.getContext("2d");
    if (!element || !context || width === 0) return;
    const ratio = window.devicePixelRatio || 1;
    element.width = width * ratio;
    element.height = height * ratio;
    context.scale(ratio, ratio);
    const half = (
      track: StripTrack | null,
      overview: Uint8Array | null,
      ink: string,
      tint: string,
    ): Half | null => track && { overview, sampleRate: track.sampleRate, seconds: track.seconds, ink, tint };
    drawStrip(context, {
      width,
      height,
      from,
      to,
      lineInk: inks.soft,
      reference: half(reference, referenceOverview, inks.reference, inks.referenceTint),
      recreation: half(recreation, recreationOverview, inks.recreation, inks.recreationTint),
    });
  }, [width, from, to, reference, recreation, referenceOverview, recreationOverview, inks]);

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
  useHotkeys("escape", () => onSelect(null), { enabled: selection !== null }, [onSelect]);

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
  const shown = drag?.moved
    ? { from: Math.min(drag.anchor, drag.now), to: Math.max(drag.anchor, drag.now) }
    : selection;
  const percent = (seconds: number) =>
    `${Math.min(100, Math.max(0, (100 * (seconds - from)) / (to - from)))}%`;
  // A version too short for the selection is compared as a whole.
  const wholeAnswers =
    shown !== null && recreation !== null && recreation.ready && recreation.seconds < shown.to;
  const marks = useMemo(() => rulerTimes(from, to, width), [from, to, width]);
  const zoomed = to - from < whole - 1e-6;

  return (
    <section className="strip" aria-label="Both tracks over time">
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
        {marks.map((time) => (
          <span
            key={time}
            className="tiny-text soft"
            style={{
              position: "absolute",
              left: percent(time),
              top: 0,
              borderLeft: "1px solid var(--line)",
              paddingLeft: 4,
              lineHeight: "14px",
              pointerEvents: "none",
            }}
          >
            {clock(time, to - from < 20)}
          </span>
        ))}
        {shown && shown.to > from && shown.from < to && (
          <SpanFrame
            testId="selection"
            left={percent(shown.from)}
            right={percent(shown.to)}
            half={wholeAnswers ? "upper" : "both"}
          />
        )}
        {wholeAnswers && (
          <SpanFrame testId="answer" left={percent(0)} right={percent(recreation.seconds)} half="lower" />
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
        {recreation && recreation.ready && recreation.seconds < to - 1 && recreation.seconds >= from && (
          <p
            className="small-text soft m-0"
            style={{
              position: "absolute",
              bottom: 14,
              left: `calc(${percent(recreation.seconds)} + 10px)`,
              pointerEvents: "none",
            }}
          >
            {recreation.name} ends at {clock(recreation.seconds)}
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
        {selection ? (
          <span>
            Selected{" "}
            <span className="strong">
              {clock(selection.from, true)} – {clock(selection.to, true)}
            </span>{" "}
            <span className="soft">
              ({(selection.to - selection.from).toFixed(1)} s{barsOf(selection, reference?.downbeats ?? [])})
            </span>{" "}
            <button type="button" className="plain-button underlined" onClick={() => onSelect(null)}>
              Select nothing
            </button>
          </span>
        ) : (
          <span className="soft">Drag to select a part; every view then compares that part.</span>
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

/** The bars that a selection takes in, in words; nothing where there are none. */
function barsOf(selection: Span, downbeats: readonly number[]): string {
  const first = barAt({ downbeats: [...downbeats] }, selection.from);
  // A selection that ends on a bar line does not reach into the next bar.
  const last = barAt({ downbeats: [...downbeats] }, selection.to - 0.05);
  if (first === null || last === null || last < 1) return "";
  return first === last ? `, bar ${last}` : `, bars ${Math.max(1, first)}–${last} of the reference`;
}

/** A frame around a span of the reference, of the version, or of both. */
function SpanFrame({
  left,
  right,
  half,
  testId,
}: {
  left: string;
  right: string;
  half: "upper" | "lower" | "both";
  testId: string;
}) {
  const middle = `calc(${rulerHeight / 2}px + 50%)`;
  return (
    <div
      data-testid={testId}
      style={{
        position: "absolute",
        top: half === "lower" ? middle : rulerHeight - 2,
        bottom: half === "upper" ? `calc(50% - ${rulerHeight / 2}px)` : 0,
        left,
        width: `calc(${right} - ${left})`,
        border: `1.5px ${half === "lower" ? "dashed" : "solid"} var(--ink)`,
        borderRadius: 3,
        pointerEvents: "none",
      }}
    />
  );
}

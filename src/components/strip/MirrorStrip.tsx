"use client";

import { useEffect, useMemo, useRef, useState, type PointerEvent } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import { clock } from "@/models/format";
import { usePlayback } from "@/listening/Playback";
import type { CoverageSpan } from "@/core/align/coverage";
import { barsIn, spanOfBars, type BarRange, type Grid } from "@/core/grid/grid";
import { shortestSpan, timesOf, type AlignedBars, type Span } from "@/core/study";
import { useFrames } from "@/components/useFrames";
import { useStoredCurve } from "@/components/useStoredCurve";
import { useThemeInks } from "@/components/useThemeInks";
import { fineContext, useWidth } from "@/components/useWidth";
import { CoverageEdges } from "./CoverageEdges";
import { StripSections, type StripSection } from "./StripSections";
import { StripTools } from "./StripTools";
import { emptyBars } from "./look";
import { useLook } from "./useLook";
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

/** Movement below this many pixels is a click, not a selection. */
const clickReach = 4;

/**
 * Both whole tracks on the mirror line: reference up, and below each of its bars what of the
 * version answers it. Drag selects bars, a click moves the playhead, wheel and keys zoom.
 */
export function MirrorStrip({
  reference,
  version,
  aligned,
  selection,
  bars,
  sections,
  onBars,
  onSelect,
  onCoverage,
}: {
  reference: StripTrack | null;
  version: StripTrack | null;
  /** Null where the two are not lined up: both then lie on one scale of seconds. */
  aligned: AlignedBars | null;
  selection: Span | null;
  bars: BarRange | null;
  sections: readonly StripSection[];
  onBars(bars: BarRange): void;
  onSelect(span: Span | null): void;
  onCoverage(spans: CoverageSpan[]): void;
}) {
  const playback = usePlayback();
  const inks = useThemeInks();
  const canvas = useRef<HTMLCanvasElement>(null);
  const playhead = useRef<HTMLDivElement>(null);
  const width = useWidth(canvas);
  const whole = Math.max(reference?.seconds ?? 0, aligned ? 0 : (version?.seconds ?? 0), 1);
  const { from, to, zoom, showAll, isCloser } = useLook(canvas, whole, selection);
  const height = 110;
  const [drag, setDrag] = useState<{ anchor: number; now: number; x: number; moved: boolean } | null>(null);

  const referenceOverview = useStoredCurve(reference?.ready ? reference.hash : null, "overview");
  const versionOverview = useStoredCurve(version?.ready ? version.hash : null, "overview");
  const grid = reference?.grid ?? null;
  const answers = useMemo(
    () => (aligned ? aligned.spans.map((span) => ({ span, times: timesOf(span, aligned) })) : null),
    [aligned],
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
      reference: half(reference, referenceOverview?.data ?? null, inks.reference, inks.referenceTint),
      version: half(
        version,
        versionOverview?.data ?? null,
        inks.version,
        inks.versionTint,
        answers?.map(({ times }) => ({
          from: times.reference.from,
          to: times.reference.to,
          ownFrom: times.version.from,
          ownTo: times.version.to,
        })),
      ),
    });
  }, [width, from, to, reference, version, referenceOverview, versionOverview, inks, answers]);

  useHotkeys(
    "escape",
    () => onSelect(null),
    { enabled: selection !== null, ignoreEventWhen: (event) => event.defaultPrevented },
    [onSelect],
  );

  useFrames(() => {
    const element = playhead.current;
    if (!element) return;
    const share = (playback.position() - from) / (to - from);
    element.style.visibility = share >= 0 && share <= 1 ? "visible" : "hidden";
    element.style.left = `${100 * share}%`;
  });

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
      !reference && !version
        ? []
        : grid
          ? rulerBars(grid, from, to, width).map(({ bar, seconds }) => ({ seconds, text: String(bar) }))
          : rulerTimes(from, to, width).map((seconds) => ({ seconds, text: clock(seconds, to - from < 20) })),
    [reference, version, grid, from, to, width],
  );
  const empty = useMemo(() => (aligned && grid ? emptyBars(aligned, grid) : []), [aligned, grid]);

  return (
    <section className="strip" aria-label="Both tracks over time">
      {grid && sections.length > 0 && (
        <StripSections
          grid={grid}
          sections={sections}
          bars={bars}
          look={{ from, to }}
          width={width}
          onBars={onBars}
        />
      )}
      <div className="position-relative" style={{ height }}>
        <canvas
          ref={canvas}
          role="img"
          aria-label={`Waveforms: ${reference ? "reference above" : "no reference"}, ${version ? `${version.name} below` : "no version"}`}
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
        {version?.ready &&
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
        {aligned && version?.ready && (
          <CoverageEdges
            aligned={aligned}
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
        {version && !version.ready && (
          <p className="small-text soft" style={{ position: "absolute", bottom: 0, left: 8 }}>
            {version.name} is being analysed.
          </p>
        )}
        {reference && !version && (
          <p className="small-text soft" style={{ position: "absolute", bottom: 4, left: 8 }}>
            Your recreation will appear here, below the line.
          </p>
        )}
      </div>
      <StripTools
        span={shown}
        bars={shownBars}
        isCloser={isCloser}
        onNothing={() => onSelect(null)}
        onZoom={zoom}
        onAll={showAll}
      />
    </section>
  );
}

/** Height of the mirror line. */
const middleOf = (height: number): number => rulerHeight + (height - rulerHeight) / 2;

"use client";

import { useEffect, useMemo, useRef } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import { emptyBars } from "@/models/coverage";
import { usePlayback } from "@/listening/Playback";
import type { CoverageSpan } from "@/core/align/coverage";
import { barStart, barsIn, spanOfBars, type BarRange, type Grid } from "@/core/grid/grid";
import { shortestSpan, timesOf, type AlignedBars, type Span } from "@/core/study";
import { percentAt, stretchOn } from "@/components/timeline/axis";
import { Playhead } from "@/components/timeline/Playhead";
import { Ruler } from "@/components/timeline/Ruler";
import { barMarks, rulerHeight, timeMarks } from "@/components/timeline/ruler";
import { SectionLane, type LaneSection } from "@/components/timeline/SectionLane";
import { useRangeDrag } from "@/components/timeline/useRangeDrag";
import { useViewport } from "@/components/timeline/useViewport";
import { useStoredCurve } from "@/components/useStoredCurve";
import { useThemeInks } from "@/components/useThemeInks";
import { fineContext, useWidth } from "@/components/useWidth";
import { CoverageEdges } from "./CoverageEdges";
import { StripTools } from "./StripTools";
import { drawStrip, type Half, type Placed } from "./draw";

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
  sections: readonly LaneSection[];
  onBars(bars: BarRange): void;
  onSelect(span: Span | null): void;
  onCoverage(spans: CoverageSpan[]): void;
}) {
  const playback = usePlayback();
  const inks = useThemeInks();
  const canvas = useRef<HTMLCanvasElement>(null);
  const width = useWidth(canvas);
  const whole = Math.max(reference?.seconds ?? 0, aligned ? 0 : (version?.seconds ?? 0), 1);
  const { axis, zoom, showAll, isCloser } = useViewport(canvas, whole, selection);
  const { from, to } = axis;
  const height = 110;
  const { dragged, handlers } = useRangeDrag(axis, selection, {
    onPoint: (at) => playback.seek(Math.min(whole, at)),
    onRange(range) {
      const to = Math.min(whole, range.to);
      if (to - range.from < shortestSpan) return;
      onSelect({ from: range.from, to });
      playback.seek(range.from);
    },
  });

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

  const shown =
    dragged && grid ? spanOfBars(grid, barsIn(grid, dragged.from, dragged.to)) : (dragged ?? selection);
  const shownBars = dragged && grid ? barsIn(grid, dragged.from, dragged.to) : bars;
  const marks = useMemo(
    () => (!reference && !version ? [] : grid ? barMarks(grid, axis, width) : timeMarks(axis, width)),
    [reference, version, grid, axis, width],
  );
  const empty = useMemo(() => (aligned && grid ? emptyBars(aligned, grid) : []), [aligned, grid]);

  return (
    <section className="strip" aria-label="Both tracks over time">
      {grid && sections.length > 0 && (
        <SectionLane
          axis={axis}
          startOf={(bar) => barStart(grid, bar)}
          sections={sections}
          bars={bars}
          width={width}
          onBars={(next) => {
            onBars(next);
            playback.seek(spanOfBars(grid, next).from);
          }}
        />
      )}
      <div className="position-relative" style={{ height }}>
        <canvas
          ref={canvas}
          role="img"
          aria-label={`Waveforms: ${reference ? "reference above" : "no reference"}, ${version ? `${version.name} below` : "no version"}`}
          {...handlers}
        />
        <Ruler axis={axis} marks={marks} />
        {version?.ready &&
          empty.map((gap) => {
            const span = spanOfBars(grid!, gap);
            const shown = stretchOn(axis, span.from, span.to);
            if (!shown) return null;
            const room = shown.share * width;
            return (
              <span
                key={gap.first}
                data-testid="not-recreated"
                className="not-recreated tiny-text soft"
                style={{ left: shown.left, width: room - 3, top: middleOf(height) + 2 }}
                title={`Bars ${gap.first} to ${gap.last} are not recreated`}
              >
                {room > 84 ? "not recreated" : ""}
              </span>
            );
          })}
        {aligned && version?.ready && (
          <CoverageEdges
            aligned={aligned}
            axis={axis}
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
              left: percentAt(axis, shown.from),
              width: `calc(${percentAt(axis, shown.to)} - ${percentAt(axis, shown.from)})`,
            }}
          />
        )}
        <Playhead axis={axis} position={() => playback.position()} top={rulerHeight - 4} />
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

"use client";

import { Choices } from "@/components/Choices";
import { useEffect, useMemo, useRef, useState } from "react";
import { fixed } from "@/models/format";
import { pointedAt } from "@/components/timeline/axis";
import { Playhead } from "@/components/timeline/Playhead";
import { Ruler } from "@/components/timeline/Ruler";
import { beatMarks, rulerHeight } from "@/components/timeline/ruler";
import { floatsOf, useStoredCurve, type StoredCurve } from "@/components/useStoredCurve";
import { useThemeInks } from "@/components/useThemeInks";
import { fineContext, useWidth } from "@/components/useWidth";
import { barStart, beatAt, secondsAt, type Grid } from "@/core/grid/grid";
import type { AlignedBars } from "@/core/study";
import { usePlayback } from "@/listening/Playback";
import type { GridSide } from "@/models/grid";
import { useSamples, type SampleWindow } from "./useSamples";

/** How much of a bar is shown. */
const looks = [
  { name: "two bars", bars: 2 },
  { name: "one bar", bars: 1 },
  { name: "one beat", bars: 0.25 },
  { name: "one transient", bars: 0.0625 },
] as const;

interface Half {
  side: GridSide;
  /** Seconds of its file at the left and right edge. */
  from: number;
  to: number;
  samples: SampleWindow | null;
  onsets: StoredCurve | null;
}

const height = 216;

/**
 * Waveform and onset strength around a bar with the grid over it: the reference above the line, what
 * answers it below, so that a grid or a hit that is ten milliseconds late can be seen.
 */
export function CloseView({
  upper,
  lower,
  aligned,
  bar,
  onBar,
}: {
  upper: GridSide;
  lower: GridSide | null;
  aligned: AlignedBars | null;
  bar: number;
  onBar(bar: number): void;
}) {
  const [look, setLook] = useState<(typeof looks)[number]>(looks[1]);
  const canvas = useRef<HTMLCanvasElement>(null);
  const width = useWidth(canvas);
  const inks = useThemeInks();
  const playback = usePlayback();
  const grid = upper.grid!;
  const { beatsPerBar } = grid;

  // A little before the bar, so that what comes early is seen.
  const beats = look.bars * beatsPerBar;
  const firstBeat = (bar - 1) * beatsPerBar - 0.12 * Math.min(beats, 2);
  const lastBeat = firstBeat + beats;
  const upperFrom = secondsAt(grid, firstBeat);
  const upperTo = secondsAt(grid, lastBeat);
  const span = aligned?.spans.find(
    ({ referenceFirst, bars }) => bar >= referenceFirst && bar < referenceFirst + bars,
  );
  const shift = span ? (span.versionFirst - span.referenceFirst) * beatsPerBar : null;
  const lowerGrid = lower?.grid ?? null;
  const lowerFrom = lowerGrid && shift !== null ? secondsAt(lowerGrid, firstBeat + shift) : 0;
  const lowerTo = lowerGrid && shift !== null ? secondsAt(lowerGrid, lastBeat + shift) : 0;
  const upperSamples = useSamples(upper.hash, upper.sampleRate, upperFrom, upperTo);
  const lowerSamples = useSamples(
    lower && shift !== null ? lower.hash : null,
    lower?.sampleRate ?? 44100,
    lowerFrom,
    lowerTo,
  );
  const upperOnsets = useStoredCurve(upper.hash, "onsetStrength");
  const lowerOnsets = useStoredCurve(lower?.hash ?? null, "onsetStrength");

  const halves = useMemo(
    (): { up: Half; down: Half | null } => ({
      up: { side: upper, from: upperFrom, to: upperTo, samples: upperSamples, onsets: upperOnsets },
      down:
        lower && shift !== null
          ? { side: lower, from: lowerFrom, to: lowerTo, samples: lowerSamples, onsets: lowerOnsets }
          : null,
    }),
    [
      upper,
      lower,
      shift,
      upperFrom,
      upperTo,
      lowerFrom,
      lowerTo,
      upperSamples,
      lowerSamples,
      upperOnsets,
      lowerOnsets,
    ],
  );

  useEffect(() => {
    const context = fineContext(canvas.current, width, height);
    if (!context) return;
    context.clearRect(0, 0, width, height);
    const middle = rulerHeight + (height - rulerHeight) / 2;
    drawGrid(context, width, firstBeat, lastBeat, beatsPerBar, inks);
    const isReference = upper.kind === "reference";
    drawHalf(
      context,
      halves.up,
      width,
      middle,
      -1,
      isReference ? inks.reference : inks.version,
      isReference ? inks.referenceTint : inks.versionTint,
    );
    if (halves.down) drawHalf(context, halves.down, width, middle, 1, inks.version, inks.versionTint);
    context.fillStyle = inks.soft;
    context.fillRect(0, Math.round(middle) - 0.5, width, 1);
  }, [width, halves, inks, firstBeat, lastBeat, beatsPerBar, upper.kind]);

  const axis = { from: firstBeat, to: lastBeat };
  const milliseconds = 1000 * (upperTo - upperFrom);
  return (
    <section aria-label="Close view">
      <div className="d-flex align-items-baseline gap-3 small-text mb-1">
        <span className="strong" style={{ fontSize: "0.9375rem" }}>
          Bar {bar}
          {span && aligned ? (
            <span className="soft fw-normal">
              {" "}
              · your bar {bar + span.versionFirst - span.referenceFirst}
            </span>
          ) : lower ? (
            <span className="soft fw-normal"> · not recreated</span>
          ) : null}
        </span>
        <button type="button" className="plain-button underlined" onClick={() => onBar(bar - 1)}>
          Previous bar
        </button>
        <button type="button" className="plain-button underlined" onClick={() => onBar(bar + 1)}>
          Next bar
        </button>
        <Choices
          label="Zoom"
          className="ms-auto"
          choices={looks.map(({ name }) => ({ value: name, title: name }))}
          chosen={look.name}
          onChoose={(name) => setLook(looks.find((one) => one.name === name)!)}
        />
      </div>
      <div className="position-relative" style={{ height }}>
        <canvas
          ref={canvas}
          style={{ width: "100%", height }}
          role="img"
          aria-label={`${upper.name} above, ${halves.down ? `${halves.down.side.name} below` : "nothing below"}, bar ${bar}, ${Math.round(milliseconds)} milliseconds wide`}
          onClick={(event) => {
            if (upper.kind !== "reference") return;
            playback.seek(pointedAt({ from: upperFrom, to: upperTo }, event, event.currentTarget));
          }}
        />
        <Ruler axis={axis} marks={beatMarks(grid, axis, beats > 2 ? 1 : 0.25)} />
        <Playhead
          axis={axis}
          position={() => (upper.kind === "reference" ? playback.beat() : null)}
          top={rulerHeight}
        />
      </div>
      <div className="tiny-text soft d-flex justify-content-between">
        <span>Filled: waveform. Line: onset strength. Vertical lines: the grid.</span>
        <span>
          {milliseconds < 1000 ? `${Math.round(milliseconds)} ms` : `${fixed(milliseconds / 1000, 2)} s`} wide
        </span>
      </div>
    </section>
  );
}

type Inks = ReturnType<typeof useThemeInks>;

function drawGrid(
  context: CanvasRenderingContext2D,
  width: number,
  from: number,
  to: number,
  beatsPerBar: number,
  inks: Inks,
): void {
  for (let step = Math.ceil(from * 4); step < to * 4; step++) {
    const beat = step / 4;
    const x = Math.round(((beat - from) / (to - from)) * width) + 0.5;
    const isBar = Number.isInteger(beat / beatsPerBar);
    context.strokeStyle = isBar ? inks.ink : Number.isInteger(beat) ? inks.soft : inks.line;
    context.lineWidth = isBar ? 1.5 : 1;
    context.beginPath();
    context.moveTo(x, rulerHeight);
    context.lineTo(x, height);
    context.stroke();
  }
}

/** Waveform as filled columns, onset strength as a line, on one side of the mirror line. */
function drawHalf(
  context: CanvasRenderingContext2D,
  { side, from, to, samples, onsets }: Half,
  width: number,
  middle: number,
  direction: 1 | -1,
  ink: string,
  tint: string,
): void {
  const reach = height - middle - 4;
  if (samples) {
    const { sampleRate } = side;
    let loudest = 0.05;
    for (let i = 0; i < samples.samples.length; i++)
      loudest = Math.max(loudest, Math.abs(samples.samples[i]!));
    context.fillStyle = tint;
    for (let x = 0; x < width; x++) {
      const first = Math.round((from + ((to - from) * x) / width - samples.from) * sampleRate);
      const last = Math.max(
        first + 1,
        Math.round((from + ((to - from) * (x + 1)) / width - samples.from) * sampleRate),
      );
      let peak = 0;
      for (let i = Math.max(0, first); i < Math.min(samples.samples.length, last); i++) {
        peak = Math.max(peak, Math.abs(samples.samples[i]!));
      }
      const tall = (peak / loudest) * reach;
      context.fillRect(x, direction < 0 ? middle - tall : middle, 1, tall);
    }
  }
  if (onsets && onsets.rate > 0) {
    const curve = floatsOf(onsets);
    const framesPerSecond = onsets.rate;
    const first = Math.floor(from * framesPerSecond) - 1;
    const last = Math.ceil(to * framesPerSecond) + 1;
    let most = 1;
    for (let i = first; i <= last; i++) most = Math.max(most, curve[i] ?? 0);
    context.strokeStyle = ink;
    context.lineWidth = 1.5;
    context.beginPath();
    for (let i = first; i <= last; i++) {
      const x = ((i / framesPerSecond - from) / (to - from)) * width;
      const y = middle + direction * ((curve[i] ?? 0) / most) * reach * 0.92;
      if (i === first) context.moveTo(x, y);
      else context.lineTo(x, y);
    }
    context.stroke();
  }
}

/** The bar in which a time of the reference lies. */
export const barAtTime = (grid: Grid, seconds: number): number =>
  Math.floor(beatAt(grid, Math.max(seconds, barStart(grid, 1))) / grid.beatsPerBar + 1e-6) + 1;

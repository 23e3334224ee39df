"use client";

import { useLayoutEffect, useMemo, useRef, useState } from "react";
import { floatsOf, useStoredCurve, type StoredCurve } from "@/components/useStoredCurve";
import { useThemeInks } from "@/components/useThemeInks";
import { useWidth } from "@/components/useWidth";
import type { BarRange } from "@/core/grid/grid";
import { barsOf, barStart, beatAt, secondsAt } from "@/core/grid/grid";
import type { AlignedBars } from "@/core/study";
import { twelfthCount, twelfthPosition } from "@/core/tone";
import { axisFrequency } from "@/models/format";
import { usePlayback } from "@/listening/Playback";

const heightOfSide = 108;
/** Levels so far below the loudest are paper; differences of this size have the full ink. */
const shownDecibels = 62;
const fullGap = 12;
const marked = [63, 250, 1000, 4000, 16000];

/** Levels of each band in each column of a picture, dB; NaN where a side has nothing there. */
function columnsOf(
  mid: StoredCurve,
  side: StoredCurve,
  timeOf: (column: number) => { from: number; to: number } | null,
  columns: number,
): Float32Array {
  const [m, s] = [floatsOf(mid), floatsOf(side)];
  const frames = m.length / twelfthCount;
  const levels = new Float32Array(columns * twelfthCount).fill(NaN);
  for (let column = 0; column < columns; column++) {
    const time = timeOf(column);
    if (!time) continue;
    const first = Math.min(frames - 1, Math.max(0, Math.round(time.from * mid.rate)));
    const last = Math.min(frames - 1, Math.max(first, Math.round(time.to * mid.rate) - 1));
    for (let b = 0; b < twelfthCount; b++) {
      let sum = 0;
      for (let f = first; f <= last; f++) sum += m[f * twelfthCount + b]! + s[f * twelfthCount + b]!;
      levels[column * twelfthCount + b] = 10 * Math.log10(sum / (last - first + 1) + 1e-12);
    }
  }
  return levels;
}

/** Strength of the ink, 0–1, of levels so many quarters of a decibel below the loudest. */
const strengths = Float32Array.from(
  { length: 4 * shownDecibels + 1 },
  (_, quarters) => (1 - quarters / 4 / shownDecibels) ** 1.6,
);

/** An ink as a pixel has it, from its lowest byte on: red, green, blue. */
function inkOf(ink: string): number {
  const value = parseInt(ink.replace("#", ""), 16);
  return ((value >> 16) & 255) | (value & 0xff00) | ((value & 255) << 16);
}

/**
 * Both sides over time and frequency at equal loudness: the reference's above the line, the
 * version's below it, low frequencies at the line; or only where they differ.
 */
export function Spectrogram({
  hashes,
  aligned,
  bars,
  shift,
  onBars,
}: {
  hashes: Record<"reference" | "version", string>;
  aligned: AlignedBars;
  bars: BarRange | null;
  shift: number;
  onBars(bars: BarRange): void;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const width = useWidth(canvas);
  const inks = useThemeInks();
  const playback = usePlayback();
  const [isGap, setGap] = useState(false);
  const curves = {
    referenceMid: useStoredCurve(hashes.reference, "bandsMid"),
    referenceSide: useStoredCurve(hashes.reference, "bandsSide"),
    versionMid: useStoredCurve(hashes.version, "bandsMid"),
    versionSide: useStoredCurve(hashes.version, "bandsSide"),
  };
  const { referenceMid, referenceSide, versionMid, versionSide } = curves;
  const all = barsOf(aligned.reference);
  const shown = bars ?? { first: Math.max(1, all.first), last: all.last };
  const { first: firstBar, last: lastBar } = shown;
  const columns = Math.max(1, width);
  const levels = useMemo(() => {
    if (!referenceMid || !referenceSide || !versionMid || !versionSide || width === 0) return null;
    const from = barStart(aligned.reference, firstBar);
    const to = barStart(aligned.reference, lastBar + 1);
    const timeAt = (column: number) => from + ((to - from) * column) / columns;
    const { beatsPerBar } = aligned.reference;
    const answer = (seconds: number): number | null => {
      const beat = beatAt(aligned.reference, seconds);
      const bar = Math.floor(beat / beatsPerBar) + 1;
      const span = aligned.spans.find(
        ({ referenceFirst, bars: count }) => bar >= referenceFirst && bar < referenceFirst + count,
      );
      return span
        ? secondsAt(aligned.version, beat + (span.versionFirst - span.referenceFirst) * beatsPerBar)
        : null;
    };
    const ours = columnsOf(
      referenceMid,
      referenceSide,
      (column) => ({ from: timeAt(column), to: timeAt(column + 1) }),
      columns,
    );
    const theirs = columnsOf(
      versionMid,
      versionSide,
      (column) => {
        const start = answer(timeAt(column) + 1e-6);
        return start === null ? null : { from: start, to: start + (to - from) / columns };
      },
      columns,
    );
    return { ours, theirs: theirs.map((level) => level + shift) };
  }, [
    referenceMid,
    referenceSide,
    versionMid,
    versionSide,
    aligned,
    firstBar,
    lastBar,
    columns,
    width,
    shift,
  ]);

  // Before the frame is shown: one frame less until all of it is.
  useLayoutEffect(() => {
    const context = canvas.current?.getContext("2d");
    if (!context || !canvas.current || !levels || width === 0) return;
    const height = 2 * heightOfSide;
    canvas.current.width = columns;
    canvas.current.height = height;
    const image = context.createImageData(columns, height);
    const pixels = new Uint32Array(image.data.buffer);
    let loudest = -200;
    for (const level of levels.ours) if (level > loudest) loudest = level;
    const [ours, theirs] = [inkOf(inks.reference), inkOf(inks.version)];
    const bandOf = Int32Array.from({ length: height }, (_, y) => {
      // In the difference one picture fills both halves.
      const share = isGap ? 1 - (y + 0.5) / height : Math.abs(y + 0.5 - heightOfSide) / heightOfSide;
      return Math.min(twelfthCount - 1, Math.floor(share * twelfthCount));
    });
    const strength = (level: number) =>
      strengths[Math.min(strengths.length - 1, Math.max(0, Math.round(4 * (loudest - level))))]!;
    for (let x = 0; x < columns; x++) {
      for (let y = 0; y < height; y++) {
        const at = x * twelfthCount + bandOf[y]!;
        const [own, other] = [levels.ours[at]!, levels.theirs[at]!];
        let alpha = 0;
        let ink = ours;
        if (isGap) {
          if (Number.isNaN(other)) continue;
          const heard = Math.sqrt(Math.max(strength(own), strength(other)));
          const gap = other - own;
          if (gap > 0) ink = theirs;
          alpha = Math.min(1, Math.max(0, (heard * (Math.abs(gap) - 1)) / fullGap));
        } else if (y < heightOfSide) alpha = strength(own);
        else if (!Number.isNaN(other)) {
          ink = theirs;
          alpha = strength(other);
        }
        pixels[y * columns + x] = (Math.round(255 * alpha) << 24) | ink;
      }
    }
    context.putImageData(image, 0, 0);
  }, [levels, isGap, inks, columns, width]);

  const placeOf = (hertz: number, half: "above" | "below" | "whole") => {
    const share = twelfthPosition(hertz) / twelfthCount;
    if (half === "whole") return 100 * (1 - share);
    return half === "above" ? 50 * (1 - share) : 50 * (1 + share);
  };
  const barAtX = (event: { clientX: number; currentTarget: Element }) => {
    const { left, width: wide } = event.currentTarget.getBoundingClientRect();
    const share = (event.clientX - left) / wide;
    return Math.min(lastBar, Math.floor(firstBar + share * (lastBar - firstBar + 1)));
  };
  return (
    <section className="spectrogram" aria-label="Spectrogram">
      <div className="chart-heading">
        <h2>Over time</h2>
        <span className="choices me-auto" role="group" aria-label="What the spectrogram shows">
          <button type="button" className="plain-button" aria-pressed={!isGap} onClick={() => setGap(false)}>
            both
          </button>
          <button type="button" className="plain-button" aria-pressed={isGap} onClick={() => setGap(true)}>
            difference
          </button>
        </span>
        <span className="small-text soft">
          {isGap ? (
            <>
              <span className="in-reference strong">the reference has more</span>,{" "}
              <span className="in-version strong">the version has more</span>
            </>
          ) : (
            `bars ${firstBar}–${lastBar}, low frequencies at the line; press to hear a bar`
          )}
        </span>
      </div>
      <div className="spectrogram-picture">
        {(isGap ? (["whole"] as const) : (["above", "below"] as const)).flatMap((half) =>
          marked.map((hertz) => (
            <span key={`${half} ${hertz}`} className="tick" style={{ top: `${placeOf(hertz, half)}%` }}>
              {axisFrequency(hertz)}
            </span>
          )),
        )}
        <div className="canvas">
          <canvas
            ref={canvas}
            role="img"
            aria-label={isGap ? "Where both sides differ over time" : "Spectra of both sides over time"}
            style={{ height: 2 * heightOfSide }}
            onClick={(event) => playback.seek(barStart(aligned.reference, barAtX(event)))}
            onDoubleClick={(event) => {
              const bar = barAtX(event);
              onBars({ first: bar, last: bar });
            }}
          />
          {!isGap && <div className="mirror" />}
        </div>
      </div>
    </section>
  );
}

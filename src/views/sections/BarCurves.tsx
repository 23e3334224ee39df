"use client";

import { useState } from "react";
import { percentAt, type Axis } from "@/components/timeline/axis";
import { MirrorBars, MirrorPicture } from "@/components/timeline/MirrorPicture";
import { fixed } from "@/models/format";
import type { BarRange } from "@/core/grid/grid";
import type { CoverageSpan } from "@/core/align/coverage";
import type { Seconds } from "@/core/units";
import type { PlanTrack } from "@/models/plan";
import { MomentGlyph } from "./MomentGlyph";
import { answeringBars, barMeasures, momentWords, type BarMeasure, type Moment } from "@/models/sections";

const height = 92;

/** One measure of every bar on the mirror line: the reference's upwards, what answers it downwards. */
export function BarCurves({
  bars,
  reference,
  version,
  spans,
  moments,
  beatsPerBar,
  startOfBar,
  selected,
  onBars,
}: {
  bars: BarRange;
  reference: PlanTrack;
  version: PlanTrack | null;
  spans: readonly CoverageSpan[];
  moments: readonly Moment[];
  beatsPerBar: number;
  startOfBar(bar: number): Seconds;
  selected: BarRange | null;
  onBars(bars: BarRange): void;
}) {
  const axis: Axis = { from: bars.first, to: bars.last + 1 };
  const [measure, setMeasure] = useState<BarMeasure>("loudness");
  const [at, setAt] = useState<number | null>(null);
  const { title, unit, floor, digits } = barMeasures[measure];
  const count = bars.last - bars.first + 1;
  const barOf = ({ startBeat }: Moment) => Math.floor(startBeat / beatsPerBar);
  const valuesOf = (track: PlanTrack | null) => {
    const form = track?.plan.measured.form;
    return (bar: number | undefined): number | null =>
      form && bar !== undefined ? (form.bars[measure][bar - form.bars.firstBar] ?? null) : null;
  };
  const own = valuesOf(reference);
  const theirs = valuesOf(version);
  const rows = Array.from({ length: count }, (_, i) => {
    const bar = bars.first + i;
    const answer = version ? answeringBars(version, spans, bar, bar)[0] : undefined;
    return { bar, reference: own(bar), version: theirs(answer) };
  });
  const all = rows.flatMap((row) => [row.reference, row.version]).filter((value) => value !== null);
  const high = Math.max(...all, floor + 1);
  // Levels begin a little under the quietest bar that matters, counts at 0.
  const low =
    measure === "density"
      ? 0
      : Math.max(floor, Math.min(...all, high - 6) - (measure === "brightness" ? 0 : 3));
  const scale = (value: number) =>
    measure === "brightness"
      ? Math.log(Math.max(value, low) / low) / Math.log(high / low)
      : (Math.max(value, low) - low) / (high - low);
  const shown = at === null ? null : rows[at];
  return (
    <section aria-label={`${title}, bar by bar`}>
      <div className="d-flex align-items-baseline gap-3 small-text">
        <span className="choices" role="group" aria-label="What is shown of each bar">
          {(Object.keys(barMeasures) as BarMeasure[]).map((name) => (
            <button
              key={name}
              type="button"
              className="plain-button"
              aria-pressed={name === measure}
              onClick={() => setMeasure(name)}
            >
              {barMeasures[name].title}
            </button>
          ))}
        </span>
        <span className="ms-auto soft">
          {shown ? (
            <>
              Bar {shown.bar}: <span className="in-reference strong">{fixed(shown.reference, digits)}</span>
              {version && (
                <>
                  {" "}
                  against <span className="in-version strong">{fixed(shown.version, digits)}</span>
                </>
              )}{" "}
              {unit}
            </>
          ) : (
            `${fixed(low, digits)} at the line, ${fixed(high, digits)} ${unit} at the edges`
          )}
        </span>
      </div>
      <MirrorPicture
        bars={bars}
        beatsPerBar={beatsPerBar}
        height={height}
        label={`${title} of each bar, reference above the line${version ? ", version below" : ""}`}
        startOfBar={startOfBar}
        selected={selected}
        onBars={onBars}
        onPointed={(place) =>
          setAt(place === null ? null : Math.min(bars.last, Math.floor(place)) - bars.first)
        }
      >
        <MirrorBars rows={rows} height={height} scale={scale} />
      </MirrorPicture>
      <div className="moment-marks" aria-hidden="true">
        {moments.map((moment, i) => (
          <span
            key={i}
            className="tiny-text soft"
            style={{
              left: percentAt(axis, moment.startBeat / beatsPerBar + 1),
              // Those of one bar stand side by side.
              marginLeft: 15 * moments.slice(0, i).filter((other) => barOf(other) === barOf(moment)).length,
            }}
            title={`${momentWords[moment.kind].name}, bar ${Math.floor(moment.startBeat / beatsPerBar) + 1}`}
          >
            <MomentGlyph kind={moment.kind} />
          </span>
        ))}
      </div>
    </section>
  );
}

"use client";

import { useMemo, useState } from "react";
import { MirrorPicture } from "@/components/timeline/MirrorPicture";
import { barStart, secondsAt, type BarRange } from "@/core/grid/grid";
import { momentaryLoudness, shortTermLoudness } from "@/core/loudness";
import { answeringTime, type AlignedBars } from "@/core/study";
import { fixed } from "@/models/format";

const height = 176;
const half = height / 2;
/** Points across the picture. */
const points = 720;
/** What is drawn below the loudest moment, dB. */
const shownDecibels = 24;
/** Values come every 100 ms; each is of the window that begins there. */
const perSecond = 10;
const windows = { shortTerm: 3, momentary: 0.4 } as const;

type Curves = Record<keyof typeof windows, Float32Array>;
const curvesOf = (kWeighted: Float32Array): Curves => ({
  shortTerm: shortTermLoudness(kWeighted),
  momentary: momentaryLoudness(kWeighted),
});

/** The value whose window has its middle at a time. */
function levelAt(curves: Curves, which: keyof typeof windows, seconds: number): number {
  const curve = curves[which];
  const index = Math.round((seconds - windows[which] / 2) * perSecond);
  return curve[Math.max(0, Math.min(curve.length - 1, index))] ?? -Infinity;
}

/** Short-term loudness as a surface and momentary as a line: the reference above, the version below. */
export function LoudnessCurves({
  reference,
  version,
  aligned,
  bars,
  selected,
  onBars,
  shift,
}: {
  /** K-weighted mean square of each 10 ms. */
  reference: Float32Array;
  version: Float32Array;
  aligned: AlignedBars;
  bars: BarRange;
  selected: BarRange | null;
  onBars(bars: BarRange): void;
  /** dB added to the version. */
  shift: number;
}) {
  const [at, setAt] = useState<number | null>(null);
  const curves = useMemo(
    () => ({ reference: curvesOf(reference), version: curvesOf(version) }),
    [reference, version],
  );
  const { beatsPerBar } = aligned.reference;
  /** Time in the reference at a place in bars, and of what answers it. */
  const timesAt = (place: number) => {
    const beat = (place - 1) * beatsPerBar;
    return { reference: secondsAt(aligned.reference, beat), version: answeringTime(aligned, beat) };
  };
  const drawn = Array.from({ length: points + 1 }, (_, i) => {
    const place = bars.first + ((bars.last + 1 - bars.first) * i) / points;
    const { reference: own, version: other } = timesAt(Math.min(place, bars.last + 0.9999));
    const level = (which: keyof typeof windows) => ({
      reference: levelAt(curves.reference, which, own),
      version: other === null ? null : levelAt(curves.version, which, other) + shift,
    });
    return { x: (100 * i) / points, shortTerm: level("shortTerm"), momentary: level("momentary") };
  });
  const loudest = drawn.reduce(
    (most, own) => Math.max(most, own.momentary.reference, own.momentary.version ?? -Infinity),
    -60,
  );
  const top = Math.ceil(loudest);
  const floor = top - shownDecibels;
  const scale = (level: number) => Math.max(0, Math.min(1, (level - floor) / shownDecibels)) * (half - 2);
  const path = (which: keyof typeof windows, side: "reference" | "version") => {
    let pen = "";
    let isDown = false;
    const begin = (x: number, y: number) =>
      `${pen === "" || !isDown ? "M" : "L"}${x.toFixed(2)} ${y.toFixed(1)}`;
    for (const own of drawn) {
      const level = own[which][side];
      if (level === null) {
        if (isDown && which === "shortTerm") pen += `L${own.x.toFixed(2)} ${half}Z`;
        isDown = false;
        continue;
      }
      const y = side === "reference" ? half - scale(level) : half + scale(level);
      if (!isDown && which === "shortTerm") {
        pen += `M${own.x.toFixed(2)} ${half}`;
        isDown = true;
      }
      pen += begin(own.x, y);
      isDown = true;
    }
    return which === "shortTerm" && isDown ? `${pen}L100 ${half}Z` : pen;
  };
  const pointed =
    at === null ? null : drawn[Math.round(((at - bars.first) / (bars.last + 1 - bars.first)) * points)];
  return (
    <section aria-label="Loudness over bars">
      <div className="chart-heading">
        <h2>Over the bars</h2>
        <span className="small-text soft">
          {pointed && at !== null ? (
            <>
              Bar {Math.floor(at)}: short-term{" "}
              <span className="in-reference strong">{fixed(pointed.shortTerm.reference)}</span>
              {pointed.shortTerm.version !== null && (
                <>
                  {" "}
                  against <span className="in-version strong">{fixed(pointed.shortTerm.version)}</span>
                </>
              )}{" "}
              LUFS
            </>
          ) : (
            `surface: short-term (3 s), line: momentary (0.4 s); ${fixed(floor, 0)} LUFS at the line, ${fixed(top, 0)} at the edges`
          )}
        </span>
      </div>
      <MirrorPicture
        bars={bars}
        beatsPerBar={beatsPerBar}
        height={height}
        label="Short-term and momentary loudness, reference above the line, version below"
        startOfBar={(bar) => barStart(aligned.reference, bar)}
        selected={selected}
        onBars={onBars}
        onPointed={setAt}
      >
        <path className="up surface" d={path("shortTerm", "reference")} />
        <path className="down surface" d={path("shortTerm", "version")} />
        <path className="line-up" d={path("momentary", "reference")} />
        <path className="line-down" d={path("momentary", "version")} />
      </MirrorPicture>
    </section>
  );
}

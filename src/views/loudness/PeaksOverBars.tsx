"use client";

import { useMemo, useState } from "react";
import { MirrorBars, MirrorPicture } from "@/components/timeline/MirrorPicture";
import { barStart, type BarRange } from "@/core/grid/grid";
import type { AlignedBars } from "@/core/study";
import { peaksOverBars } from "@/models/dynamics";
import { fixed } from "@/models/format";

const height = 176;
/** Peak to loudness at the line and at the edges, LU. */
const least = 4;
const most = 20;

/** How far the peaks of each bar stand above its loudness: short bars are held down by a limiter. */
export function PeaksOverBars({
  reference,
  version,
  peaks,
  aligned,
  bars,
  onBars,
}: {
  /** K-weighted mean square of each 10 ms. */
  reference: Float32Array;
  version: Float32Array;
  /** True peak of each 100 ms, linear. */
  peaks: Record<"reference" | "version", Float32Array>;
  aligned: AlignedBars;
  bars: BarRange;
  onBars(bars: BarRange): void;
}) {
  const [at, setAt] = useState<number | null>(null);
  const rows = useMemo(
    () =>
      peaksOverBars(bars, aligned, {
        reference: { kWeighted: reference, truePeaks: peaks.reference },
        version: { kWeighted: version, truePeaks: peaks.version },
      }),
    [bars, aligned, reference, version, peaks],
  );
  const pointed = at === null ? null : rows[Math.floor(at) - bars.first];
  return (
    <section aria-label="Peaks over bars">
      <div className="chart-heading">
        <h2>Peak to loudness, bar by bar</h2>
        <span className="small-text soft">
          {pointed ? (
            <>
              Bar {pointed.bar}: <span className="in-reference strong">{fixed(pointed.reference)}</span>{" "}
              against <span className="in-version strong">{fixed(pointed.version)}</span> LU
            </>
          ) : (
            `short bars are held down by a limiter; ${least} LU at the line, ${most} at the edges`
          )}
        </span>
      </div>
      <MirrorPicture
        bars={bars}
        beatsPerBar={aligned.reference.beatsPerBar}
        height={height}
        label="Peak to loudness of each bar, reference above the line, version below"
        startOfBar={(bar) => barStart(aligned.reference, bar)}
        selected={null}
        onBars={onBars}
        onPointed={setAt}
      >
        <MirrorBars
          rows={rows}
          height={height}
          scale={(value) => Math.max(0, Math.min(1, (value - least) / (most - least)))}
        />
      </MirrorPicture>
    </section>
  );
}

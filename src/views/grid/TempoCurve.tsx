"use client";

import { useMemo } from "react";
import { Line, LineChart, ResponsiveContainer, Tooltip, XAxis, YAxis } from "recharts";
import { plainLine } from "@/components/chartLine";
import { fixed } from "@/models/format";
import { barStart, barsOf, type Grid } from "@/core/grid/grid";
import type { AlignedBars } from "@/core/study";
import type { GridSide } from "@/models/grid";

/** Mean tempo of a bar. */
const tempoOfBar = (grid: Grid, bar: number): number =>
  (60 * grid.beatsPerBar) / (barStart(grid, bar + 1) - barStart(grid, bar));

/** Tempo bar by bar, where at least one side follows a player; on exact tempi a sentence says all. */
export function TempoCurve({
  reference,
  version,
  aligned,
}: {
  reference: GridSide | null;
  version: GridSide | null;
  aligned: AlignedBars | null;
}) {
  const a = reference?.grid ?? null;
  const b = version?.grid ?? null;
  const points = useMemo(() => {
    const grid = a ?? b;
    if (!grid) return [];
    const { first, last } = barsOf(grid);
    return Array.from({ length: last - Math.max(1, first) + 1 }, (_, i) => {
      const bar = Math.max(1, first) + i;
      const span = aligned?.spans.find((s) => bar >= s.referenceFirst && bar < s.referenceFirst + s.bars);
      return {
        bar,
        reference: a ? tempoOfBar(a, bar) : null,
        version: b && span ? tempoOfBar(b, bar + span.versionFirst - span.referenceFirst) : null,
      };
    });
  }, [a, b, aligned]);
  if (points.length < 2 || (a?.steady !== false && b?.steady !== false)) return null;
  return (
    <section className="chart" aria-label="Tempo over the bars">
      <h2 className="mb-1">Tempo, bar by bar</h2>
      <ResponsiveContainer width="100%" height={130}>
        <LineChart data={points} margin={{ top: 6, right: 8, bottom: 0, left: 0 }}>
          <XAxis
            dataKey="bar"
            type="number"
            domain={["dataMin", "dataMax"]}
            tickCount={9}
            allowDecimals={false}
            height={20}
          />
          <YAxis
            width={58}
            domain={[(low: number) => Math.floor(low - 0.5), (high: number) => Math.ceil(high + 0.5)]}
            tickFormatter={(value: number) => `${Math.round(value)} BPM`}
            tickCount={4}
          />
          <Tooltip
            content={({ active, payload }) => {
              const point = payload[0]?.payload as (typeof points)[number] | undefined;
              return active && point ? (
                <div className="chart-tip">
                  bar {point.bar}: <span className="in-reference">{fixed(point.reference, 2)}</span> ·{" "}
                  <span className="in-version">{fixed(point.version, 2)}</span> BPM
                </div>
              ) : null;
            }}
          />
          <Line dataKey="reference" stroke="var(--reference)" strokeWidth={1.75} {...plainLine} />
          <Line
            dataKey="version"
            stroke="var(--version)"
            strokeWidth={1.75}
            strokeDasharray="5 3"
            {...plainLine}
          />
        </LineChart>
      </ResponsiveContainer>
    </section>
  );
}

"use client";

import { useState } from "react";
import {
  CartesianGrid,
  Line,
  LineChart,
  ReferenceLine,
  ResponsiveContainer,
  Tooltip,
  XAxis,
  YAxis,
} from "recharts";
import { plainLine } from "@/components/chartLine";
import { useAfterFirstPaint } from "@/components/useAfterFirstPaint";
import type { PumpingBand } from "@/core/envelopes";
import type { DynamicsModel } from "@/models/dynamics";
import { fixed, signed } from "@/models/format";

const bandNames: Record<PumpingBand, string> = { high: "above 150 Hz", low: "below 150 Hz" };

/** The level around the kicks, all of them laid over one another. */
export function AtTheKicks({
  pumping,
  versionName,
}: {
  pumping: NonNullable<DynamicsModel["pumping"]>;
  versionName: string;
}) {
  const [band, setBand] = useState<PumpingBand>("high");
  const isDrawn = useAfterFirstPaint();
  const beat = Math.round(1000 * pumping.beatSeconds);
  const data = pumping.curves[band].filter(
    ({ reference, version }) => reference !== null || version !== null,
  );
  const last = data.at(-1)?.at ?? 600;
  const lowest = Math.min(-6, ...data.flatMap(({ reference, version }) => [reference ?? 0, version ?? 0]));
  const highest = Math.max(6, ...data.flatMap(({ reference, version }) => [reference ?? 0, version ?? 0]));
  return (
    <section className="chart-block mt-3" aria-label="Level around the kicks">
      <div className="chart-heading">
        <h2>At the kicks, dB</h2>
        <span className="small-text soft">
          all {pumping.kicks.version} of them laid over one another; 0 is the level before
        </span>
        <span className="choices ms-auto" role="group" aria-label="Range">
          {(["high", "low"] as const).map((own) => (
            <button
              key={own}
              type="button"
              className="plain-button"
              aria-pressed={band === own}
              onClick={() => setBand(own)}
            >
              {bandNames[own]}
            </button>
          ))}
        </span>
      </div>
      <div
        className="chart kick-chart"
        role="img"
        aria-label={`Level around a kick ${bandNames[band]}, reference and ${versionName}`}
      >
        {isDrawn && (
          <ResponsiveContainer>
            <LineChart data={data} margin={{ top: 6, right: 12, bottom: 0, left: 0 }}>
              <CartesianGrid vertical={false} />
              <XAxis
                dataKey="at"
                type="number"
                domain={[-80, last]}
                ticks={[0, 100, 200, 300, 400, 500, 600].filter((ms) => ms <= last)}
                tickFormatter={(ms: number) => (ms === 0 ? "kick" : `${ms} ms`)}
              />
              <YAxis
                width={44}
                domain={[Math.floor(lowest / 6) * 6, Math.ceil(highest / 6) * 6]}
                tickFormatter={(level: number) => signed(level, 0)}
              />
              <ReferenceLine x={0} stroke="var(--soft)" />
              <ReferenceLine y={0} stroke="var(--soft)" />
              {beat / 2 < last && (
                <ReferenceLine
                  x={Math.round(beat / 2)}
                  stroke="var(--line)"
                  label={{ value: "½ beat", position: "insideTopRight" }}
                />
              )}
              <Tooltip
                isAnimationActive={false}
                labelFormatter={(ms) => `${String(ms)} ms after the kick`}
                formatter={(level, side) => [`${fixed(Number(level))} dB`, side]}
              />
              <Line dataKey="reference" stroke="var(--reference)" strokeWidth={2} {...plainLine} />
              <Line
                dataKey="version"
                name={versionName}
                stroke="var(--version)"
                strokeWidth={2}
                strokeDasharray="5 3"
                {...plainLine}
              />
            </LineChart>
          </ResponsiveContainer>
        )}
      </div>
    </section>
  );
}

"use client";

import {
  Area,
  CartesianGrid,
  ComposedChart,
  Line,
  ResponsiveContainer,
  Tooltip,
  XAxis,
  YAxis,
} from "recharts";
import { plainLine } from "@/components/chartLine";
import { useAfterFirstPaint } from "@/components/useAfterFirstPaint";
import { axisFrequency, fixed, nominalFrequency } from "@/models/format";
import type { ToneRow } from "@/models/yardstick";

const ticks = [31.5, 63, 125, 250, 500, 1000, 2000, 4000, 8000, 16000];
/** Quieter than this is not looked at. */
const lowest = -30;

/** The tone curve that is typical, as a band, with both sides as lines. */
export function ToneRange({ rows, versionName }: { rows: readonly ToneRow[]; versionName: string | null }) {
  const isDrawn = useAfterFirstPaint();
  const points = rows.map((row) => ({
    ...row,
    x: Math.log2(row.centre),
    band: [Math.max(lowest, row.low), Math.max(lowest, row.high)],
  }));
  return (
    <section aria-labelledby="yardstick-tone">
      <div className="chart-heading d-flex justify-content-between align-items-baseline">
        <h2 id="yardstick-tone">Tone curve</h2>
        <span className="small-text soft">
          dB against the mean of the bands, third octaves. Band: four tracks in five.{" "}
          <span className="in-reference strong">reference</span>
          {versionName && (
            <>
              {" "}
              <span className="in-version strong">{versionName}</span>
            </>
          )}
        </span>
      </div>
      <div
        className="chart"
        style={{ height: 220 }}
        role="img"
        aria-label="Tone curves of the reference and the version over what is typical"
      >
        {isDrawn && (
          <ResponsiveContainer>
            <ComposedChart data={points} margin={{ top: 8, right: 16, bottom: 0, left: 0 }}>
              <CartesianGrid vertical={false} />
              <XAxis
                dataKey="x"
                type="number"
                domain={["dataMin", "dataMax"]}
                ticks={ticks.map(Math.log2)}
                tickFormatter={(x: number) =>
                  axisFrequency(Math.round(2 ** x) === 32 ? 32 : Math.round(2 ** x))
                }
              />
              <YAxis width={40} domain={[lowest, "auto"]} allowDataOverflow />
              <Tooltip
                isAnimationActive={false}
                content={({ active, payload }) => {
                  const row = (payload?.[0] as { payload?: ToneRow } | undefined)?.payload;
                  if (!active || !row) return null;
                  return (
                    <div className="chart-tip">
                      <div className="strong">{nominalFrequency(row.centre)}</div>
                      <div>
                        typical {fixed(row.low)} to {fixed(row.high)} dB
                      </div>
                      <div className="in-reference">reference {fixed(row.reference)} dB</div>
                      {versionName && (
                        <div className="in-version">
                          {versionName} {fixed(row.version)} dB
                        </div>
                      )}
                    </div>
                  );
                }}
              />
              <Area
                dataKey="band"
                stroke="none"
                fill="var(--line)"
                fillOpacity={0.9}
                isAnimationActive={false}
                activeDot={false}
              />
              <Line dataKey="median" stroke="var(--soft)" strokeDasharray="2 4" {...plainLine} />
              <Line dataKey="reference" stroke="var(--reference)" strokeWidth={2} {...plainLine} />
              {versionName && (
                <Line dataKey="version" stroke="var(--version)" strokeWidth={2} {...plainLine} />
              )}
            </ComposedChart>
          </ResponsiveContainer>
        )}
      </div>
    </section>
  );
}

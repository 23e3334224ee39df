"use client";

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
import { points } from "@/models/format";
import type { MixAspect } from "@/core/match";
import type { VersionScores } from "@/core/study";

const lines: readonly { aspect: MixAspect; dash: string }[] = [
  { aspect: "tempo", dash: "1 3" },
  { aspect: "loudness", dash: "8 3" },
  { aspect: "dynamics", dash: "4 2" },
  { aspect: "tone", dash: "10 3 2 3" },
];

/** The match over all versions, with the aspects behind it. */
export function VersionHistory({
  scores,
  chosen,
  target,
  onChoose,
}: {
  scores: VersionScores[];
  chosen: number | null;
  /** Match that is to be reached; null where none is set. */
  target: number | null;
  onChoose(number: number): void;
}) {
  const isDrawn = useAfterFirstPaint();
  const rows = scores.map((s) => ({ number: s.number, match: s.match, ...s.aspects }));
  return (
    <section aria-label="Match over versions">
      <div className="chart-heading d-flex justify-content-between align-items-baseline">
        <h2>Match over versions</h2>
        <span className="small-text soft">
          <span className="in-version strong">match</span>
          {lines.map(({ aspect, dash }) => (
            <span key={aspect} className="ms-3">
              <svg width="26" height="6" aria-hidden="true">
                <line
                  x1="0"
                  x2="26"
                  y1="3"
                  y2="3"
                  stroke="var(--soft)"
                  strokeWidth="1.5"
                  strokeDasharray={dash}
                />
              </svg>{" "}
              {aspect}
            </span>
          ))}
        </span>
      </div>
      <div
        className="chart"
        style={{ height: 170 }}
        role="img"
        aria-label={`Match over versions: ${scores.map((s) => `version ${s.number} ${points(s.match)}`).join(", ")}`}
      >
        {isDrawn && (
          <ResponsiveContainer>
            <LineChart
              data={rows}
              margin={{ top: 8, right: 16, bottom: 0, left: 0 }}
              onClick={(state) => {
                const row = rows[Number(state.activeTooltipIndex ?? -1)];
                if (row) onChoose(row.number);
              }}
            >
              <CartesianGrid vertical={false} />
              <XAxis
                dataKey="number"
                type="number"
                domain={["dataMin", "dataMax"]}
                ticks={rows.map((r) => r.number)}
                tickFormatter={(n: number) => `v${n}`}
                padding={{ left: 20, right: 20 }}
              />
              <YAxis domain={[0, 100]} ticks={[0, 25, 50, 75, 100]} width={36} />
              {target !== null && (
                <ReferenceLine
                  y={target}
                  stroke="var(--reference)"
                  strokeDasharray="2 4"
                  label={{ value: "target", position: "insideBottomLeft", className: "tiny-text" }}
                />
              )}
              {chosen !== null && <ReferenceLine x={chosen} stroke="var(--line)" strokeWidth={2} />}
              <Tooltip
                isAnimationActive={false}
                content={({ active, payload }) => {
                  const row = (payload?.[0] as { payload?: (typeof rows)[number] } | undefined)?.payload;
                  if (!active || !row) return null;
                  return (
                    <div className="chart-tip">
                      <div className="strong">
                        Version {row.number}: {points(row.match)}
                      </div>
                      {lines.map(({ aspect }) => (
                        <div key={aspect}>
                          {aspect} {points(row[aspect])}
                        </div>
                      ))}
                    </div>
                  );
                }}
              />
              {lines.map(({ aspect, dash }) => (
                <Line
                  key={aspect}
                  dataKey={aspect}
                  stroke="var(--soft)"
                  strokeWidth={1.5}
                  strokeDasharray={dash}
                  {...plainLine}
                  connectNulls
                />
              ))}
              <Line
                dataKey="match"
                stroke="var(--version)"
                strokeWidth={2.5}
                dot={{ r: 4, fill: "var(--version)", strokeWidth: 0 }}
                isAnimationActive={false}
                connectNulls
              />
            </LineChart>
          </ResponsiveContainer>
        )}
      </div>
    </section>
  );
}

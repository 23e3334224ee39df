"use client";

import { useCallback, useMemo, useState, type ReactNode } from "react";
import { CartesianGrid, LineChart, ReferenceLine, ResponsiveContainer, XAxis, YAxis } from "recharts";
import { DrawnLine, placeLine, placesOf, placeTip, TipOf } from "@/components/chartDrawing";
import { useAfterFirstPaint } from "@/components/useAfterFirstPaint";
import type { PumpingBand } from "@/core/envelopes";
import type { DynamicsModel } from "@/models/dynamics";
import { signed } from "@/models/format";

const bandNames: Record<PumpingBand, string> = { high: "above 150 Hz", low: "below 150 Hz" };

const margin = { top: 6, right: 12, bottom: 0, left: 0 };
const grid = <CartesianGrid vertical={false} />;

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
  const curve = pumping.curves[band];
  const last = curve.findLast(({ reference, version }) => reference !== null || version !== null)?.at ?? 600;
  const times = curve.map(({ at }) => at).join(" ");
  const levels = curve.flatMap(({ reference, version }) => [reference ?? 0, version ?? 0]);
  const lowest = Math.floor(Math.min(-6, ...levels) / 6) * 6;
  const highest = Math.ceil(Math.max(6, ...levels) / 6) * 6;
  const axis = useMemo(() => {
    const at = times.split(" ").map(Number);
    return {
      at,
      places: placesOf(at),
      frame: (
        <>
          <XAxis
            dataKey="x"
            type="number"
            domain={[-80, last]}
            allowDataOverflow
            ticks={[0, 100, 200, 300, 400, 500, 600].filter((ms) => ms <= last)}
            tickFormatter={(ms: number) => (ms === 0 ? "kick" : `${ms} ms`)}
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
        </>
      ),
    };
  }, [times, last, beat]);
  const levelAxis = useMemo(
    () => (
      <YAxis
        width={44}
        domain={[lowest, highest]}
        allowDataOverflow
        tickFormatter={(level: number) => signed(level, 0)}
      />
    ),
    [lowest, highest],
  );
  const tip = useCallback(
    (place: number): ReactNode => {
      const own = curve[place];
      const level = (value: number | null) => (value === null ? "–" : `${signed(value)} dB`);
      return (
        own && (
          <>
            <div className="strong">{own.at} ms after the kick</div>
            <div className="in-reference">reference {level(own.reference)}</div>
            <div className="in-version">
              {versionName} {level(own.version)}
            </div>
          </>
        )
      );
    },
    [curve, versionName],
  );
  return (
    <TipOf value={tip}>
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
              <LineChart data={axis.places} margin={margin}>
                {grid}
                {axis.frame}
                {levelAxis}
                {placeTip}
                {placeLine}
                <DrawnLine
                  at={axis.at}
                  values={curve.map(({ reference }) => reference)}
                  stroke="var(--reference)"
                />
                <DrawnLine
                  at={axis.at}
                  values={curve.map(({ version }) => version)}
                  stroke="var(--version)"
                  strokeDasharray="5 3"
                />
              </LineChart>
            </ResponsiveContainer>
          )}
        </div>
      </section>
    </TipOf>
  );
}

"use client";

import { useCallback, useMemo, type ReactNode } from "react";
import {
  CartesianGrid,
  LineChart,
  ReferenceArea,
  ReferenceLine,
  ResponsiveContainer,
  XAxis,
  YAxis,
} from "recharts";
import { DrawnBars, placeLine, placesOf, placeTip, TipOf } from "@/components/chartDrawing";
import { Hatch } from "@/components/Hatch";
import { useAfterFirstPaint } from "@/components/useAfterFirstPaint";
import { measureRules } from "@/core/match";
import type { BandStereo } from "@/core/stereo";
import { axisFrequency, fixed, nominalFrequency, signed } from "@/models/format";
import type { StereoModel } from "@/models/stereo";
import { leastShare, narrowest, widest } from "./shownWidth";

const held = (own: BandStereo): number | null =>
  own.sideToMidDb === null || own.share < leastShare
    ? null
    : Math.max(narrowest, Math.min(widest + 3, own.sideToMidDb));

const margins = {
  width: { top: 6, right: 12, bottom: 0, left: 0 },
  gap: { top: 6, right: 12, bottom: 6, left: 0 },
};
const widthTolerance = measureRules.width.justNoticeable;
// What does not depend on the figures is made once: a chart works out again all that is not the same object.
const hatch = <Hatch id="width-hatch" />;
const grid = <CartesianGrid vertical={false} />;
const zeroLine = <ReferenceLine y={0} stroke="var(--soft)" />;
const hardlyHeard = (
  <ReferenceArea y1={-widthTolerance} y2={widthTolerance} fill="var(--soft)" fillOpacity={0.16} />
);
const widthAxis = (
  <YAxis
    width={44}
    domain={[0, widest - narrowest]}
    ticks={[0, 10, 20, 30]}
    allowDataOverflow
    tickFormatter={(v: number) => (v === 0 ? "mono" : fixed(v + narrowest, 0))}
  />
);
const gapAxis = (
  <YAxis
    width={44}
    domain={[-12, 12]}
    allowDataOverflow
    ticks={[-12, 0, 12]}
    interval={0}
    tickFormatter={(v: number) => signed(v, 0)}
  />
);

/** Width of each octave on both sides, as bars that grow out of mono. */
export function WidthChart({ model, versionName }: { model: StereoModel; versionName: string }) {
  const isDrawn = useAfterFirstPaint();
  const { bands } = model;
  const names = bands.map(({ centre }) => axisFrequency(Number(nominalHertz(centre)))).join(" ");
  const axis = useMemo(() => {
    const own = names.split(" ");
    const at = own.map((_, i) => i);
    const shared = { dataKey: "x", type: "number", domain: [-0.5, own.length - 0.5], ticks: at } as const;
    return {
      at,
      places: placesOf(at),
      named: <XAxis {...shared} interval={0} tickFormatter={(i: number) => own[i] ?? ""} />,
      plain: <XAxis {...shared} hide />,
    };
  }, [names]);
  const tip = useCallback(
    (place: number): ReactNode => {
      const band = bands[place];
      if (!band) return null;
      const level = (own: BandStereo) => (held(own) === null ? "–" : `${fixed(held(own)!)} dB`);
      return (
        <>
          <div className="strong">{nominalFrequency(band.centre)}</div>
          <div className="in-reference">reference {level(band.reference)}</div>
          <div className="in-version">
            {versionName.toLowerCase()} {level(band.version)}
          </div>
          {band.widthGap !== null && <div>{signed(band.widthGap)} dB</div>}
        </>
      );
    },
    [bands, versionName],
  );
  const barsOf = (side: "reference" | "version", fill: string) =>
    bands.map((band) => ({ value: above(held(band[side])), fill }));
  return (
    <TipOf value={tip}>
      <section className="chart-block" aria-label="Width by octave">
        <div className="chart-heading">
          <h2>Width by octave, side to mid, dB</h2>
          <span className="small-text">
            <span className="in-reference strong">reference</span>
            <span className="in-version strong ms-3">{versionName.toLowerCase()}, hatched</span>
          </span>
        </div>
        <div className="chart width-chart" role="img" aria-label={`Width of reference and ${versionName}`}>
          {isDrawn && (
            <ResponsiveContainer>
              <LineChart data={axis.places} margin={margins.width} syncId="width">
                {hatch}
                {grid}
                {axis.named}
                {widthAxis}
                {placeTip}
                {placeLine}
                <DrawnBars
                  at={axis.at}
                  bars={barsOf("reference", "var(--reference)")}
                  from={-0.38}
                  to={-0.015}
                />
                <DrawnBars
                  at={axis.at}
                  bars={barsOf("version", "url(#width-hatch)")}
                  from={0.015}
                  to={0.38}
                />
              </LineChart>
            </ResponsiveContainer>
          )}
        </div>
        <div className="chart-heading mt-2">
          <h2>Gap, dB</h2>
          <span className="small-text soft">
            above: wider than the reference; ±{widthTolerance} dB is hardly heard
          </span>
        </div>
        <div className="chart width-gap-chart" role="img" aria-label="Gap in width">
          {isDrawn && (
            <ResponsiveContainer>
              <LineChart data={axis.places} margin={margins.gap} syncId="width">
                {hardlyHeard}
                {axis.plain}
                {gapAxis}
                {zeroLine}
                {placeTip}
                {placeLine}
                <DrawnBars
                  at={axis.at}
                  bars={bands.map(({ widthGap }) => ({ value: widthGap, fill: "var(--version)" }))}
                  from={-0.2}
                  to={0.2}
                />
              </LineChart>
            </ResponsiveContainer>
          )}
        </div>
      </section>
    </TipOf>
  );
}

const above = (level: number | null) => (level === null ? null : level - narrowest);
const nominalHertz = (centre: number) => {
  const text = nominalFrequency(centre);
  return text.endsWith("kHz") ? Number(text.replace(" kHz", "")) * 1000 : Number(text.replace(" Hz", ""));
};

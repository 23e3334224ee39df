"use client";

import { useCallback, useEffect, useMemo, useState, type ReactNode } from "react";
import {
  CartesianGrid,
  LineChart,
  ReferenceArea,
  ReferenceLine,
  ResponsiveContainer,
  XAxis,
  YAxis,
} from "recharts";
import { DrawnBars, DrawnLine, placeLine, placesOf, placeTip, TipOf } from "@/components/chartDrawing";
import { Hatch } from "@/components/Hatch";
import { useAfterFirstPaint } from "@/components/useAfterFirstPaint";
import { useSteady } from "@/components/useSteady";
import { axisFrequency, fixed, frequency, nominalFrequency, signed } from "@/models/format";
import { bandTolerance } from "@/core/match";
import { audibleSpan, bands, type BandGap, type BandsPerOctave } from "@/core/tone";
import { spectrumCurve, type ComparedSpectra, type SpectrumPart } from "@/models/spectra";
import { ReferenceName } from "../study/ReferenceName";

const octaves = [31.5, 63, 125, 250, 500, 1000, 2000, 4000, 8000, 16000];
const axisName = (hertz: number) => axisFrequency(hertz === 31.5 ? 32 : hertz);

interface Point extends BandGap {
  /** Place on the logarithmic axis. */
  x: number;
  /** What is left with the moves, and what the moves do; only where there are moves. */
  left?: number;
  response?: number;
}

/** What equaliser moves do to a curve. */
export type CurveWithMoves = (
  curve: readonly BandGap[],
  perOctave: BandsPerOctave,
) => { left: number[]; response: number[] };

/** C of each octave, for those who think in notes. */
const noteTicks = Array.from({ length: 9 }, (_, octave) => ({
  x: Math.log2(440 * 2 ** (octave + 1 - 5 + 3 / 12)),
  name: `C${octave + 1}`,
}));

function tipOf(point: Point | undefined): ReactNode {
  return (
    point && (
      <>
        <div className="strong">{frequency(point.centre)}</div>
        <div className="in-reference">reference {fixed(point.reference)} dB</div>
        <div className="in-version">version {fixed(point.version)} dB</div>
        <div>
          {signed(point.gap)} dB{point.weight < 0.5 ? ", counts little" : ""}
        </div>
        {point.left !== undefined && <div className="is-gain">with the moves {signed(point.left)} dB</div>}
      </>
    )
  );
}

// What does not depend on the curves is made once: a chart works out again all that is not the same object.
const span: [number, number] = [Math.log2(20), Math.log2(20000)];
const ticks = octaves.map((hertz) => Math.log2(hertz));
const octaveName = (x: number) => axisName(octaves[ticks.findIndex((t) => Math.abs(t - x) < 1e-6)] ?? 2 ** x);
const noteName = (x: number) => noteTicks.find((own) => Math.abs(own.x - x) < 1e-6)?.name ?? "";
const levelName = (v: number) => fixed(v, 0);
const gapName = (v: number) => signed(v, 0);
const margin = { top: 6, right: 12, bottom: 0, left: 0 };
const frequencyAxis = (
  <XAxis dataKey="x" type="number" domain={span} ticks={ticks} tickFormatter={octaveName} allowDataOverflow />
);
const noteAxis = (
  <XAxis
    xAxisId="notes"
    orientation="top"
    dataKey="x"
    type="number"
    domain={span}
    ticks={noteTicks.map(({ x }) => x)}
    tickFormatter={noteName}
    height={18}
    tickLine={false}
    axisLine={false}
    allowDataOverflow
  />
);
const grids = {
  both: <CartesianGrid vertical horizontal />,
  vertical: <CartesianGrid vertical horizontal={false} />,
};
const hatch = <Hatch id="version-hatch" />;
const zeroLine = <ReferenceLine y={0} stroke="var(--soft)" />;
const notHeard = (
  <ReferenceArea y1={-bandTolerance} y2={bandTolerance} fill="var(--soft)" fillOpacity={0.16} />
);
/** Axes that still do: nothing is cut off above, and not much of them is empty. */
const levelsFit = (kept: number, top: number) => top <= kept && top >= kept - 10;
const gapsFit = (kept: number, reach: number) => reach <= kept && 2 * reach >= kept;
/** Half the width of a bar, as a share of its band. */
const halfBar = 0.23;

/** A band's gap as people say it. */
function gapInWords(gap: number, tolerance: number): string {
  const size = Math.abs(gap);
  if (size <= tolerance) return "matches";
  const much = size <= 2 * tolerance ? "slightly" : size <= 6 ? "clearly" : "far";
  return `${much} too ${gap > 0 ? "loud" : "quiet"}`;
}

/** The choice of resolution, remembered. */
function useResolution(): [BandsPerOctave, (next: BandsPerOctave) => void] {
  const [perOctave, setPerOctave] = useState<BandsPerOctave>(3);
  useEffect(() => {
    const stored = Number(localStorage.getItem("bandsPerOctave"));
    // oxlint-disable-next-line react-hooks/set-state-in-effect -- storage is not there on the server
    if (stored === 6 || stored === 12) setPerOctave(stored);
  }, []);
  return [
    perOctave,
    (next) => {
      localStorage.setItem("bandsPerOctave", String(next));
      setPerOctave(next);
    },
  ];
}

/**
 * Both average spectra at equal loudness and, beneath, the gap between them with the tolerance as
 * a band.
 */
export function SpectrumCharts({
  spectra,
  marked,
  versionName,
  withMoves,
  slopes,
  children,
}: {
  spectra: ComparedSpectra;
  /** A range of frequencies to point out. */
  marked: { fromHz: number; toHz: number } | null;
  versionName: string;
  withMoves?: CurveWithMoves | null;
  slopes?: Record<"reference" | "version", number | null>;
  /** Stands right below the gap, on the same axis. */
  children?: ReactNode;
}) {
  const [perOctave, setPerOctave] = useResolution();
  const [part, setPart] = useState<SpectrumPart>("whole");
  const isDrawn = useAfterFirstPaint();
  const points = useMemo((): Point[] => {
    const curve = spectrumCurve(spectra, part, perOctave);
    const mended = withMoves?.(curve, perOctave);
    return curve.map((band, i) => ({
      ...band,
      x: Math.log2(band.centre),
      ...(mended && band.weight > 0 ? { left: mended.left[i]!, response: mended.response[i]! } : {}),
    }));
  }, [spectra, part, perOctave, withMoves]);
  // The same as long as the resolution is: selections change no axis.
  const axis = useMemo(() => placesOf(bands(perOctave).map(({ centre }) => Math.log2(centre))), [perOctave]);
  const at = useMemo(() => axis.map(({ x }) => x), [axis]);
  const tip = useCallback((place: number) => tipOf(points[place]), [points]);
  const shown = points.filter((p) => p.weight > 0);
  const top = useSteady(
    Math.ceil(Math.max(...shown.map((p) => Math.max(p.reference, p.version)), -60) / 10) * 10,
    levelsFit,
  );
  const reach = useSteady(
    Math.max(6, Math.ceil(Math.max(...shown.map((p) => Math.abs(p.gap)), 0) / 3) * 3),
    gapsFit,
  );
  const tolerance = bandTolerance;
  const [fromHz, toHz] = marked ? [marked.fromHz, marked.toHz] : [0, 0];
  const mark = useMemo(
    () =>
      toHz > 0 && (
        <ReferenceArea
          x1={Math.log2(fromHz)}
          x2={Math.log2(toHz)}
          fill="var(--line)"
          fillOpacity={0.55}
          ifOverflow="hidden"
        />
      ),
    [fromHz, toHz],
  );
  const levelAxis = useMemo(
    () => (
      <YAxis
        width={44}
        domain={[top - audibleSpan, top]}
        ticks={[0, 1, 2, 3].map((i) => top - (i * audibleSpan) / 3)}
        allowDataOverflow
        tickFormatter={levelName}
      />
    ),
    [top],
  );
  const gapAxis = useMemo(
    () => (
      <YAxis
        width={44}
        domain={[-reach, reach]}
        ticks={[-reach, 0, reach]}
        allowDataOverflow
        tickFormatter={gapName}
      />
    ),
    [reach],
  );
  return (
    <TipOf value={tip}>
      <section className="chart-block" aria-label="Average spectrum">
        <div className="chart-heading">
          <h2>Average spectrum, dB</h2>
          <span className="choices" role="group" aria-label="Part of the stereo picture">
            {(["whole", "mid", "side"] as const).map((name) => (
              <button
                key={name}
                type="button"
                className="plain-button"
                aria-pressed={part === name}
                onClick={() => setPart(name)}
              >
                {name}
              </button>
            ))}
          </span>
          <span className="small-text ms-auto">
            <span className="in-reference strong">
              — reference{slopes ? ` ${fixed(slopes.reference)} dB/oct` : ""}
            </span>
            {"  "}
            <span className="in-version strong ms-2">
              - - {versionName}
              {slopes ? ` ${fixed(slopes.version)} dB/oct` : ""}
            </span>
          </span>
        </div>
        <div
          className="chart spectrum-chart"
          role="img"
          aria-label={`Spectra of reference and ${versionName}`}
        >
          {isDrawn && (
            <ResponsiveContainer>
              <LineChart data={axis} margin={margin} syncId="spectrum">
                {grids.both}
                {mark}
                {frequencyAxis}
                {noteAxis}
                {levelAxis}
                {placeTip}
                {placeLine}
                <DrawnLine at={at} values={points.map((p) => p.reference)} stroke="var(--reference)" />
                <DrawnLine
                  at={at}
                  values={points.map((p) => p.version)}
                  stroke="var(--version)"
                  strokeDasharray="6 3"
                />
              </LineChart>
            </ResponsiveContainer>
          )}
        </div>
        <div className="chart-heading mt-2">
          <h2>Gap, dB</h2>
          <span className="d-flex gap-3">
            {withMoves && (
              <span className="small-text">
                <span className="is-gain strong">— left with moves</span>
                <span className="ms-2">··· moves</span>
              </span>
            )}
            <span className="small-text soft">±{tolerance} dB is not heard</span>
            <span className="choices" role="group" aria-label="Bands an octave">
              <span className="soft small-text">octave</span>
              {([3, 6, 12] as const).map((n) => (
                <button
                  key={n}
                  type="button"
                  className="plain-button"
                  aria-pressed={perOctave === n}
                  aria-label={`1/${n} octave`}
                  onClick={() => setPerOctave(n)}
                >
                  1/{n}
                </button>
              ))}
            </span>
          </span>
        </div>
        <div className="chart gap-chart" role="img" aria-label="Gap of the spectra">
          {isDrawn && (
            <ResponsiveContainer>
              <LineChart data={axis} margin={margin} syncId="spectrum">
                {hatch}
                {grids.vertical}
                {mark}
                {notHeard}
                {frequencyAxis}
                {gapAxis}
                {zeroLine}
                {placeTip}
                {placeLine}
                <DrawnBars
                  at={at}
                  from={-halfBar / perOctave}
                  to={halfBar / perOctave}
                  bars={points.map(({ gap, weight }) => ({
                    value: gap,
                    fill: perOctave === 12 ? "var(--version)" : "url(#version-hatch)",
                    fillOpacity: weight === 0 ? 0 : Math.abs(gap) <= tolerance ? 0.35 : 0.4 + 0.6 * weight,
                  }))}
                />
                {withMoves && (
                  <DrawnLine
                    at={at}
                    values={points.map(({ response }) => response)}
                    stroke="var(--ink)"
                    strokeWidth={1.4}
                    strokeDasharray="1.5 3"
                  />
                )}
                {withMoves && (
                  <DrawnLine at={at} values={points.map(({ left }) => left)} stroke="var(--gain)" />
                )}
              </LineChart>
            </ResponsiveContainer>
          )}
        </div>
        {children}
        <details className="band-table">
          <summary>The same in numbers</summary>
          <table className="ruled small-text mt-1">
            <thead>
              <tr>
                <th>Band</th>
                <th className="number in-reference">
                  <ReferenceName />
                </th>
                <th className="number in-version">{versionName}</th>
                <th className="number">Gap</th>
                <th>In words</th>
              </tr>
            </thead>
            <tbody>
              {(isDrawn ? shown : []).map((p) => (
                <tr key={p.x}>
                  <td>{perOctave === 3 ? nominalFrequency(p.centre) : frequency(p.centre)}</td>
                  <td className="number">{fixed(p.reference)} dB</td>
                  <td className="number">{fixed(p.version)} dB</td>
                  <td className="number">{signed(p.gap)} dB</td>
                  <td>{gapInWords(p.gap, tolerance)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </details>
      </section>
    </TipOf>
  );
}

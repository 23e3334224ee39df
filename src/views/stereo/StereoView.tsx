"use client";

import { useCallback, useMemo, useState, type ReactNode } from "react";
import {
  CartesianGrid,
  LineChart,
  ReferenceArea,
  ReferenceLine,
  ResponsiveContainer,
  XAxis,
  YAxis,
} from "recharts";
import { Button } from "react-bootstrap";
import { DrawnBars, placeLine, placesOf, placeTip, TipOf } from "@/components/chartDrawing";
import { Hatch } from "@/components/Hatch";
import { useAfterFirstPaint } from "@/components/useAfterFirstPaint";
import { MirrorBars, MirrorPicture } from "@/components/timeline/MirrorPicture";
import { barStart } from "@/core/grid/grid";
import { measureRules } from "@/core/match";
import { monoFrom, type BandStereo } from "@/core/stereo";
import { usePlayback } from "@/listening/Playback";
import { axisFrequency, fixed, nominalFrequency, points, signed } from "@/models/format";
import { placeSentences, spaceSentences } from "@/models/space";
import type { StereoModel } from "@/models/stereo";
import { AspectAnswer, NothingRecreated, NotYet, useWhere } from "../study/Compared";
import { useStudy } from "../study/StudyContext";
import { Places } from "./Places";
import { SpaceTable, TextureTable } from "./Space";

const height = 120;
/** Bars narrower than this are as good as mono, wider than this as wide as it gets: side to mid, dB. */
const narrowest = -30;
const widest = 3;
/** Bands with less of the power than this are drawn faintly and have no numbers. */
const leastShare = 1e-4;

export function StereoView({ model }: { model: StereoModel | null }) {
  const { version } = useStudy();
  return model && version ? (
    <Compared model={model} />
  ) : (
    <NotYet title="Stereo" what="width" toCome="Width and balance appear here" />
  );
}

function Compared({ model }: { model: StereoModel }) {
  const { version, aligned, bars, selectBars } = useStudy();
  const playback = usePlayback();
  const { monitorFilter } = playback.settings;
  const name = `Version ${version!.number}`;
  const where = useWhere();
  if (model.nothingRecreated) return <NothingRecreated title="Stereo" />;
  const shownBars = model.overBars.filter(({ bar }) =>
    bars ? bar >= bars.first && bar <= bars.last : bar >= 1,
  );
  const places = placeSentences(model.space);
  const room = spaceSentences(model.space);
  const listen = (filter: "mono" | "sides") =>
    playback.change({ monitorFilter: monitorFilter === filter ? "everything" : filter });
  return (
    <div className="stereo-view">
      <div>
        <div className="view-heading in-line">
          <h1>Stereo</h1>
          <p>
            Side against mid, {where}.{model.outdated && <span className="needs-attention"> Updating …</span>}
          </p>
        </div>
        <WidthChart model={model} versionName={name} />
        {aligned && shownBars.length > 0 && (
          <WidthOverBars
            rows={shownBars}
            versionName={name}
            onBars={selectBars}
            start={(bar) => barStart(aligned.reference, bar)}
            beatsPerBar={aligned.reference.beatsPerBar}
          />
        )}
        <BandTable model={model} versionName={name} />
        <Places rows={model.space.places} versionName={name} />
        <SpaceTable model={model.space} versionName={name} />
        <TextureTable rows={model.space.texture} versionName={name} />
      </div>
      <aside aria-label="What to do about the stereo image">
        <AspectAnswer aspect="width" score={model.score} />
        <p className="mt-2">
          Correlation {fixed(model.whole.version.correlation, 2)}, the reference{" "}
          {fixed(model.whole.reference.correlation, 2)}. Summed to mono yours loses{" "}
          {fixed(-(model.whole.version.monoLossDb ?? 0))} dB, the reference{" "}
          {fixed(-(model.whole.reference.monoLossDb ?? 0))} dB.
        </p>
        <div className="d-flex gap-2">
          <Button
            size="sm"
            variant={monitorFilter === "mono" ? "primary" : "quiet"}
            aria-pressed={monitorFilter === "mono"}
            onClick={() => listen("mono")}
          >
            Hear mono
          </Button>
          <Button
            size="sm"
            variant={monitorFilter === "sides" ? "primary" : "quiet"}
            aria-pressed={monitorFilter === "sides"}
            onClick={() => listen("sides")}
          >
            Hear what mono loses
          </Button>
        </div>
        <section aria-label="Low end">
          <h2>Low end, below 120 Hz</h2>
          <p className="m-0">
            {monoWords(model.lowEnd.version)} in yours ({fixed(model.lowEnd.version, 0)} dB side to mid),{" "}
            {monoWords(model.lowEnd.reference).toLowerCase()} in the reference (
            {fixed(model.lowEnd.reference, 0)} dB).
          </p>
        </section>
        <h2>Width and balance</h2>
        {model.findings.length === 0 ? (
          <p>As in the reference.</p>
        ) : (
          <ul className="findings" aria-label="What differs">
            {model.findings.slice(0, 7).map(({ key, title, detail, isWarning }) => (
              <li key={key} className="finding">
                <span className={`title${isWarning ? " needs-attention" : ""}`}>{title}</span>
                <span className="detail">{detail}</span>
              </li>
            ))}
          </ul>
        )}
        {places.length > 0 && (
          <section aria-label="Off their place">
            <h2>Off their place</h2>
            {places.map(({ key, text, isWarning }) => (
              <p key={key} className={`mb-1${isWarning ? " needs-attention" : ""}`}>
                {text}
              </p>
            ))}
          </section>
        )}
        <section aria-label="What to do about space">
          <h2>Space {points(model.space.score)}</h2>
          {(room.length > 0 ? room : ["As full between the notes as the reference."]).map((sentence) => (
            <p key={sentence} className="mb-1">
              {sentence}
            </p>
          ))}
        </section>
      </aside>
    </div>
  );
}

const monoWords = (sideToMid: number | null) =>
  sideToMid === null ? "Nothing" : sideToMid <= monoFrom ? "Mono" : "Not mono";

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
function WidthChart({ model, versionName }: { model: StereoModel; versionName: string }) {
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

/** Width of every bar on the mirror line. */
function WidthOverBars({
  rows,
  versionName,
  onBars,
  start,
  beatsPerBar,
}: {
  rows: StereoModel["overBars"];
  versionName: string;
  onBars(bars: { first: number; last: number }): void;
  start(bar: number): number;
  beatsPerBar: number;
}) {
  const [at, setAt] = useState<number | null>(null);
  const bars = { first: rows[0]!.bar, last: rows.at(-1)!.bar };
  const pointed = at === null ? null : (rows[Math.floor(at) - bars.first] ?? null);
  return (
    <section className="mt-3" aria-label="Width over bars">
      <div className="chart-heading">
        <h2>Over the bars</h2>
        <span className="small-text soft">
          {pointed ? (
            <>
              Bar {pointed.bar}: <span className="in-reference strong">{fixed(pointed.reference)}</span>{" "}
              against <span className="in-version strong">{fixed(pointed.version)}</span> dB side to mid
            </>
          ) : (
            `mono at the line, ${signed(widest, 0)} dB at the edges`
          )}
        </span>
      </div>
      <MirrorPicture
        bars={bars}
        beatsPerBar={beatsPerBar}
        height={height}
        label={`Width of each bar, reference above the line, ${versionName.toLowerCase()} below`}
        startOfBar={start}
        selected={null}
        onBars={onBars}
        onPointed={setAt}
      >
        <MirrorBars
          rows={rows}
          height={height}
          scale={(value) => Math.max(0, Math.min(1, (value - narrowest) / (widest - narrowest)))}
        />
      </MirrorPicture>
    </section>
  );
}

/** Every octave in numbers. */
function BandTable({ model, versionName }: { model: StereoModel; versionName: string }) {
  const pair = (
    of: (own: BandStereo) => number | null,
    places: number,
    reference: BandStereo,
    version: BandStereo,
  ) => (
    <>
      <td className="number">{reference.share < leastShare ? "–" : fixed(of(reference), places)}</td>
      <td className="number">{version.share < leastShare ? "–" : fixed(of(version), places)}</td>
    </>
  );
  return (
    <table className="ruled small-text level-table">
      <thead>
        <tr>
          <th rowSpan={2}>Octave</th>
          <th className="number" colSpan={2}>
            Correlation
          </th>
          <th className="number" colSpan={2}>
            Left over right, dB
          </th>
          <th className="number" colSpan={2}>
            Lost in mono, dB
          </th>
        </tr>
        <tr>
          {[0, 1, 2].map((i) => [
            <th key={`r${i}`} className="number in-reference">
              reference
            </th>,
            <th key={`v${i}`} className="number in-version">
              {versionName.replace("Version ", "v")}
            </th>,
          ])}
        </tr>
      </thead>
      <tbody>
        {model.bands.map(({ centre, reference, version }) => (
          <tr key={centre}>
            <td>{nominalFrequency(centre)}</td>
            {pair((own) => own.correlation, 2, reference, version)}
            {pair((own) => own.balanceDb, 1, reference, version)}
            {pair(
              (own) => (own.monoLossDb === null ? null : Math.abs(own.monoLossDb)),
              1,
              reference,
              version,
            )}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

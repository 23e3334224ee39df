"use client";

import { useState } from "react";
import { Button } from "react-bootstrap";
import { MirrorBars, MirrorPicture } from "@/components/timeline/MirrorPicture";
import { barStart } from "@/core/grid/grid";
import { monoFrom, type BandStereo } from "@/core/stereo";
import { usePlayback } from "@/listening/Playback";
import { fixed, nominalFrequency, points, signed } from "@/models/format";
import { placeSentences, spaceSentences } from "@/models/space";
import type { StereoModel } from "@/models/stereo";
import { AspectAnswer, NothingRecreated, NotYet, useWhere } from "../study/Compared";
import { useStudy } from "../study/StudyContext";
import { Places } from "./Places";
import { leastShare, narrowest, widest } from "./shownWidth";
import { SpaceTable, TextureTable } from "./Space";
import { WidthChart } from "./WidthChart";

const height = 120;
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

"use client";

import { memo, useMemo, useState } from "react";
import { Bar, BarChart, ReferenceLine, ResponsiveContainer, Tooltip, XAxis, YAxis } from "recharts";
import { floatsOf, useStoredCurve } from "@/components/useStoredCurve";
import { useAfterFirstPaint } from "@/components/useAfterFirstPaint";
import { barsOf } from "@/core/grid/grid";
import { shortTermLoudness, type LoudnessMeasures } from "@/core/loudness";
import { truePeakCeiling } from "@/core/match";
import { usePlayback } from "@/listening/Playback";
import { pumpingSentences, punchSentences } from "@/models/dynamics";
import { clock, fixed, points, signed } from "@/models/format";
import {
  gainSentence,
  loudnessDistribution,
  referenceTimeOf,
  quietest,
  sectionLoudness,
  stepSentences,
  type LoudnessModel,
} from "@/models/loudness";
import { AspectAnswer, NothingRecreated, NotYet, useWhere } from "../study/Compared";
import { useStudy } from "../study/StudyContext";
import { AtTheKicks } from "./AtTheKicks";
import { LoudnessCurves } from "./LoudnessCurves";
import { PeaksOverBars } from "./PeaksOverBars";
import { ReferenceName } from "../study/ReferenceName";

/** What is told of both sides, in order of what people look for. */
const rows: [title: string, unit: string, key: keyof LoudnessMeasures, hint: string][] = [
  ["Integrated", "LUFS", "integratedLufs", "gated mean over all of it"],
  ["Loudness range", "LU", "loudnessRangeLu", "from quiet to loud passages"],
  ["Loudest 3 s", "LUFS", "maxShortTermLufs", "short-term maximum"],
  ["Loudest 0.4 s", "LUFS", "maxMomentaryLufs", "momentary maximum"],
  ["True peak", "dBTP", "truePeakDbtp", "between the samples"],
  ["Peak to loudness", "LU", "peakToLoudnessLu", "what the limiter has left"],
  ["Crest factor", "dB", "crestFactorDb", "peak over RMS"],
];
/** What is drawn over the bars. */
const pictures = { rendered: "as rendered", equal: "equally loud", peaks: "peaks" } as const;
type Picture = keyof typeof pictures;
/** Places of clipping that are named. */
const namedPlaces = 8;

export function LoudnessView({ model }: { model: LoudnessModel | null }) {
  const { version } = useStudy();
  return model && version ? (
    <Compared model={model} />
  ) : (
    <NotYet title="Loudness" what="level" toCome="Levels appear here" />
  );
}

function Compared({ model }: { model: LoudnessModel }) {
  const { study, version, facts, aligned, bars, selectBars } = useStudy();
  const [picture, setPicture] = useState<Picture>("rendered");
  const isEqual = picture === "equal";
  const reference = study.reference!;
  const own = useStoredCurve(reference.file.hash, "kWeightedMeanSquares");
  const other = useStoredCurve(version!.file.hash, "kWeightedMeanSquares");
  const ownPeaks = useStoredCurve(picture === "peaks" ? reference.file.hash : null, "truePeaks");
  const otherPeaks = useStoredCurve(picture === "peaks" ? version!.file.hash : null, "truePeaks");
  const peaks = useMemo(
    () => (ownPeaks && otherPeaks ? { reference: floatsOf(ownPeaks), version: floatsOf(otherPeaks) } : null),
    [ownPeaks, otherPeaks],
  );
  const curves = useMemo(
    () => (own && other ? { reference: floatsOf(own), version: floatsOf(other) } : null),
    [own, other],
  );
  const sections = facts[reference.id]?.sections;
  const bySection = useMemo(
    () =>
      curves && aligned && sections
        ? sectionLoudness(sections, aligned, curves.reference, curves.version)
        : [],
    [curves, aligned, sections],
  );
  const steps = stepSentences(bySection);
  const shift = isEqual ? (model.gain ?? 0) : 0;
  const where = useWhere();
  const shown =
    aligned &&
    (bars ?? { ...barsOf(aligned.reference), first: Math.max(1, barsOf(aligned.reference).first) });
  if (model.nothingRecreated) return <NothingRecreated title="Loudness" />;
  const value = (side: "reference" | "version", key: keyof LoudnessMeasures, unit: string) =>
    model[side][key] === null ? "–" : `${fixed(model[side][key])} ${unit}`;
  return (
    <div className="loudness-view">
      <div>
        <div className="view-heading in-line">
          <h1>Loudness</h1>
          <p>
            Measured over {where}.{model.outdated && <span className="needs-attention"> Updating …</span>}
          </p>
          <span className="choices ms-auto" role="group" aria-label="What the picture shows">
            {(Object.keys(pictures) as Picture[]).map((name) => (
              <button
                key={name}
                type="button"
                className="plain-button"
                aria-pressed={picture === name}
                onClick={() => setPicture(name)}
              >
                {pictures[name]}
              </button>
            ))}
          </span>
        </div>
        {curves && peaks && aligned && shown && picture === "peaks" && (
          <PeaksOverBars {...curves} peaks={peaks} aligned={aligned} bars={shown} onBars={selectBars} />
        )}
        {curves && aligned && shown && picture !== "peaks" && (
          <LoudnessCurves
            {...curves}
            aligned={aligned}
            bars={shown}
            selected={null}
            onBars={selectBars}
            shift={shift}
          />
        )}
        <table className="ruled level-table">
          <thead>
            <tr>
              <th>Measure</th>
              <th className="number in-reference">
                <ReferenceName />
              </th>
              <th className="number in-version">Version {version!.number}</th>
              <th className="number">Gap</th>
            </tr>
          </thead>
          <tbody>
            {rows.map(([title, unit, key, hint]) => {
              const [a, b] = [model.reference[key], model.version[key]];
              const isHot = key === "truePeakDbtp" && b !== null && b > truePeakCeiling;
              return (
                <tr key={key}>
                  <td>
                    {title} <span className="soft small-text">{hint}</span>
                  </td>
                  <td className="number">{value("reference", key, unit)}</td>
                  <td className={`number${isHot ? " needs-attention strong" : ""}`}>
                    {value("version", key, unit)}
                  </td>
                  <td className="number strong">
                    {a === null || b === null
                      ? "–"
                      : `${signed(b - a)} ${unit === "LU" || key.endsWith("Lufs") ? "LU" : "dB"}`}
                  </td>
                </tr>
              );
            })}
            {(["attackDb", "sustainDb"] as const).map((key) => {
              const [a, b] = [model.dynamics.punch.reference, model.dynamics.punch.version];
              return (
                <tr key={key}>
                  <td>
                    {key === "attackDb" ? "Attack of the hits" : "Sustain of the hits"}{" "}
                    <span className="soft small-text">
                      {key === "attackDb"
                        ? "kicks and back-beats over the mean"
                        : "a tenth of a second later"}
                    </span>
                  </td>
                  <td className="number">{a ? `${fixed(a[key])} dB` : "–"}</td>
                  <td className="number">{b ? `${fixed(b[key])} dB` : "–"}</td>
                  <td className="number strong">{a && b ? `${signed(b[key] - a[key])} dB` : "–"}</td>
                </tr>
              );
            })}
          </tbody>
        </table>
        {model.dynamics.pumping && (
          <AtTheKicks pumping={model.dynamics.pumping} versionName={`version ${version!.number}`} />
        )}
        {bySection.length > 0 && (
          <table className="ruled level-table" aria-label="Loudness by section">
            <thead>
              <tr>
                <th>Section</th>
                <th className="number">Bars</th>
                <th className="number in-reference">
                  <ReferenceName />
                </th>
                <th className="number in-version">Version {version!.number}</th>
                <th className="number">Gap</th>
              </tr>
            </thead>
            <tbody>
              {bySection.map((section) => (
                <tr key={section.firstBar}>
                  <td>
                    <button
                      type="button"
                      className="plain-button"
                      onClick={() => selectBars({ first: section.firstBar, last: section.lastBar })}
                    >
                      {section.name}
                    </button>
                  </td>
                  <td className="number soft">
                    {section.firstBar}–{section.lastBar}
                  </td>
                  <td className="number">
                    {section.reference === null ? "–" : `${fixed(section.reference)} LUFS`}
                  </td>
                  <td className="number">
                    {section.version === null ? (
                      <span className="soft">not recreated</span>
                    ) : (
                      `${fixed(section.version)} LUFS`
                    )}
                  </td>
                  <td className="number strong">
                    {section.reference === null || section.version === null
                      ? "–"
                      : `${signed(section.version - section.reference)} LU`}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
      </div>
      <aside aria-label="What to do about the level">
        <AspectAnswer aspect="loudness" score={model.scores.loudness}>
          , dynamics {points(model.scores.dynamics)}
        </AspectAnswer>
        <p className="mt-2 strong">{gainSentence(model)}</p>
        {steps.length > 0 && (
          <section aria-label="Steps between sections">
            <h2>Between sections</h2>
            <ul className="plain-list">
              {steps.slice(0, 4).map((sentence) => (
                <li key={sentence}>{sentence}</li>
              ))}
            </ul>
          </section>
        )}
        <section aria-label="Punch and pumping">
          <h2>Punch {points(model.dynamics.scores.punch)}</h2>
          {punchSentences(model.dynamics).map((sentence) => (
            <p key={sentence} className="mb-1">
              {sentence}
            </p>
          ))}
          <h2>Pumping {points(model.dynamics.scores.pumping)}</h2>
          {pumpingSentences(model.dynamics).map((sentence) => (
            <p key={sentence} className="mb-1">
              {sentence}
            </p>
          ))}
        </section>
        <Clipping model={model} />
        {curves && <Distribution curves={curves} shift={shift} versionName={`version ${version!.number}`} />}
      </aside>
    </div>
  );
}

/** Runs at full scale, with places that can be heard. */
function Clipping({ model: { clipped } }: { model: LoudnessModel }) {
  const playback = usePlayback();
  const { aligned } = useStudy();
  if (clipped.version.runs === 0 && clipped.reference.runs === 0) return null;
  const places = clipped.version.at.map((seconds) => ({
    seconds,
    inReference: aligned ? referenceTimeOf(aligned, seconds) : seconds,
  }));
  return (
    <section aria-label="Clipping">
      <h2>Clipping</h2>
      <p className="m-0">
        <span className={clipped.version.runs > 0 ? "strong" : undefined}>
          {clipped.version.runs === 0
            ? "No clipped runs"
            : `${clipped.version.runs} clipped run${clipped.version.runs === 1 ? "" : "s"}`}
        </span>{" "}
        in yours, {clipped.reference.runs} in the reference (three samples or more at full scale).
      </p>
      {places.length > 0 && (
        <p className="small-text soft m-0">
          First at{" "}
          {places.slice(0, namedPlaces).map(({ seconds, inReference }, i) => (
            <span key={`${i} ${seconds}`}>
              {i > 0 && ", "}
              <button
                type="button"
                className="plain-button underlined"
                disabled={inReference === null}
                onClick={() => {
                  playback.listenTo("version");
                  playback.seek(Math.max(0, inReference! - 1));
                }}
              >
                {clock(seconds, true)}
              </button>
            </span>
          ))}{" "}
          of the file{places.length > namedPlaces ? " …" : "."}
        </p>
      )}
    </section>
  );
}

/** How much of the time each side spends at which short-term loudness; of whole files, so that no selection touches it. */
const Distribution = memo(function Distribution({
  curves,
  shift,
  versionName,
}: {
  curves: Record<"reference" | "version", Float32Array>;
  shift: number;
  versionName: string;
}) {
  const isDrawn = useAfterFirstPaint();
  const data = useMemo(() => {
    const ours = loudnessDistribution(shortTermLoudness(curves.reference));
    const theirs = loudnessDistribution(shortTermLoudness(curves.version).map((level) => level + shift));
    return ours
      .map((share, i) => ({ lufs: quietest + i, reference: 100 * share, version: -100 * theirs[i]! }))
      .filter(({ lufs }) => lufs >= -30);
  }, [curves, shift]);
  return (
    <section aria-label="Distribution of short-term loudness">
      <h2>How long at which loudness</h2>
      <div
        className="chart distribution"
        role="img"
        aria-label={`Distribution of reference and ${versionName}`}
      >
        {isDrawn && (
          <ResponsiveContainer>
            <BarChart
              data={data}
              stackOffset="sign"
              margin={{ top: 4, right: 4, bottom: 0, left: 0 }}
              barCategoryGap={1}
            >
              <XAxis
                dataKey="lufs"
                ticks={[-30, -24, -18, -12, -6, 0]}
                tickFormatter={(v: number) => fixed(v, 0)}
              />
              <YAxis hide domain={["dataMin", "dataMax"]} />
              <Tooltip
                cursor={{ fill: "var(--line)", fillOpacity: 0.4 }}
                isAnimationActive={false}
                formatter={(share, name) => [`${fixed(Math.abs(Number(share)), 0)} % of the time`, name]}
                labelFormatter={(lufs) => `${fixed(Number(lufs), 0)} LUFS, short-term`}
              />
              <ReferenceLine y={0} stroke="var(--soft)" />
              <Bar dataKey="reference" stackId="a" fill="var(--reference)" isAnimationActive={false} />
              <Bar
                dataKey="version"
                name={versionName}
                stackId="a"
                fill="var(--version)"
                isAnimationActive={false}
              />
            </BarChart>
          </ResponsiveContainer>
        )}
      </div>
      <p className="tiny-text soft m-0">
        Short-term LUFS, whole files; reference above, {versionName} below.
      </p>
    </section>
  );
});

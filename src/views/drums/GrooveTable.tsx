"use client";

import { Fragment } from "react";
import { fixed, signed } from "@/models/format";
import {
  grooveOf,
  interlockOf,
  placeInWords,
  voiceNames,
  type BarShape,
  type CountedHit,
  type DrumVoice,
  type PlacedHit,
} from "@/core/drums";

type Placed = readonly PlacedHit<CountedHit>[];

/** How each voice is played on either side, in numbers. */
export function GrooveTable({
  reference,
  version,
  bars,
  shape,
  sources,
}: {
  reference: Placed;
  version: Placed | null;
  bars: number;
  shape: BarShape;
  sources: Partial<Record<DrumVoice, string>>;
}) {
  const own = grooveOf(reference, bars, shape);
  const theirs = version && grooveOf(version, bars, shape);
  const voices = [...new Set([...own, ...(theirs ?? [])].map(({ voice }) => voice))];
  const row = (feel: (typeof own)[number] | undefined, side: string) => (
    <>
      <td className={side}>{fixed(feel?.hitsPerBar)}</td>
      <td className={side}>{feel ? `${signed(1000 * feel.offset, 0)} ms` : "–"}</td>
      <td className={side}>{feel ? `±${fixed(1000 * feel.jitter, 0)} ms` : "–"}</td>
      <td className={side}>{feel ? `${fixed(feel.accents)} dB` : "–"}</td>
      <td className={side}>
        {feel && feel.accented.length > 0 && feel.accented.length <= 4
          ? feel.accented.map((step) => placeInWords(step / shape.stepsPerBeat, shape.beatsPerBar)).join(" ")
          : ""}
      </td>
    </>
  );
  return (
    <table className="ruled groove-table">
      <thead>
        <tr>
          <th scope="col">Voice</th>
          <th scope="col">
            <span className="visually-hidden">Side</span>
          </th>
          <th scope="col">hits/bar</th>
          <th scope="col" title="Behind (+) or ahead of (−) the grid, on average">
            vs. grid
          </th>
          <th scope="col" title="Spread of the hits around their usual position">
            jitter
          </th>
          <th scope="col" title="Loudest step minus softest step">
            accents
          </th>
          <th scope="col">accented beats</th>
        </tr>
      </thead>
      <tbody>
        {voices.map((voice) => (
          <Fragment key={voice}>
            <tr>
              <th scope="row" rowSpan={theirs ? 2 : 1}>
                {voiceNames[voice]}
                {sources[voice] && <span className="small-text soft d-block">from {sources[voice]}</span>}
              </th>
              <td className="in-reference small-text">reference</td>
              {row(
                own.find((feel) => feel.voice === voice),
                "",
              )}
            </tr>
            {theirs && (
              <tr className="follows">
                <td className="in-version small-text">yours</td>
                {row(
                  theirs.find((feel) => feel.voice === voice),
                  "",
                )}
              </tr>
            )}
          </Fragment>
        ))}
      </tbody>
    </table>
  );
}

/** Pairs that sound together or answer each other in less than this share of their hits are not consistent. */
const consistentShare = 0.5;
const mostPairs = 8;

/** Which voices sound together and which answer each other, drums and bass. */
export function Interlock({
  reference,
  version,
  bass,
  beatSeconds,
}: {
  reference: Placed;
  version: Placed | null;
  bass: { reference: readonly number[]; version: readonly number[] };
  beatSeconds: number;
}) {
  const own = interlockOf(reference, bass.reference, beatSeconds);
  const theirs = version && interlockOf(version, bass.version, beatSeconds);
  const name = (voice: DrumVoice | "bass") => (voice === "bass" ? "bass" : voiceNames[voice].toLowerCase());
  const rows = own
    .filter(({ together, answered }) => Math.max(together, answered) >= consistentShare)
    .sort(
      (a, b) =>
        Number(b.other === "bass") - Number(a.other === "bass") ||
        Math.max(b.together, b.answered) - Math.max(a.together, a.answered),
    )
    .slice(0, mostPairs);
  if (rows.length === 0) return <p className="soft m-0">No consistent interlock here.</p>;
  const percent = (share: number | undefined) => (share === undefined ? "–" : `${Math.round(100 * share)} %`);
  return (
    <table className="ruled interlock-table">
      <thead>
        <tr>
          <th scope="col">Pair</th>
          <th scope="col">together</th>
          <th scope="col">answered</th>
        </tr>
      </thead>
      <tbody>
        {rows.map((pair) => {
          const other = theirs?.find(
            ({ voice, other: second }) =>
              (voice === pair.voice && second === pair.other) ||
              (voice === pair.other && second === pair.voice),
          );
          return (
            <tr key={`${pair.voice} ${pair.other}`}>
              <th scope="row">
                {voiceNames[pair.voice]} <span className="soft">with {name(pair.other)}</span>
              </th>
              <td>
                <span className="in-reference">{percent(pair.together)}</span>
                {theirs && <span className="in-version"> · {percent(other?.together)}</span>}
              </td>
              <td>
                <span className="in-reference">{percent(pair.answered)}</span>
                {theirs && <span className="in-version"> · {percent(other?.answered)}</span>}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

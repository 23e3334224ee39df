"use client";

import { fixed, signed } from "@/models/format";
import { barStart, metreName } from "@/core/grid/grid";
import { timesOf, type AlignedBars } from "@/core/study";
import { tempoGap } from "@/core/units";
import type { GridSide } from "@/models/grid";
import { ReferenceName } from "../study/ReferenceName";

interface Row {
  name: string;
  reference: string;
  version: string;
  gap: string;
}

const swingWords = (side: GridSide | null, of: "eighths" | "sixteenths"): string => {
  const swing = side?.measured?.swing[of];
  return swing ? `${fixed(swing.percent)} %` : "–";
};

const swingGap = (a: GridSide | null, b: GridSide | null, of: "eighths" | "sixteenths"): string => {
  const [one, other] = [a?.measured?.swing[of], b?.measured?.swing[of]];
  return one && other ? `${signed(other.percent - one.percent)} points` : "–";
};

/** How far the version drifts from the reference over the bars that answer each other, in seconds. */
export function driftSeconds(aligned: AlignedBars): number | null {
  const longest = [...aligned.spans].sort((a, b) => b.bars - a.bars)[0];
  if (!longest) return null;
  const times = timesOf(longest, aligned);
  return times.version.to - times.version.from - (times.reference.to - times.reference.from);
}

/** Where the first answering bar begins in the version, less where its bar begins in the reference. */
export function startOffset(aligned: AlignedBars): number | null {
  const first = aligned.spans[0];
  if (!first) return null;
  const times = timesOf(first, aligned);
  return times.version.from - times.reference.from;
}

/** Which bar begins the version, and how far its time is from that in the reference. */
function startWords(aligned: AlignedBars): string {
  const first = aligned.spans[0];
  const offset = startOffset(aligned);
  if (!first || offset === null) return "–";
  const there =
    first.referenceFirst === first.versionFirst
      ? ""
      : `bar ${first.versionFirst} answers bar ${first.referenceFirst}, `;
  return `${there}${milliseconds(offset)}`;
}

const milliseconds = (seconds: number | null): string =>
  seconds === null
    ? "–"
    : Math.abs(seconds) < 1
      ? `${signed(1000 * seconds, 0)} ms`
      : `${signed(seconds, 3)} s`;

/** The one number that everything else stands on, of both sides. */
export function TempoHead({ reference, version }: { reference: GridSide | null; version: GridSide | null }) {
  const a = reference?.grid ?? null;
  const b = version?.grid ?? null;
  const gap = a && b ? tempoGap(a.bpm, b.bpm) : null;
  const off = gap && a && b ? b.bpm * gap.foldedBy - a.bpm : null;
  return (
    <div className="tempo-head">
      <div>
        <div className="in-reference small-text">
          <ReferenceName />
        </div>
        <span className="value" data-testid="reference-bpm">
          {a ? fixed(a.bpm, 2) : "–"}
        </span>{" "}
        <span className="soft">BPM</span>
      </div>
      {version && (
        <div>
          <div className="in-version small-text">{version.name}</div>
          <span className="value" data-testid="version-bpm">
            {b ? fixed(b.bpm, 2) : "–"}
          </span>{" "}
          <span className="soft">BPM</span>
        </div>
      )}
      {gap && off !== null && (
        <div>
          <div className="soft small-text">gap</div>
          {Math.abs(off) < 0.005 ? (
            <span className="strong">none</span>
          ) : (
            <span className="strong">
              {signed(off, 2)} BPM, {signed(gap.percent, 2)} %
            </span>
          )}
        </div>
      )}
    </div>
  );
}

/** The rest of both grids in numbers, side by side. */
export function GridTable({
  reference,
  version,
  aligned,
}: {
  reference: GridSide | null;
  version: GridSide | null;
  aligned: AlignedBars | null;
}) {
  const a = reference?.grid ?? null;
  const b = version?.grid ?? null;
  const manner = (side: GridSide | null) =>
    !side?.grid ? "–" : side.grid.steady ? "one exact tempo" : "follows the player";
  const barOne = (side: GridSide | null) => (side?.grid ? `${fixed(barStart(side.grid, 1), 3)} s` : "–");
  const leadIn = (side: GridSide | null) =>
    side && side.leadInSeconds !== null ? `${fixed(side.leadInSeconds, 3)} s` : "–";
  const sure = (side: GridSide | null) =>
    side?.tempo && side.measured
      ? `${Math.round(100 * side.tempo.confidence)} % · ${Math.round(100 * side.measured.confidence)} %`
      : "–";
  const rows: Row[] = [
    {
      name: "Metre",
      reference: a ? metreName(a.beatsPerBar) : "–",
      version: b ? metreName(b.beatsPerBar) : "–",
      gap: a && b ? (a.beatsPerBar === b.beatsPerBar ? "the same" : "differs") : "–",
    },
    { name: "Beats", reference: manner(reference), version: manner(version), gap: "" },
    {
      name: "Bar 1 starts at",
      reference: barOne(reference),
      version: barOne(version),
      gap: aligned ? startWords(aligned) : "–",
    },
    { name: "First sound at", reference: leadIn(reference), version: leadIn(version), gap: "" },
    {
      name: "Drift",
      reference: "",
      version: "",
      gap: aligned ? `${milliseconds(driftSeconds(aligned))} over the longest passage` : "–",
    },
    {
      name: "Swing of eighths",
      reference: swingWords(reference, "eighths"),
      version: swingWords(version, "eighths"),
      gap: swingGap(reference, version, "eighths"),
    },
    {
      name: "Swing of sixteenths",
      reference: swingWords(reference, "sixteenths"),
      version: swingWords(version, "sixteenths"),
      gap: swingGap(reference, version, "sixteenths"),
    },
    { name: "Sure of tempo · of bars", reference: sure(reference), version: sure(version), gap: "" },
  ];
  return (
    <table className="ruled grid-table">
      <thead>
        <tr>
          <th>
            <span className="visually-hidden">Measure</span>
          </th>
          <th className="number in-reference">
            <ReferenceName />
          </th>
          <th className="number in-version">{version?.name ?? "No version yet"}</th>
          <th className="number">Gap</th>
        </tr>
      </thead>
      <tbody>
        {rows.map((row) => (
          <tr key={row.name}>
            <td>{row.name}</td>
            <td className="number">{row.reference}</td>
            <td className="number">{row.version}</td>
            <td className="number soft">{row.gap}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

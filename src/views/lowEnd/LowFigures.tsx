import { NumberField } from "@/components/NumberField";
import type { LowEndMeasures } from "@/core/lowEnd";
import { fixed, signed } from "@/models/format";
import { ReferenceName } from "../study/ReferenceName";

const rows: [title: string, unit: string, places: number, key: keyof LowEndMeasures][] = [
  ["Kick length", "beats", 2, "kickLengthBeats"],
  ["Kick pitch", "Hz", 1, "kickHz"],
  ["Room until the next kick", "beats", 2, "roomBeats"],
  ["Kick to bass", "dB", 1, "kickToBassDb"],
  ["Bass notes, spread", "dB", 1, "bassEvennessDb"],
  ["Deepest", "dB", 1, "below30Db"],
  ["Left and right, correlation", "", 2, "monoCorrelation"],
  ["Lost in mono", "dB", 1, "monoLossDb"],
  ["Kick with bass, correlation", "", 2, "kickBassCorrelation"],
];

/** What is measured of the low end of both sides. */
export function LowFigures({
  reference,
  version,
  versionNumber,
  where,
  deepest,
  onDeepest,
}: {
  reference: LowEndMeasures;
  version: LowEndMeasures;
  versionNumber: number;
  where: string;
  /** In hertz: few speakers play what is deeper. */
  deepest: number;
  onDeepest(hertz: number): void;
}) {
  const dip = ({ ducking }: LowEndMeasures) =>
    ducking ? `${fixed(ducking.depthDb)} dB, ${ducking.recoveryMs} ms` : "none";
  return (
    <table className="ruled small-text">
      <thead>
        <tr>
          <th>Over {where}</th>
          <th className="number in-reference">
            <ReferenceName />
          </th>
          <th className="number in-version">Version {versionNumber}</th>
          <th className="number">Gap</th>
        </tr>
      </thead>
      <tbody>
        {rows.map(([title, unit, places, key]) => {
          const [a, b] = [reference[key] as number | null, version[key] as number | null];
          const value = (own: number | null) =>
            own === null ? "–" : `${fixed(own, places)}${unit === "dB" || unit === "Hz" ? ` ${unit}` : ""}`;
          return (
            <tr key={key}>
              <td>
                {key === "below30Db" ? (
                  <label className="d-inline-flex align-items-center gap-2">
                    Below
                    <NumberField
                      label="Too deep below, in hertz"
                      value={deepest}
                      min={20}
                      max={50}
                      step={1}
                      onSave={onDeepest}
                    />
                    Hz
                  </label>
                ) : (
                  title
                )}
                {unit === "beats" && <span className="soft">, {unit}</span>}
              </td>
              <td className="number">{value(a)}</td>
              <td className="number">{value(b)}</td>
              <td className="number strong">{a === null || b === null ? "–" : signed(b - a, places)}</td>
            </tr>
          );
        })}
        <tr>
          <td>Bass dips at the kick</td>
          <td className="number">{dip(reference)}</td>
          <td className="number">{dip(version)}</td>
          <td className="number strong">
            {reference.ducking && version.ducking
              ? signed(version.ducking.depthDb - reference.ducking.depthDb)
              : "–"}
          </td>
        </tr>
        <tr>
          <td>Bass notes heard</td>
          <td className="number">{reference.notes}</td>
          <td className="number">{version.notes}</td>
          <td className="number strong">{signed(version.notes - reference.notes, 0)}</td>
        </tr>
      </tbody>
    </table>
  );
}

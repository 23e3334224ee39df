import type { PlaceRow } from "@/models/space";

const placed = (position: number) => `${(50 * (position + 1)).toFixed(1)}%`;
const inWords = (position: number | null) =>
  position === null
    ? "–"
    : Math.abs(position) < 0.05
      ? "middle"
      : `${Math.round(100 * Math.abs(position))} ${position < 0 ? "L" : "R"}`;

/** Where hits of each voice and held sounds sit from left to right, the reference's above the version's. */
export function Places({ rows, versionName }: { rows: readonly PlaceRow[]; versionName: string }) {
  return (
    <section className="mt-4" aria-label="From left to right">
      <div className="chart-heading">
        <h2>From left to right</h2>
        <span className="small-text">
          <span className="in-reference strong">reference ●</span>
          <span className="in-version strong ms-3">{versionName.toLowerCase()} ○</span>
        </span>
      </div>
      <table className="ruled small-text places">
        <thead>
          <tr>
            <th>Hits and held sounds</th>
            <th className="place-head">
              <span>left</span>
              <span>middle</span>
              <span>right</span>
            </th>
            <th className="number in-reference">reference</th>
            <th className="number in-version">{versionName.replace("Version ", "v")}</th>
          </tr>
        </thead>
        <tbody>
          {rows.map(({ name, reference, version }) => (
            <tr key={name}>
              <td>{name}</td>
              <td>
                <span className="place-line" aria-hidden="true">
                  {reference !== null && <i className="at-reference" style={{ left: placed(reference) }} />}
                  {version !== null && <i className="at-version" style={{ left: placed(version) }} />}
                </span>
              </td>
              <td className="number">{inWords(reference)}</td>
              <td className="number">{inWords(version)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

import { fixed } from "@/models/format";
import { figureWords, isTypical, rangeWords, type FigureRow, type YardstickModel } from "@/models/yardstick";

const width = 190;
const height = 20;
const inset = 6;

/** Where the tracks, the reference and the version lie: the range as a bar, each track as a tick. */
function Strip({ row: { name, range, reference, version } }: { row: FigureRow }) {
  if (!range) return null;
  const { least } = figureWords[name];
  const all = [...range.values, reference, version].filter((value) => value !== null);
  const middle = (Math.min(...all) + Math.max(...all)) / 2;
  // A range that is hardly one does not fill the strip.
  const reach = Math.max((Math.max(...all) - Math.min(...all)) / 2, least);
  const x = (value: number) => inset + ((width - 2 * inset) * (value - middle + reach)) / (2 * reach);
  const mark = (value: number | null, ink: string, down: boolean) =>
    value !== null && (
      <path
        d={down ? "M-5,-8 h10 l-5,8 z" : "M-5,8 h10 l-5,-8 z"}
        transform={`translate(${x(value)} ${height / 2})`}
        fill={`var(--${ink})`}
      />
    );
  return (
    <svg width={width} height={height} aria-hidden="true">
      <line x1={inset} x2={width - inset} y1={height / 2} y2={height / 2} stroke="var(--line)" />
      <rect
        x={x(range.low)}
        width={Math.max(2, x(range.high) - x(range.low))}
        y={height / 2 - 4}
        height={8}
        fill="var(--line)"
      />
      {range.values.map((value, i) => (
        <line
          key={i}
          x1={x(value)}
          x2={x(value)}
          y1={height / 2 - 3}
          y2={height / 2 + 3}
          stroke="var(--soft)"
          strokeOpacity={0.6}
        />
      ))}
      <line
        x1={x(range.median)}
        x2={x(range.median)}
        y1={height / 2 - 6}
        y2={height / 2 + 6}
        stroke="var(--ink)"
        strokeWidth={1.5}
      />
      {mark(reference, "reference", true)}
      {mark(version, "version", false)}
    </svg>
  );
}

/** Every figure with its range and where both sides lie. */
export function FigureTable({ model, versionName }: { model: YardstickModel; versionName: string | null }) {
  const value = (row: FigureRow, side: "reference" | "version") => {
    const own = row[side];
    const { places } = figureWords[row.name];
    return (
      <td className={`number${isTypical(row, own) ? "" : " needs-attention strong"}`}>
        {own === null ? "–" : fixed(own, places)}
      </td>
    );
  };
  return (
    <table className="ruled yardstick-figures">
      <thead>
        <tr>
          <th scope="col">Figure</th>
          <th scope="col">Typical</th>
          <th scope="col">
            <span className="in-reference">▼</span> and <span className="in-version">▲</span> among the tracks
          </th>
          <th scope="col" className="number in-reference">
            Reference
          </th>
          {versionName && (
            <th scope="col" className="number in-version text-nowrap">
              {versionName[0]!.toUpperCase() + versionName.slice(1)}
            </th>
          )}
        </tr>
      </thead>
      <tbody>
        {model.rows
          .filter(({ range }) => range !== null)
          .map((row) => (
            <tr key={row.name}>
              <th scope="row" className="strong">
                {figureWords[row.name].title}
              </th>
              <td className="text-nowrap">{rangeWords(row.name, row.range!)}</td>
              <td>
                <Strip row={row} />
              </td>
              {value(row, "reference")}
              {versionName && value(row, "version")}
            </tr>
          ))}
      </tbody>
    </table>
  );
}

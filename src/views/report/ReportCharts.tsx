import type { ReportFigure } from "@/models/report";
import { bandTolerance } from "@/core/match";
import { axisFrequency } from "@/models/format";
import { Lane } from "../elements/Lane";

/** A chart of the report, for screen and paper. */
export function ReportChart({ figure }: { figure: ReportFigure }) {
  return figure.kind === "spectra" ? <Spectra bands={figure.bands} /> : <Lanes figure={figure} />;
}

const width = 720;
const left = 36;
const [top, curves, between, gaps] = [8, 150, 26, 70];
const height = top + curves + between + gaps + 18;
const mostGap = 9;
const ticks = [31.5, 63, 125, 250, 500, 1000, 2000, 4000, 8000, 16000];

function Spectra({ bands }: { bands: Extract<ReportFigure, { kind: "spectra" }>["bands"] }) {
  if (bands.length < 2) return null;
  const [low, high] = [Math.log2(bands[0]!.hertz) - 1 / 6, Math.log2(bands.at(-1)!.hertz) + 1 / 6];
  const x = (hertz: number) => left + ((width - left) * (Math.log2(hertz) - low)) / (high - low);
  const levels = bands.flatMap(({ reference, version }) => [reference, version]);
  const loudest = Math.ceil(Math.max(...levels) / 10) * 10;
  const softest = Math.max(loudest - 60, Math.floor(Math.min(...levels) / 10) * 10);
  const y = (level: number) => top + (curves * (loudest - Math.max(softest, level))) / (loudest - softest);
  const line = (side: "reference" | "version") =>
    bands.map((band) => `${x(band.hertz).toFixed(1)},${y(band[side]).toFixed(1)}`).join(" ");
  const zero = top + curves + between + gaps / 2;
  const tall = (gap: number) => (gaps / 2) * Math.max(-1, Math.min(1, gap / mostGap));
  const wide = ((width - left) / 3 / (high - low)) * 0.7;
  const shown = ticks.filter((hertz) => hertz >= 2 ** low && hertz <= 2 ** high);
  const furthest = bands.reduce((a, b) => (Math.abs(b.gap) > Math.abs(a.gap) ? b : a));
  return (
    <svg
      className="report-chart"
      viewBox={`0 0 ${width} ${height}`}
      role="img"
      aria-label={`Average spectra of both sides and the gap between them, largest at ${axisFrequency(furthest.hertz)} Hz: ${furthest.gap} dB`}
    >
      {Array.from({ length: (loudest - softest) / 20 + 1 }, (_, i) => loudest - 20 * i).map((level) => (
        <g key={level}>
          <line className="rule" x1={left} x2={width} y1={y(level)} y2={y(level)} />
          <text x={left - 6} y={y(level) + 3.5} textAnchor="end">
            {level < 0 ? `−${-level}` : level}
          </text>
        </g>
      ))}
      <rect
        className="tolerance"
        x={left}
        width={width - left}
        y={zero - tall(bandTolerance)}
        height={2 * tall(bandTolerance)}
      />
      {[6, -6].map((gap) => (
        <g key={gap}>
          <line className="rule" x1={left} x2={width} y1={zero - tall(gap)} y2={zero - tall(gap)} />
          <text x={left - 6} y={zero - tall(gap) + 3.5} textAnchor="end">
            {gap > 0 ? `+${gap}` : `−${-gap}`}
          </text>
        </g>
      ))}
      {bands.map(({ hertz, gap }) => (
        <rect
          key={hertz}
          className="gap"
          x={x(hertz) - wide / 2}
          width={wide}
          y={gap > 0 ? zero - tall(gap) : zero}
          height={Math.abs(tall(gap))}
        />
      ))}
      <line className="axis" x1={left} x2={width} y1={zero} y2={zero} />
      <polyline className="reference" points={line("reference")} />
      <polyline className="version" points={line("version")} />
      {shown.map((hertz) => (
        <text key={hertz} x={x(hertz)} y={height - 4} textAnchor="middle">
          {axisFrequency(hertz === 31.5 ? 32 : hertz)}
        </text>
      ))}
      <text x={left} y={top + curves + between - 9}>
        gap, version less reference, dB
      </text>
      <text x={width} y={top + 10} textAnchor="end">
        dB by Hz; reference solid, version dashed
      </text>
    </svg>
  );
}

function Lanes({ figure: { lanes, sections, bars } }: { figure: Extract<ReportFigure, { kind: "lanes" }> }) {
  return (
    <figure className="element-lanes m-0">
      <div className="lane-row">
        <span />
        <div className="lane-sections tiny-text soft">
          {sections.map(({ name, firstBar }) => (
            <span key={firstBar} style={{ left: `${(100 * (firstBar - 1)) / bars}%` }}>
              {name}
            </span>
          ))}
        </div>
      </div>
      {lanes.map((lane) => (
        <div key={lane.name} className="lane-row">
          <span className="small-text">{lane.name}</span>
          <div className="lane">
            <Lane lane={lane} bars={bars} />
          </div>
        </div>
      ))}
      <figcaption className="tiny-text soft">
        Where each plays: the reference above the line, the version below; pale where it is not told surely.
      </figcaption>
    </figure>
  );
}

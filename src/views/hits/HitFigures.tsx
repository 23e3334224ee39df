import { withoutOctave } from "@/core/hits/closeness";
import { hitBands } from "@/core/hits/hitMeasures";
import { fixed, nominalFrequency, signed } from "@/models/format";
import { pitchWords, type HitPair, type ShownHit } from "@/models/hits";
import { ReferenceName } from "../study/ReferenceName";

const tailWords = { plain: "dies away", room: "in a room", gated: "cut off" } as const;

interface Row {
  title: string;
  /** @param beat length of a beat of its side, seconds */
  value(hit: ShownHit, beat: number | null): string;
  gap(reference: ShownHit, version: ShownHit): string;
}

/** What is read an octave apart may be one pitch. */
function semitonesInWords(apart: number): string {
  const folded = withoutOctave(apart);
  return `${signed(folded)} st${folded === apart ? "" : ", or an octave"}`;
}
const ratioInPercent = (a: number | null, b: number | null): string =>
  a === null || b === null || a <= 0 ? "–" : `${signed(100 * (b / a - 1), 0)} %`;
const positionWords = (position: number): string =>
  Math.abs(position) < 0.03
    ? "centre"
    : `${fixed(100 * Math.abs(position), 0)} % ${position > 0 ? "right" : "left"}`;
const milliseconds = (value: number | null, places = 0): string =>
  value === null ? "–" : `${fixed(value, places)} ms`;

function rowsFor(beats: { reference: number | null; version: number | null }): Row[] {
  const share = ({ measures }: ShownHit, beat: number | null) =>
    beat === null || measures.decay.to20 === null ? null : measures.decay.to20 / 1000 / beat;
  return [
    {
      title: "Fundamental",
      value: ({ measures }) => pitchWords(measures.fundamentalHz),
      gap: ({ measures: a }, { measures: b }) =>
        a.fundamentalHz && b.fundamentalHz
          ? semitonesInWords(12 * Math.log2(b.fundamentalHz / a.fundamentalHz))
          : "–",
    },
    {
      title: "Glide to it",
      value: ({ measures }) =>
        measures.glideSemitones === null ? "–" : `${signed(measures.glideSemitones)} st`,
      gap: ({ measures: a }, { measures: b }) =>
        a.glideSemitones === null || b.glideSemitones === null
          ? "–"
          : `${signed(b.glideSemitones - a.glideSemitones)} st`,
    },
    {
      title: "Attack",
      value: ({ measures }) => milliseconds(measures.attackMs, 1),
      gap: ({ measures: a }, { measures: b }) => `${signed(b.attackMs - a.attackMs)} ms`,
    },
    {
      title: "Until −20 dB",
      value: ({ measures }) => milliseconds(measures.decay.to20),
      gap: ({ measures: a }, { measures: b }) => ratioInPercent(a.decay.to20, b.decay.to20),
    },
    {
      title: "Until −40 dB",
      value: ({ measures }) => milliseconds(measures.decay.to40),
      gap: ({ measures: a }, { measures: b }) => ratioInPercent(a.decay.to40, b.decay.to40),
    },
    {
      title: "Length in beats",
      value: (hit, beat) => fixed(share(hit, beat), 2),
      gap: (a, b) => {
        const [own, other] = [share(a, beats.reference), share(b, beats.version)];
        return own === null || other === null ? "–" : signed(other - own, 2);
      },
    },
    {
      title: "Click against body",
      value: ({ measures }) => (measures.clickDb === null ? "–" : `${fixed(measures.clickDb)} dB`),
      gap: ({ measures: a }, { measures: b }) =>
        a.clickDb === null || b.clickDb === null ? "–" : `${signed(b.clickDb - a.clickDb)} dB`,
    },
    {
      title: "Brightness",
      value: ({ measures }) => `${fixed(measures.brightnessHz, 0)} Hz`,
      gap: ({ measures: a }, { measures: b }) => ratioInPercent(a.brightnessHz, b.brightnessHz),
    },
    {
      title: "Position",
      value: ({ measures }) => positionWords(measures.position),
      gap: ({ measures: a }, { measures: b }) => `${signed(100 * (b.position - a.position), 0)} %`,
    },
    {
      title: "Tail",
      value: ({ measures }) => tailWords[measures.tail],
      gap: ({ measures: a }, { measures: b }) => (a.tail === b.tail ? "the same" : ""),
    },
  ];
}

/** What both hits measure, and how far apart they are. */
export function HitFigures({
  pair: { reference, version },
  beats,
  versionName,
}: {
  pair: HitPair;
  beats: { reference: number | null; version: number | null };
  versionName: string;
}) {
  return (
    <table className="ruled small-text">
      <thead>
        <tr>
          <th>Typical hit</th>
          <th className="number in-reference">
            <ReferenceName />
          </th>
          <th className="number in-version">{versionName}</th>
          <th className="number">Gap</th>
        </tr>
      </thead>
      <tbody>
        {rowsFor(beats).map(({ title, value, gap }) => (
          <tr key={title}>
            <td>{title}</td>
            <td className="number">{reference ? value(reference, beats.reference) : "–"}</td>
            <td className="number">{version ? value(version, beats.version) : "–"}</td>
            <td className="number strong">{reference && version ? gap(reference, version) : "–"}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** How long each octave of both hits takes to fall by 20 dB, as bars on one scale. */
export function BandDecays({ pair: { reference, version } }: { pair: HitPair }) {
  const rows = hitBands.map((hz, i) => ({
    hz,
    reference: reference?.measures.bands[i] ?? null,
    version: version?.measures.bands[i] ?? null,
  }));
  const longest = Math.max(100, ...rows.flatMap((row) => [row.reference?.to20 ?? 0, row.version?.to20 ?? 0]));
  const heard = rows.filter(
    (row) => (row.reference?.levelDb ?? -99) > heardWithin || (row.version?.levelDb ?? -99) > heardWithin,
  );
  const bar = (side: "reference" | "version", band: ShownHit["measures"]["bands"][number]) => (
    <span className="band-bar">
      <span
        className={`fill of-${side}`}
        style={{
          width: `${(100 * (band?.to20 ?? 0)) / longest}%`,
          opacity: 0.35 + 0.65 * loudShare(band?.levelDb),
        }}
      />
      <span className="soft">
        {band?.to20 != null ? `${fixed(band.to20, 0)} ms` : band ? "overlaid" : "–"}
      </span>
    </span>
  );
  return (
    <section aria-label="Decay by octave">
      <div className="chart-heading">
        <h2>Until −20 dB, octave by octave</h2>
      </div>
      <div className="band-decays small-text">
        {heard.map((row) => (
          <div key={row.hz} className="band-row">
            <span className="number">{nominalFrequency(row.hz)}</span>
            <span>
              {bar("reference", row.reference)}
              {bar("version", row.version)}
            </span>
          </div>
        ))}
      </div>
      <p className="small-text soft mt-1">The fainter a bar, the less of the sound lies in its octave.</p>
    </section>
  );
}

/** Bands further below the loudest are not shown, dB. */
const heardWithin = -36;
const loudShare = (levelDb: number | undefined): number =>
  levelDb === undefined ? 0 : Math.max(0, 1 + levelDb / -heardWithin);

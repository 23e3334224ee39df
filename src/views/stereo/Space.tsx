import { decayWords, type SpaceModel } from "@/models/space";
import { fixed, frequency, signed } from "@/models/format";

const sureWords = (confidence: number) =>
  confidence >= 0.75 ? "sure" : confidence >= 0.5 ? "fairly sure" : "unsure";

/** How full the gaps are and how sounds die away, range by range. */
export function SpaceTable({ model, versionName }: { model: SpaceModel; versionName: string }) {
  const v = versionName.replace("Version ", "v");
  const decay = (own: SpaceModel["space"][number]["reference"]) =>
    own.decaySeconds === null ? "–" : `${fixed(own.decaySeconds, 2)} s, ${decayWords(own)}`;
  const heads = (
    <>
      <th className="number in-reference">reference</th>
      <th className="number in-version">{v}</th>
    </>
  );
  return (
    <section className="mt-4" aria-label="Space">
      <div className="chart-heading">
        <h2>Space</h2>
        <span className="small-text soft">
          gaps: lowest level of a beat against its highest; after hits: 100 to 250 ms later; decay: to fall by
          60 dB
        </span>
      </div>
      <table className="ruled small-text">
        <thead>
          <tr>
            <th rowSpan={2}>Range</th>
            <th className="number" colSpan={3}>
              In the gaps, dB
            </th>
            <th className="number" colSpan={2}>
              After hits, dB
            </th>
            <th className="number" colSpan={2}>
              Decay
            </th>
          </tr>
          <tr>
            {heads}
            <th className="number">gap</th>
            {heads}
            {heads}
          </tr>
        </thead>
        <tbody>
          {model.space.map(({ low, high, reference, version, gapDb }) => (
            <tr key={low}>
              <td>
                {frequency(low)} to {frequency(high)}
              </td>
              <td className="number">{fixed(reference.gapDb)}</td>
              <td className="number">{fixed(version.gapDb)}</td>
              <td className="number strong">{gapDb === null ? "–" : signed(gapDb)}</td>
              <td className="number">{fixed(reference.lateDb)}</td>
              <td className="number">{fixed(version.lateDb)}</td>
              <td className="number">{decay(reference)}</td>
              <td className="number">{decay(version)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

type TextureUnit = SpaceModel["texture"][number]["unit"];

/** Band limits, noise, drive and wobble. */
export function TextureTable({ rows, versionName }: { rows: SpaceModel["texture"]; versionName: string }) {
  const value = (unit: TextureUnit, own: number | null) =>
    own === null ? "–" : unit === "Hz" ? frequency(own) : `${fixed(own)} ${unit}`;
  return (
    <section className="mt-4" aria-label="Texture">
      <div className="chart-heading">
        <h2>Texture</h2>
        <span className="small-text soft">quiet moments are told against the mean level</span>
      </div>
      <table className="ruled small-text">
        <thead>
          <tr>
            <th>Measure</th>
            <th className="number in-reference">reference</th>
            <th className="number in-version">{versionName.replace("Version ", "v")}</th>
            <th>How sure</th>
            <th>What differs</th>
          </tr>
        </thead>
        <tbody>
          {rows.map(({ key, name, unit, reference, version, confidence, words }) => (
            <tr key={key}>
              <td>{name}</td>
              <td className="number">{value(unit, reference)}</td>
              <td className="number">{value(unit, version)}</td>
              <td className="soft">{sureWords(confidence)}</td>
              <td>{words ?? <span className="soft">nothing to speak of</span>}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

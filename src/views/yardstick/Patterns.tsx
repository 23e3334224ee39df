import type { YardstickModel } from "@/models/yardstick";

/** A row of steps, in beats of four. */
function Steps({ steps }: { steps: string }) {
  return (
    <span className="steps" role="img" aria-label={steps}>
      {[...steps].map((step, i) => (
        <span key={i} className={`${step === "x" ? "is-struck" : ""}${i % 4 === 0 ? " on-beat" : ""}`} />
      ))}
    </span>
  );
}

/** Drum patterns that several of the tracks have. */
export function Patterns({
  patterns,
  versionName,
}: {
  patterns: YardstickModel["patterns"];
  versionName: string | null;
}) {
  return (
    <section aria-labelledby="yardstick-patterns">
      <h2 id="yardstick-patterns">Drum patterns that recur</h2>
      {patterns.length === 0 ? (
        <p className="soft">No two of the tracks have the same one.</p>
      ) : (
        <table className="ruled yardstick-patterns">
          <thead>
            <tr>
              <th scope="col">Drum</th>
              <th scope="col">Steps of the bar</th>
              <th scope="col">In</th>
              <th scope="col">Also in</th>
            </tr>
          </thead>
          <tbody>
            {patterns.map(({ group, steps, count, of, reference, version }, i) => (
              <tr key={`${group} ${steps}`}>
                <th scope="row" className="strong">
                  {patterns[i - 1]?.group === group ? "" : group[0]!.toUpperCase() + group.slice(1)}
                </th>
                <td>
                  <Steps steps={steps} />
                </td>
                <td>
                  {count} of {of} tracks
                </td>
                <td>
                  {reference && <span className="in-reference strong">the reference</span>}
                  {reference && version && versionName && ", "}
                  {version && versionName && <span className="in-version strong">{versionName}</span>}
                  {!reference && !(version && versionName) && <span className="soft">–</span>}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}

import type { BarRange } from "@/core/grid/grid";
import { sides } from "@/listening/engine/timeline";
import { bassSentences, type BassLines } from "@/models/bassLine";
import { barWords } from "@/models/coverage";
import { fixed } from "@/models/format";
import type { LowEndModel } from "@/models/lowEnd";

const mostRuns = 8;

/** How much of the bass line both have, how they differ as a whole, and where. */
export function BassAnswer({
  lines,
  model,
  onBars,
}: {
  lines: BassLines;
  model: LowEndModel;
  onBars(bars: BarRange): void;
}) {
  const { overlap, differing } = lines;
  return (
    <>
      <div className="answer">
        <span className="value" data-testid="bass-overlap">
          {overlap === null ? "–" : fixed(100 * overlap, 0)}
        </span>
        <span className="soft">
          {overlap === null ? "One side has no bass line to compare." : "% of the bass line in common"}
        </span>
      </div>
      {bassSentences(lines).map((sentence) => (
        <p key={sentence} className="strong mb-2">
          {sentence}
        </p>
      ))}
      {sides.map(
        (side) =>
          model[side].bassSource && (
            <p key={side} className="small-text soft mb-1">
              Notes of the {side} from {model[side].bassSource}.
            </p>
          ),
      )}
      {differing.length > 0 && (
        <section aria-label="Where the lines differ">
          <h2>Where they differ</h2>
          <ul className="bass-runs">
            {[...differing]
              .sort((a, b) => b.notes - a.notes)
              .slice(0, mostRuns)
              .map(({ first, last, notes }) => (
                <li key={first}>
                  <button
                    type="button"
                    className="plain-button underlined"
                    onClick={() => onBars({ first, last })}
                  >
                    {barWords({ first, last })}
                  </button>
                  <span className="soft small-text">
                    {notes} {notes === 1 ? "note" : "notes"}
                  </span>
                </li>
              ))}
          </ul>
        </section>
      )}
    </>
  );
}

"use client";

import { chordName } from "@/core/harmony/chords";
import { keyOfBars } from "@/core/harmony/keyOfBars";
import { keyName, romanNumeral, sameKey, spellingOf } from "@/core/harmony/keys";
import { chordLoop, mainLoop, type ChordLoop, type CountedSection } from "@/core/plan";
import { useStudy } from "../study/StudyContext";
import type { PlanTrack } from "@/models/plan";

/** How long chords of a loop last, where all last alike. */
function lengthWords({ chords }: ChordLoop, beatsPerBar: number): string {
  const [first] = chords;
  const { beats } = first!;
  if (chords.some((own) => own.beats !== beats)) return "";
  if (beats === beatsPerBar) return "one bar each";
  if (beats % beatsPerBar === 0)
    return `${["", "", "two", "three", "four"][beats / beatsPerBar] ?? beats / beatsPerBar} bars each`;
  return `${beats} beats each`;
}

function loopText(
  loop: ChordLoop,
  write: (chord: ChordLoop["chords"][number]["chord"]) => string,
  beatsPerBar: number,
) {
  const even = lengthWords(loop, beatsPerBar) !== "";
  return loop.chords
    .map(({ chord, beats }) =>
      even ? write(chord) : `${write(chord)} (${Math.round((10 * beats) / beatsPerBar) / 10})`,
    )
    .join(" – ");
}

/** The loop that most of a track goes round in, in degrees and in names. */
export function MainLoop({ track }: { track: PlanTrack }) {
  const { planGrid, plan } = track;
  if (!planGrid || !plan.key) return null;
  const { beatsPerBar } = planGrid;
  const loop = mainLoop(plan.chords, plan.sections, beatsPerBar);
  const { key } = plan;
  if (!loop) return <p className="soft m-0">No single chord loop. See each section below.</p>;
  return (
    <p className="m-0">
      <span className="loop-degrees">{loopText(loop, (chord) => romanNumeral(chord, key), beatsPerBar)}</span>{" "}
      <span className="soft">
        {[
          lengthWords(loop, beatsPerBar),
          loopText(loop, (chord) => chordName(chord, spellingOf(key)), beatsPerBar),
          `${Math.round(100 * loop.share)} % of the time`,
        ]
          .filter(Boolean)
          .join(" · ")}
      </span>
    </p>
  );
}

/** Key and loop of each section, and the keys of stems. */
export function SectionKeys({ track, stems }: { track: PlanTrack; stems: readonly PlanTrack[] }) {
  const { selectBars } = useStudy();
  const { planGrid, plan } = track;
  if (!planGrid || !plan.key || plan.sections.length === 0) return null;
  const { beatsPerBar } = planGrid;
  const { key } = plan;
  const row = (section: CountedSection, i: number) => {
    const own = keyOfBars(plan.measured.harmony, plan.chords, section.firstBar, section.lastBar)?.options[0];
    const loop = chordLoop(
      plan.chords,
      (section.firstBar - 1) * beatsPerBar,
      section.lastBar * beatsPerBar,
      beatsPerBar,
    );
    return (
      <tr key={i}>
        <td>
          <button
            type="button"
            className="plain-button"
            onClick={() => selectBars({ first: section.firstBar, last: section.lastBar })}
          >
            {section.name}
          </button>
        </td>
        <td className="number soft">
          {section.firstBar}–{section.lastBar}
        </td>
        <td className={own && !sameKey(own.key, key) ? "strong" : undefined}>
          {own ? keyName(own.key) : "–"}{" "}
          <span className="soft small-text">{own ? `${Math.round(100 * own.confidence)} %` : ""}</span>
        </td>
        <td>
          {loop ? (
            loopText(loop, (chord) => romanNumeral(chord, key), beatsPerBar)
          ) : (
            <span className="soft">no loop</span>
          )}
        </td>
      </tr>
    );
  };
  return (
    <section aria-label="Section by section">
      <h2>Section by section</h2>
      <table className="ruled grid-table">
        <thead>
          <tr>
            <th>Section</th>
            <th className="number">Bars</th>
            <th>Key, how sure</th>
            <th>Loop, in {keyName(key)}</th>
          </tr>
        </thead>
        <tbody>
          {plan.sections.map(row)}
          {stems.map((stem) => {
            const best = stem.choice?.options[0];
            return (
              <tr key={stem.itemId}>
                <td className="clip" style={{ maxWidth: 160 }}>
                  {stem.name}
                </td>
                <td className="number soft">stem</td>
                <td>
                  {stem.plan.key ? keyName(stem.plan.key) : "no key"}{" "}
                  <span className="soft small-text">
                    {best ? `${Math.round(100 * best.confidence)} %` : ""}
                  </span>
                </td>
                <td className="soft">tuned {stem.tuningCents.toFixed(0)} cents</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </section>
  );
}

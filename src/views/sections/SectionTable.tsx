"use client";

import { fixed, frequency } from "@/models/format";
import { EditableText } from "@/components/EditableText";
import type { AnsweredSection, CountedSection } from "@/core/plan";
import { sectionNames } from "@/core/sections";
import type { PlanTrack } from "@/models/plan";
import { measuresIn } from "@/models/sections";
import { patternOf } from "./PlanMirror";

/** What a version has of a section, in words. */
export function answeredWords({ answered, bars, own }: AnsweredSection): string {
  if (answered === 0) return "missing";
  if (answered < bars) return `${answered} of ${bars} bars`;
  if (own && own.bars !== bars && Math.abs(own.bars - bars) > 1)
    return `whole, in your ${own.section.name} of ${own.bars}`;
  return "whole";
}

/** Every section with what happens in it, to be named, lettered, split and joined. */
export function SectionTable({
  track,
  answers,
  chosen,
  onChoose,
  onChange,
  onSplit,
  onJoin,
}: {
  track: PlanTrack;
  /** What the version has of each; null where there is no version or the track is the version. */
  answers: readonly AnsweredSection[] | null;
  chosen: number | null;
  onChoose(place: number): void;
  onChange(place: number, change: Partial<Pick<CountedSection, "name" | "letter">>, what: string): void;
  onSplit(place: number): void;
  onJoin(place: number): void;
}) {
  const { sections } = track.plan;
  return (
    <>
      <datalist id="section-names">
        {sectionNames.map((name) => (
          <option key={name} value={name} />
        ))}
      </datalist>
      <table className="ruled grid-table section-table">
        <thead>
          <tr>
            <th>Section</th>
            <th>Letter</th>
            <th className="number">Bars</th>
            <th className="number">Length</th>
            <th className="number">Loudness</th>
            <th className="number">Brightness</th>
            <th className="number">Onsets a bar</th>
            <th className="number">Width</th>
            {answers && <th className="in-version">In yours</th>}
            <th>
              <span className="visually-hidden">Change</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {sections.map((section, place) => {
            const measures = measuresIn(track, section);
            const bars = section.lastBar - section.firstBar + 1;
            const answer = answers?.[place];
            return (
              <tr
                key={section.firstBar}
                aria-selected={chosen === place}
                className="element-row"
                onClick={() => onChoose(place)}
              >
                <td>
                  <EditableText
                    value={section.name}
                    label={`Name of section ${place + 1}`}
                    empty="section"
                    longest={40}
                    required
                    list="section-names"
                    onSave={(name) => onChange(place, { name }, `The section is called ${name} now`)}
                  />
                </td>
                <td>
                  <span className={`letter-swatch ${patternOf(section.letter)}`} aria-hidden="true" />
                  <EditableText
                    value={section.letter}
                    label={`Letter of section ${place + 1}`}
                    empty="–"
                    longest={4}
                    required
                    onSave={(letter) =>
                      onChange(
                        place,
                        { letter: letter.toUpperCase() },
                        `Its letter is ${letter.toUpperCase()} now`,
                      )
                    }
                  />
                </td>
                <td className="number">
                  {section.firstBar}–{section.lastBar}
                </td>
                <td className="number strong">{bars}</td>
                <td className="number">{fixed(measures?.loudness)} LUFS</td>
                <td className="number">{measures ? frequency(measures.brightness) : "–"}</td>
                <td className="number">{fixed(measures?.density, 0)}</td>
                <td className="number">{fixed(measures?.width)} dB</td>
                {answer && (
                  <td className={answer.answered < answer.bars ? "needs-attention" : "soft"}>
                    {answeredWords(answer)}
                  </td>
                )}
                <td className="text-nowrap small-text">
                  <button
                    type="button"
                    className="plain-button underlined"
                    disabled={bars < 2}
                    aria-label={`Split ${section.name}`}
                    onClick={() => onSplit(place)}
                  >
                    split
                  </button>{" "}
                  <button
                    type="button"
                    className="plain-button underlined"
                    disabled={place === sections.length - 1}
                    aria-label={`Join ${section.name} with the next`}
                    onClick={() => onJoin(place)}
                  >
                    join
                  </button>
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </>
  );
}

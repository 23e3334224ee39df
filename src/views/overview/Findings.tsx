"use client";

import { Dropdown } from "react-bootstrap";
import type { Mark } from "@/core/study";
import type { Finding } from "@/models/findings";
import { effectsOf, sortFindings } from "@/models/marks";
import { signed } from "@/models/format";
import { useEdits, useStudy } from "../study/StudyContext";

const mostShown = 7;

const worth = ({ points }: Pick<Finding, "points">) =>
  points === null ? "check" : `+${points < 1 ? points.toFixed(1) : Math.round(points)}`;

const choices: readonly { mark: Mark["mark"]; name: string; words: string }[] = [
  { mark: "done", name: "Done", words: "The next version shows what it brought" },
  { mark: "not now", name: "Not now", words: "Out of the list until it is taken back" },
  { mark: "intended", name: "Intended", words: "Meant to differ; out of the list for good" },
];

/** What to do, most valuable first; each can be opened, and set aside. */
export function Findings({
  findings,
  onChoose,
}: {
  findings: readonly Finding[];
  onChoose(finding: Finding): void;
}) {
  const { study, version } = useStudy();
  const { editStudy } = useEdits();
  const number = version?.number ?? 1;
  const { open, aside } = sortFindings(findings, study.marks, number);
  const set = ({ key, title, points, place }: Finding, mark: Mark["mark"]) =>
    editStudy(`“${title}”: ${mark}`, {
      marks: { ...study.marks, [key]: { mark, title: title.slice(0, 200), points, place, version: number } },
    });
  const take = (key: string, title: string) => {
    const { [key]: _gone, ...marks } = study.marks;
    editStudy(`“${title}” back in the list`, { marks });
  };
  return (
    <>
      {open.length === 0 ? (
        <p className="mt-3">Nothing left to do but what you have set aside.</p>
      ) : (
        <ul className="findings" aria-label="What to do, most valuable first">
          {open.slice(0, mostShown).map((finding) => (
            <li key={finding.key}>
              <button type="button" className="plain-button finding" onClick={() => onChoose(finding)}>
                <span className="title">{finding.title}</span>
                <span className={finding.points === null ? "points needs-attention" : "points"}>
                  {worth(finding)}
                </span>
                <span className="detail">{finding.detail}</span>
              </button>
              {study.standIn === null && (
                <Dropdown align="end" className="finding-menu">
                  <Dropdown.Toggle
                    as="button"
                    bsPrefix="plain-button"
                    className="soft"
                    aria-label={`Set aside: ${finding.title}`}
                  >
                    ⋯
                  </Dropdown.Toggle>
                  <Dropdown.Menu>
                    {choices.map(({ mark, name, words }) => (
                      <Dropdown.Item key={mark} as="button" onClick={() => set(finding, mark)}>
                        <div>{name}</div>
                        <div className="tiny-text soft">{words}</div>
                      </Dropdown.Item>
                    ))}
                  </Dropdown.Menu>
                </Dropdown>
              )}
            </li>
          ))}
        </ul>
      )}
      {aside.length > 0 && (
        <details className="set-aside">
          <summary className="small-text soft">{aside.length} set aside</summary>
          <ul className="plain-list small-text">
            {aside.map(({ key, mark, finding }) => (
              <li key={key}>
                {finding.title} <span className="soft">{mark.mark}</span>{" "}
                <button
                  type="button"
                  className="plain-button underlined soft"
                  aria-label={`Back in the list: ${finding.title}`}
                  onClick={() => take(key, finding.title)}
                >
                  Back in the list
                </button>
              </li>
            ))}
          </ul>
        </details>
      )}
    </>
  );
}

/** What was done for the version before, and what it has brought. */
export function Effects() {
  const { study, scores, versionScores } = useStudy();
  const effects = versionScores ? effectsOf(versionScores, scores, study) : [];
  if (effects.length === 0) return null;
  return (
    <ul className="plain-list small-text mt-2" aria-label="What was done, and what it brought">
      {effects.map(({ title, expected, got, since }) => (
        <li key={title}>
          Done since v{since}: {title}. Expected {signed(expected, expected < 1 ? 1 : 0)}, got{" "}
          <span className={got >= 0.5 * expected ? "is-gain strong" : "needs-attention strong"}>
            {signed(got, Math.abs(got) < 1 ? 1 : 0)}
          </span>
          .
        </li>
      ))}
    </ul>
  );
}

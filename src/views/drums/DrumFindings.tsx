"use client";

import { points } from "@/models/format";
import { voiceNames, type IntendedDifference } from "@/core/drums";
import type { DrumFinding } from "@/models/drums";

const intendedWords: Record<IntendedDifference["kind"], string> = {
  missing: "fewer hits",
  extra: "more hits",
  otherVoice: "different voice",
  timing: "different timing",
  accents: "different accents",
  swing: "different swing",
};

const nameOf = ({ voice, kind }: IntendedDifference) =>
  voice ? `${voiceNames[voice]}: ${intendedWords[kind]}` : `${intendedWords[kind]}`;

/** What is different and what to do, the most valuable first; anything can be marked as intended. */
export function DrumFindings({
  findings,
  intended,
  onGo,
  onIntended,
}: {
  findings: readonly DrumFinding[];
  intended: readonly IntendedDifference[];
  onGo(finding: DrumFinding): void;
  onIntended(next: IntendedDifference[], label: string): void;
}) {
  return (
    <>
      {findings.length === 0 ? (
        <p className="soft">No audible differences here.</p>
      ) : (
        <ul className="findings">
          {findings.map((finding) => (
            <li key={finding.key} className="finding-row">
              <button type="button" className="plain-button finding" onClick={() => onGo(finding)}>
                <span className="title">{finding.title}</span>
                <span className="points">{finding.points >= 0.5 && `+${points(finding.points)}`}</span>
                <span className="detail">{finding.detail}</span>
              </button>
              <button
                type="button"
                className="plain-button underlined small-text soft"
                title="This difference is intended and should not count"
                onClick={() =>
                  onIntended(
                    [...intended, finding.intended],
                    `Marked as intended: ${nameOf(finding.intended)}`,
                  )
                }
              >
                Intended
              </button>
            </li>
          ))}
        </ul>
      )}
      {intended.length > 0 && (
        <p className="small-text soft">
          Intended differences:{" "}
          {intended.map((own, i) => (
            <span key={nameOf(own)}>
              {i > 0 && ", "}
              {nameOf(own)}{" "}
              <button
                type="button"
                className="plain-button underlined"
                aria-label={`${nameOf(own)} is not intended`}
                onClick={() =>
                  onIntended(
                    intended.filter((other) => other !== own),
                    `No longer intended: ${nameOf(own)}`,
                  )
                }
              >
                Remove
              </button>
            </span>
          ))}
        </p>
      )}
    </>
  );
}

"use client";

import { points } from "@/models/format";
import { voiceNames, type IntendedDifference } from "@/core/drums";
import type { DrumFinding } from "@/models/drums";

const meantWords: Record<IntendedDifference["kind"], string> = {
  missing: "fewer hits",
  extra: "more hits",
  otherVoice: "different voice",
  timing: "different timing",
  accents: "different accents",
  swing: "different swing",
};

const nameOf = ({ voice, kind }: IntendedDifference) =>
  voice ? `${voiceNames[voice]}: ${meantWords[kind]}` : `${meantWords[kind]}`;

/** What is different and what to do, the most valuable first; anything can be marked as intended. */
export function DrumFindings({
  findings,
  meant,
  onGo,
  onMeant,
}: {
  findings: readonly DrumFinding[];
  meant: readonly IntendedDifference[];
  onGo(finding: DrumFinding): void;
  onMeant(next: IntendedDifference[], label: string): void;
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
                  onMeant([...meant, finding.meant], `Marked as intended: ${nameOf(finding.meant)}`)
                }
              >
                Intended
              </button>
            </li>
          ))}
        </ul>
      )}
      {meant.length > 0 && (
        <p className="small-text soft">
          Intended differences:{" "}
          {meant.map((own, i) => (
            <span key={nameOf(own)}>
              {i > 0 && ", "}
              {nameOf(own)}{" "}
              <button
                type="button"
                className="plain-button underlined"
                aria-label={`${nameOf(own)} is not intended`}
                onClick={() =>
                  onMeant(
                    meant.filter((other) => other !== own),
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

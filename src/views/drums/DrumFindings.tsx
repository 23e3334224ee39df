"use client";

import { points } from "@/components/format";
import { voiceNames, type MeantDifference } from "@/core/drums";
import type { DrumFinding } from "./model";

const meantWords: Record<MeantDifference["kind"], string> = {
  missing: "fewer hits",
  extra: "more hits",
  otherVoice: "another voice",
  timing: "another timing",
  accents: "other accents",
  swing: "another swing",
};

const nameOf = ({ voice, kind }: MeantDifference) =>
  voice ? `${voiceNames[voice]}: ${meantWords[kind]}` : `${meantWords[kind]}`;

/** What is different and what to do, the most valuable first; anything can be said to be meant. */
export function DrumFindings({
  findings,
  meant,
  onGo,
  onMeant,
}: {
  findings: readonly DrumFinding[];
  meant: readonly MeantDifference[];
  onGo(finding: DrumFinding): void;
  onMeant(next: MeantDifference[], says: string): void;
}) {
  return (
    <>
      {findings.length === 0 ? (
        <p className="soft">Nothing here that would be heard.</p>
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
                title="This difference is wanted; it does not count"
                onClick={() => onMeant([...meant, finding.meant], `Meant: ${nameOf(finding.meant)}.`)}
              >
                meant?
              </button>
            </li>
          ))}
        </ul>
      )}
      {meant.length > 0 && (
        <p className="small-text soft">
          Different on purpose:{" "}
          {meant.map((own, i) => (
            <span key={nameOf(own)}>
              {i > 0 && ", "}
              {nameOf(own)}{" "}
              <button
                type="button"
                className="plain-button underlined"
                aria-label={`${nameOf(own)} is not meant`}
                onClick={() =>
                  onMeant(
                    meant.filter((other) => other !== own),
                    `Counts again: ${nameOf(own)}.`,
                  )
                }
              >
                not meant
              </button>
            </span>
          ))}
        </p>
      )}
    </>
  );
}

"use client";

import type { CoverageSpan } from "@/core/align/coverage";
import { presenceGroups, type PresenceGroup } from "@/core/sections";
import type { PlanTrack } from "@/models/plan";
import { groupWords, measuresIn, playsIn, presenceAnswering } from "@/models/sections";

/** Who plays where: upper halves for the reference, lower halves for what answers; a press puts right. */
export function PresenceMatrix({
  reference,
  version,
  spans,
  onSet,
}: {
  reference: PlanTrack;
  version: PlanTrack | null;
  spans: readonly CoverageSpan[];
  onSet(place: number, group: PresenceGroup, plays: boolean): void;
}) {
  const { sections } = reference.plan;
  const columns = sections.map((section) => ({
    section,
    measures: measuresIn(reference, section),
    answering: version ? presenceAnswering(version, spans, section) : null,
  }));
  return (
    <section aria-label="Who plays where">
      <h2>Who plays where</h2>
      <table className="presence-matrix">
        <thead>
          <tr>
            <th>
              <span className="visually-hidden">Group</span>
            </th>
            {columns.map(({ section }) => (
              <th key={section.firstBar} className="tiny-text soft clip" scope="col">
                {section.name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {presenceGroups.map((group) => (
            <tr key={group}>
              <th scope="row" className="fw-normal">
                {groupWords[group]}
              </th>
              {columns.map(({ section, measures, answering }, place) => {
                const plays = playsIn(group, section, measures);
                const said = section.presence?.[group] !== undefined;
                const chance = measures?.presence[group] ?? 0;
                const unsure = !said && group !== "effects" && Math.abs(chance - 0.5) < 0.2;
                const theirs = answering && answering[group] > 0.5;
                const words = [
                  `${groupWords[group]} in ${section.name}: ${plays ? "play" : "do not play"}`,
                  said
                    ? "set by you"
                    : group === "effects"
                      ? "by moments"
                      : `${Math.round(100 * chance)} % likely`,
                  answering ? `in yours: ${theirs ? "yes" : "no"}` : "",
                ].filter(Boolean);
                return (
                  <td key={section.firstBar}>
                    <button
                      type="button"
                      className={`presence-cell${unsure ? " unsure" : ""}`}
                      aria-pressed={plays}
                      aria-label={words.join(", ")}
                      title={words.join(", ")}
                      onClick={() => onSet(place, group, !plays)}
                    >
                      <span className={`up${plays ? " plays" : ""}`} />
                      <span className={`down${theirs ? " plays" : ""}${answering ? "" : " none"}`} />
                    </button>
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
      <p className="tiny-text soft m-0">
        Upper half: reference. Lower half: {version ? version.name.toLowerCase() : "your version"}. Dotted:
        not sure. Press a cell to put it right. Whether a lead plays is the least certain.
      </p>
    </section>
  );
}

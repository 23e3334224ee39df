"use client";

import type { BarRange } from "@/core/grid/grid";
import { setIn, withBars } from "@/core/lens/presenceCorrection";
import type { ElementRecord, TrackRecord } from "@/core/study";
import { answersTo, barWords } from "@/models/coverage";
import { useEdits, useStudy } from "../study/StudyContext";

const choices = [
  { plays: null, label: "as heard" },
  { plays: true, label: "plays" },
  { plays: false, label: "rests" },
] as const;

/** Whether an element plays in the selected bars, where the producer hears it otherwise than the program. */
export function SetPresence({ element }: { element: ElementRecord }) {
  const { study, version, aligned, bars } = useStudy();
  const { lens, name } = element;
  if (!lens) return null;
  if (!bars)
    return (
      <p className="small-text soft m-0 mt-2">
        A press on a section plays {name} in it. Select bars to correct where it plays.
      </p>
    );
  return (
    <div className="set-presence small-text" role="group" aria-label={`${name} in the selected bars`}>
      <span>
        <span className="strong">{name}</span>, {barWords(bars)}
      </span>
      {study.reference && <Side track={study.reference} element={element} ranges={[bars]} />}
      {version && aligned && <Side track={version} element={element} ranges={answersTo(aligned, bars)} />}
    </div>
  );
}

function Side({
  track,
  element: { name, lens },
  ranges,
}: {
  track: TrackRecord;
  element: ElementRecord;
  ranges: readonly BarRange[];
}) {
  const { editItem } = useEdits();
  if (!lens || ranges.length === 0) return null;
  const set = track.corrections.presence[lens] ?? [];
  const now = new Set(
    ranges.flatMap(({ first, last }) =>
      Array.from({ length: last - first + 1 }, (_, i) => setIn(set, first + i)),
    ),
  );
  const title = track.role === "reference" ? "Reference" : `Version ${track.number}`;
  const where = `${ranges.map(barWords).join(", ")} of ${track.role === "reference" ? "the reference" : `version ${track.number}`}`;
  return (
    <span role="group" aria-label={title} className="d-flex gap-2">
      <span className={`in-${track.role}`}>{title}</span>
      {choices.map(({ plays, label }) => (
        <button
          key={label}
          type="button"
          className="plain-button one-of"
          aria-pressed={now.size === 1 && now.has(plays)}
          onClick={() =>
            editItem(track.id, `${name} ${label} in ${where}`, ({ presence }) => ({
              presence: withBars(presence, lens, ranges, plays),
            }))
          }
        >
          {label}
        </button>
      ))}
    </span>
  );
}

"use client";

import type { PlanTrack } from "@/models/plan";

/** Whose plan is put right. */
export function SideChoice({
  tracks,
  chosen,
  onChoose,
  label,
}: {
  tracks: readonly PlanTrack[];
  chosen: PlanTrack;
  onChoose(track: PlanTrack): void;
  label: string;
}) {
  return (
    <div className="choices side-choice" role="group" aria-label={label}>
      {tracks.map((track) => (
        <button
          key={track.itemId}
          type="button"
          className={`plain-button ${track.kind === "reference" ? "in-reference" : "in-version"}`}
          aria-pressed={track.itemId === chosen.itemId}
          onClick={() => onChoose(track)}
        >
          {track.name}
        </button>
      ))}
    </div>
  );
}

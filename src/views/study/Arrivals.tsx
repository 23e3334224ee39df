"use client";

import { useEffect, useState } from "react";
import { JobLine } from "@/components/JobLine";
import { ProgressLine } from "@/components/ProgressLine";
import { tracksOf, type StemRecord, type TrackRecord } from "@/core/study";
import { usePlayback } from "@/listening/Playback";
import { arrivalWords } from "@/models/progress";
import type { Arrival } from "./state/useUploads";
import { useAnalysis, useEdits, useStudy, useStudyUploads } from "./StudyContext";

/** What the watched folder has brought since the page was opened, until it is closed. */
function useFolderArrivals(): { itemIds: string[]; dismiss(itemId: string): void } {
  const { folder } = useStudy();
  const arrived = folder?.arrived;
  const [closed, setClosed] = useState<ReadonlySet<string>>(() => new Set(arrived));
  return {
    itemIds: (arrived ?? []).filter((id) => !closed.has(id)),
    dismiss: (itemId) => setClosed((all) => new Set([...all, itemId])),
  };
}

/** Files on their way in: upload, analysis, what came of it, and a field for what changed. */
export function Arrivals() {
  const { arrivals, dismiss } = useStudyUploads();
  const { itemOf } = useStudy();
  const fromFolder = useFolderArrivals();
  const brought = fromFolder.itemIds.flatMap((id) => itemOf(id) ?? []);
  if (arrivals.length === 0 && brought.length === 0) return null;
  return (
    <section className="arrivals" aria-label="New files">
      {arrivals.map((arrival) => {
        const item = arrival.itemId ? itemOf(arrival.itemId) : undefined;
        const close = () => dismiss(arrival.key);
        return item ? (
          <AddedLine key={arrival.key} name={arrival.name} item={item} onClose={close} />
        ) : (
          <UploadLine key={arrival.key} arrival={arrival} onClose={close} />
        );
      })}
      {brought.map((item) => (
        <AddedLine
          key={item.id}
          name={item.fileName}
          item={item}
          follows
          onClose={() => fromFolder.dismiss(item.id)}
        />
      ))}
    </section>
  );
}

const FileName = ({ name }: { name: string }) => (
  <span className="strong clip" title={name}>
    {name}
  </span>
);

const CloseButton = ({ onClose }: { onClose(): void }) => (
  <button type="button" className="plain-button underlined soft" onClick={onClose}>
    Close
  </button>
);

/** A file that is being uploaded, or was not taken. */
function UploadLine({ arrival, onClose }: { arrival: Arrival; onClose(): void }) {
  return (
    <div className="arrival">
      <FileName name={arrival.name} />
      {arrival.message !== undefined ? (
        <p className="m-0 small-text needs-attention" role="alert">
          {arrival.message}
        </p>
      ) : (
        <div>
          <div className="d-flex justify-content-between small-text">
            <span className="soft">{arrival.done < 1 ? "Uploading" : "Checking"}</span>
            <button type="button" className="plain-button underlined" onClick={arrival.cancel}>
              Cancel
            </button>
          </div>
          <ProgressLine done={arrival.done} label={`Upload of ${arrival.name}`} />
        </div>
      )}
      <span />
      {arrival.message !== undefined ? <CloseButton onClose={onClose} /> : <span />}
    </div>
  );
}

/**
 * A file that has become a track or stem: its analysis, what came of it, and what changed in it.
 *
 * @param follows whether it is shown as soon as it is compared, where the newest was shown before.
 */
function AddedLine({
  name,
  item,
  follows = false,
  onClose,
}: {
  name: string;
  item: TrackRecord | StemRecord;
  follows?: boolean;
  onClose(): void;
}) {
  const { study, scores, version, chooseVersion } = useStudy();
  const { editItem } = useEdits();
  const { job, cancel, again } = useAnalysis(item);
  const playback = usePlayback();
  const track = tracksOf(study).find(({ id }) => id === item.id);
  const isVersion = track !== undefined && track.number > 0;
  const isCompared = scores.some(({ trackId, match }) => trackId === item.id && match !== null);
  const newestBefore = study.versions.findLast(({ number }) => track && number < track.number);
  const isToFollow =
    follows &&
    isVersion &&
    isCompared &&
    version?.id === newestBefore?.id &&
    !playback.playing &&
    !playback.blind;
  const number = track?.number ?? 0;
  useEffect(() => {
    if (isToFollow) chooseVersion(number);
    // oxlint-disable-next-line react-hooks/exhaustive-deps -- once, when it has been compared
  }, [isToFollow, number]);
  return (
    <div className="arrival">
      <FileName name={name} />
      {job.state === "done" ? (
        <p className="m-0 small-text" role="status">
          {!track
            ? "Stem added. Its position in the track is in the Grid view."
            : track.number === 0
              ? "This is now the reference."
              : arrivalWords(track, scores, study)}{" "}
          {isVersion && version?.id !== track.id && (
            <button
              type="button"
              className="plain-button underlined strong"
              onClick={() => chooseVersion(track.number)}
            >
              Compare version {track.number}
            </button>
          )}
        </p>
      ) : (
        <JobLine job={job} onCancel={cancel} onAgain={again} />
      )}
      {isVersion ? (
        <input
          className="form-control form-control-sm"
          aria-label={`What changed in version ${track.number}`}
          placeholder="What changed?"
          defaultValue={track.note}
          maxLength={500}
          onBlur={({ target }) =>
            editItem(track.id, `Note on version ${track.number} changed`, () => ({
              note: target.value.trim(),
            }))
          }
          onKeyDown={(event) => {
            if (event.key === "Enter") event.currentTarget.blur();
          }}
        />
      ) : (
        <span />
      )}
      {job.state === "done" ? <CloseButton onClose={onClose} /> : <span />}
    </div>
  );
}

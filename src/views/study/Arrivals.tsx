"use client";

import { JobLine } from "@/components/JobLine";
import { ProgressLine } from "@/components/ProgressLine";
import { tracksOf, type StemRecord, type TrackRecord } from "@/core/study";
import type { Arrival } from "./state/useUploads";
import { useAnalysis, useEdits, useStudy, useStudyUploads } from "./StudyContext";

/** Files on their way in: upload, analysis, and a field for what changed. */
export function Arrivals() {
  const { arrivals } = useStudyUploads();
  const { itemOf } = useStudy();
  if (arrivals.length === 0) return null;
  return (
    <section className="arrivals" aria-label="Uploads">
      {arrivals.map((arrival) => {
        const item = arrival.itemId ? itemOf(arrival.itemId) : undefined;
        return item ? (
          <AddedLine key={arrival.key} arrival={arrival} item={item} />
        ) : (
          <UploadLine key={arrival.key} arrival={arrival} />
        );
      })}
    </section>
  );
}

const FileName = ({ name }: { name: string }) => (
  <span className="strong clip" title={name}>
    {name}
  </span>
);

function CloseButton({ arrival }: { arrival: Arrival }) {
  const { dismiss } = useStudyUploads();
  return (
    <button type="button" className="plain-button underlined soft" onClick={() => dismiss(arrival.key)}>
      Close
    </button>
  );
}

/** A file that is being uploaded, or was not taken. */
function UploadLine({ arrival }: { arrival: Arrival }) {
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
      {arrival.message !== undefined ? <CloseButton arrival={arrival} /> : <span />}
    </div>
  );
}

/** A file that has become a track or stem: its analysis, and what changed in it. */
function AddedLine({ arrival, item }: { arrival: Arrival; item: TrackRecord | StemRecord }) {
  const { study } = useStudy();
  const { editItem } = useEdits();
  const { job, cancel, again } = useAnalysis(item);
  const track = tracksOf(study).find(({ id }) => id === item.id);
  return (
    <div className="arrival">
      <FileName name={arrival.name} />
      {job.state === "done" ? (
        <p className="m-0 small-text">
          {!track
            ? "Stem added. Its position in the track is in the Grid view."
            : track.number === 0
              ? "This is now the reference."
              : `Added as version ${track.number}.`}
        </p>
      ) : (
        <JobLine job={job} onCancel={cancel} onAgain={again} />
      )}
      {track && track.number > 0 ? (
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
      {job.state === "done" ? <CloseButton arrival={arrival} /> : <span />}
    </div>
  );
}

"use client";

import { JobLine } from "@/components/JobLine";
import { ProgressLine } from "@/components/ProgressLine";
import { useStudy, type Arrival } from "./StudyContext";

/** Files on their way in: upload, analysis, and a field for what changed. */
export function Arrivals() {
  const { arrivals } = useStudy();
  if (arrivals.length === 0) return null;
  return (
    <section className="arrivals" aria-label="Files on their way in">
      {arrivals.map((arrival) => (
        <ArrivalLine key={arrival.key} arrival={arrival} />
      ))}
    </section>
  );
}

function ArrivalLine({ arrival }: { arrival: Arrival }) {
  const { study, jobOf, cancelAnalysis, analyseAgain, change, dismissArrival } = useStudy();
  const tracks = [...(study.reference ? [study.reference] : []), ...study.versions];
  const track = tracks.find((t) => t.id === arrival.trackId);
  const stem = tracks.flatMap((t) => t.stems).find((s) => s.id === arrival.trackId);
  const place = track ?? stem;
  const job = place && jobOf(place);
  const settled = arrival.word !== undefined || job?.state === "done";
  return (
    <div className="arrival">
      <span className="strong clip" title={arrival.name}>
        {arrival.name}
      </span>
      <div>
        {arrival.word !== undefined ? (
          <p className="m-0 small-text needs-attention" role="alert">
            {arrival.word}
          </p>
        ) : place && job ? (
          job.state === "done" ? (
            <p className="m-0 small-text">
              {!track
                ? "This stem is here; its place in the track stands in the Grid view."
                : track.number === 0
                  ? "This is the reference now."
                  : `This is version ${track.number}.`}
            </p>
          ) : (
            <JobLine job={job} onCancel={() => cancelAnalysis(place)} onAgain={() => analyseAgain(place)} />
          )
        ) : (
          <>
            <div className="d-flex justify-content-between small-text">
              <span className="soft">{arrival.done < 1 ? "Bringing it in" : "Looking at it"}</span>
              <button type="button" className="plain-button underlined" onClick={arrival.cancel}>
                Cancel
              </button>
            </div>
            <ProgressLine done={arrival.done} label={`Upload of ${arrival.name}`} />
          </>
        )}
      </div>
      {track && track.number > 0 ? (
        <input
          className="form-control form-control-sm"
          aria-label={`What changed in version ${track.number}`}
          placeholder="What changed?"
          defaultValue={track.note}
          maxLength={500}
          onBlur={(event) => {
            if (event.target.value.trim() !== track.note)
              void change("PATCH", `/api/tracks/${track.id}`, { note: event.target.value });
          }}
          onKeyDown={(event) => {
            if (event.key === "Enter") event.currentTarget.blur();
          }}
        />
      ) : (
        <span />
      )}
      {settled ? (
        <button
          type="button"
          className="plain-button underlined soft"
          onClick={() => dismissArrival(arrival.key)}
        >
          Close
        </button>
      ) : (
        <span />
      )}
    </div>
  );
}

import Link from "next/link";
import { useRef } from "react";
import { accepted } from "@/components/DropArea";
import { JobLine } from "@/components/JobLine";
import { offsetOf, type StemRecord, type StoredStemSum, type TrackRecord } from "@/core/study";
import { signed } from "@/models/format";
import { gainWords, stemSumWords } from "@/models/stemSum";
import { useAnalysis, useEdits, useStudy, useStudyUploads } from "../study/StudyContext";

/** The isolated parts of a track, each tied to an element. */
export function Stems({ track }: { track: TrackRecord }) {
  const { facts } = useStudy();
  const { addStems } = useStudyUploads();
  const sum = facts[track.id]?.stemSum ?? null;
  const field = useRef<HTMLInputElement>(null);
  const whose = track.number === 0 ? "the reference" : `version ${track.number}`;
  return (
    <div className="small-text">
      {track.stems.map((stem) => (
        <Stem key={stem.id} stem={stem} sum={sum} />
      ))}
      {sum && track.stems.length > 0 && <Sum sum={sum} track={track} />}
      <button type="button" className="plain-button underlined soft" onClick={() => field.current?.click()}>
        Add a stem of {whose}
      </button>
      <input
        ref={field}
        type="file"
        multiple
        hidden
        aria-label={`Choose stems of ${whose}`}
        accept={accepted}
        onChange={(event) => {
          addStems([...(event.target.files ?? [])], track.id);
          event.target.value = "";
        }}
      />
    </div>
  );
}

/** One isolated part: its element, its place in the track, and how to remove it. */
function Stem({ stem, sum }: { stem: StemRecord; sum: StoredStemSum | null }) {
  const { study, addressOf } = useStudy();
  const { editItem } = useEdits();
  const { job, cancel, again } = useAnalysis(stem);
  const seconds = offsetOf(stem);
  const gain = gainWords(sum, stem.id);
  return (
    <div className="d-flex gap-2 align-items-baseline flex-wrap">
      <span className="clip" style={{ maxWidth: 150 }} title={stem.fileName}>
        {stem.fileName}
      </span>
      <select
        className="stem-element"
        aria-label={`Element of the stem ${stem.fileName}`}
        value={stem.elementId ?? ""}
        onChange={({ target }) =>
          editItem(stem.id, `Element of “${stem.fileName}” changed`, () => ({
            elementId: target.value || null,
          }))
        }
      >
        <option value="">no element</option>
        {study.elements.map((element) => (
          <option key={element.id} value={element.id}>
            {element.name}
          </option>
        ))}
      </select>
      {job.state === "done" ? (
        <Link
          className="plain-button underlined"
          prefetch={false}
          href={addressOf("grid", { grid: stem.id })}
        >
          {seconds === null ? "aligning …" : `starts at ${signed(1000 * seconds, 1)} ms`}
        </Link>
      ) : (
        <JobLine job={job} onCancel={cancel} onAgain={again} />
      )}
      {gain && <span className="soft text-nowrap">{gain}</span>}
      <button
        type="button"
        className="plain-button underlined soft"
        aria-label={`Remove the stem ${stem.fileName}`}
        onClick={() => editItem(stem.id, `Stem “${stem.fileName}” removed`, () => ({ removed: true }))}
      >
        Remove
      </button>
    </div>
  );
}

/** Whether the stems add up to their track, and what is missing. */
function Sum({ sum, track }: { sum: StoredStemSum; track: TrackRecord }) {
  const { study } = useStudy();
  const { sentence, isWhole, findings } = stemSumWords(sum, study.elements, track);
  return (
    <div role="group" aria-label="Sum of the stems" className="mt-1">
      <p className={`m-0 ${isWhole ? "soft" : "needs-attention"}`}>{sentence}</p>
      {findings.length > 0 && (
        <ul className="m-0 ps-3">
          {findings.map((finding) => (
            <li key={finding}>{finding}</li>
          ))}
        </ul>
      )}
    </div>
  );
}

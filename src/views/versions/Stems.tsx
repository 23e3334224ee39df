import Link from "next/link";
import { useRef } from "react";
import { accepted } from "@/components/DropArea";
import { JobLine } from "@/components/JobLine";
import { offsetOf, type StemRecord, type StoredStemSum, type TrackRecord } from "@/core/study";
import { signed } from "@/models/format";
import { gainWords, stemSumWords } from "@/models/stemSum";
import { useAnalysis, useEdits, useStudy, useStudyUploads } from "../study/StudyContext";

/** The isolated parts of a track, each tied to an element, and whether they add up to it. */
export function Stems({ track }: { track: TrackRecord }) {
  const { facts } = useStudy();
  const { addStems } = useStudyUploads();
  const field = useRef<HTMLInputElement>(null);
  const whose = track.number === 0 ? "the reference" : `version ${track.number}`;
  const sum = facts[track.id]?.stemSum ?? null;
  return (
    <section aria-label={`Stems of ${whose}`} className="stems">
      <h2 className={track.number === 0 ? "in-reference" : "in-version"}>Stems of {whose}</h2>
      {sum && track.stems.length > 0 && <Sum sum={sum} track={track} />}
      {track.stems.length > 0 && (
        <table className="ruled small-text">
          <thead>
            <tr>
              <th>File</th>
              <th>Element</th>
              <th className="number">Starts at</th>
              <th className="number">Level in the track</th>
              <th>
                <span className="visually-hidden">Actions</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {track.stems.map((stem) => (
              <Stem key={stem.id} stem={stem} sum={sum} />
            ))}
          </tbody>
        </table>
      )}
      <button
        type="button"
        className="plain-button underlined soft small-text"
        onClick={() => field.current?.click()}
      >
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
    </section>
  );
}

/** One isolated part: its element, its place in the track, and how to remove it. */
function Stem({ stem, sum }: { stem: StemRecord; sum: StoredStemSum | null }) {
  const { study, addressOf } = useStudy();
  const { editItem } = useEdits();
  const { job, cancel, again } = useAnalysis(stem);
  const seconds = offsetOf(stem);
  return (
    <tr>
      <td>
        <div className="clip" title={stem.fileName}>
          {stem.fileName}
        </div>
        {job.state !== "done" && <JobLine job={job} onCancel={cancel} onAgain={again} />}
      </td>
      <td>
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
      </td>
      <td className="number">
        {job.state === "done" && (
          <Link
            className="plain-button underlined"
            prefetch={false}
            href={addressOf("grid", { grid: stem.id })}
          >
            {seconds === null ? "aligning …" : `${signed(1000 * seconds, 1)} ms`}
          </Link>
        )}
      </td>
      <td className="number">{gainWords(sum, stem.id)}</td>
      <td className="number">
        <button
          type="button"
          className="plain-button underlined soft"
          aria-label={`Remove the stem ${stem.fileName}`}
          onClick={() => editItem(stem.id, `Stem “${stem.fileName}” removed`, () => ({ removed: true }))}
        >
          Remove
        </button>
      </td>
    </tr>
  );
}

/** Whether the stems add up to their track, and what is missing. */
function Sum({ sum, track }: { sum: StoredStemSum; track: TrackRecord }) {
  const { study } = useStudy();
  const { sentence, isWhole, findings } = stemSumWords(sum, study.elements, track);
  return (
    <div role="group" aria-label="Sum of the stems" className="mb-2">
      <p className={`m-0 ${isWhole ? "soft" : "needs-attention"}`}>{sentence}</p>
      {findings.map((finding) => (
        <p key={finding} className="m-0">
          {finding}
        </p>
      ))}
    </div>
  );
}

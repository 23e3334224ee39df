"use client";

import Link from "next/link";
import { useRef, useState } from "react";
import { AskFirst } from "@/components/AskFirst";
import { accepted, DropArea } from "@/components/DropArea";
import { EditableText } from "@/components/EditableText";
import { clock, day, fixed, megabytes, points, signed } from "@/components/format";
import { JobLine } from "@/components/JobLine";
import { mixAspects } from "@/core/match";
import type { StemRecord, TrackRecord } from "@/core/study";
import { useNotices } from "@/components/Notices";
import { aspectTitles } from "../aspectTitles";
import { useStudy } from "../study/StudyContext";
import { VersionHistory } from "./VersionHistory";

const formatNames: Record<TrackRecord["file"]["format"], string> = {
  wav: "WAV",
  aiff: "AIFF",
  flac: "FLAC",
  mp3: "MP3",
  vorbis: "Ogg Vorbis",
  opus: "Opus",
  m4a: "M4A",
};

function fileWords({ file }: TrackRecord): string {
  const channels =
    file.channels === 1 ? "mono" : file.channels === 2 ? "stereo" : `${file.channels} channels`;
  return `${formatNames[file.format]}, ${clock(file.durationSeconds)}, ${fixed(file.sampleRate / 1000, 1)} kHz, ${channels}, ${megabytes(file.bytes)}`;
}

/** What the tags say, as a claim beside the measurement. */
function claimWords({ file: { claims } }: TrackRecord, bpm: number | null): string | null {
  const parts = [
    claims.title && `title “${claims.title}”`,
    claims.artist && `artist “${claims.artist}”`,
    claims.bpm && `${fixed(claims.bpm, 0)} BPM${bpm ? ` (measured ${fixed(bpm, 2)})` : ""}`,
    claims.key && `key ${claims.key}`,
  ].filter(Boolean);
  return parts.length > 0 ? `The file's tags say: ${parts.join(", ")}.` : null;
}

/** All files of the study: the reference, and every version with its note and scores. */
export function Versions() {
  const { study, standings, version, facts, chooseVersion, addFiles, change } = useStudy();
  const { say } = useNotices();
  const [leaving, setLeaving] = useState<TrackRecord | null>(null);
  const { reference } = study;
  const setNote = async (track: TrackRecord, note: string) => {
    const address = `/api/tracks/${track.id}`;
    if (await change("PATCH", address, { note }))
      say("The note was changed.", () => void change("PATCH", address, { note: track.note }));
  };
  return (
    <div className="stacked" style={{ gap: 26 }}>
      <div className="view-heading m-0">
        <h1>Versions</h1>
        <p>
          {study.versions.length === 0
            ? "Every render of your recreation, in order of arrival."
            : "Choose one and all views compare it. Notes can be changed by pressing them."}
        </p>
      </div>
      {standings.filter((s) => s.match !== null).length > 1 && (
        <VersionHistory standings={standings} chosen={version?.number ?? null} onChoose={chooseVersion} />
      )}
      <table className="ruled version-list">
        <thead>
          <tr>
            <th>No.</th>
            <th>What changed</th>
            <th>File</th>
            {mixAspects.map((name) => (
              <th key={name} className="number">
                {aspectTitles[name]}
              </th>
            ))}
            <th className="number">Match</th>
            <th>
              <span className="visually-hidden">Actions</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {[...study.versions].reverse().map((track) => {
            const standing = standings.find((s) => s.trackId === track.id);
            return (
              <tr key={track.id}>
                <td>
                  <button
                    type="button"
                    className={`plain-button strong${track.id === version?.id ? " in-recreation" : ""}`}
                    aria-label={`Choose version ${track.number}`}
                    aria-pressed={track.id === version?.id}
                    onClick={() => chooseVersion(track.number)}
                  >
                    {track.number}
                    {track.id === version?.id ? " ◂" : ""}
                  </button>
                </td>
                <td style={{ maxWidth: 260 }}>
                  <EditableText
                    value={track.note}
                    label={`Note on version ${track.number}`}
                    empty="Add a note"
                    onSave={(note) => void setNote(track, note)}
                  />
                </td>
                <td style={{ maxWidth: 300 }}>
                  <FileFacts track={track} />
                </td>
                {mixAspects.map((name) => (
                  <td key={name} className="number">
                    {points(standing?.aspects[name])}
                  </td>
                ))}
                <td className="number strong" style={{ fontSize: "1.375rem" }}>
                  {points(standing?.match)}
                </td>
                <td className="number small-text">
                  <button
                    type="button"
                    className="plain-button underlined soft"
                    aria-label={`Delete version ${track.number}`}
                    onClick={() => setLeaving(track)}
                  >
                    Delete
                  </button>
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {reference && (
        <section aria-label="The reference">
          <h2 className="in-reference mb-1">Reference</h2>
          <FileFacts track={reference} />
          {claimWords(reference, facts[reference.id]?.bpm ?? null) && (
            <p className="small-text soft m-0">{claimWords(reference, facts[reference.id]?.bpm ?? null)}</p>
          )}
        </section>
      )}
      <div className="d-grid gap-3" style={{ gridTemplateColumns: "1fr 1fr" }}>
        <DropArea
          title="Add versions"
          several
          action="Choose versions"
          onFiles={(files) => addFiles(files, "version")}
        >
          <p className="soft m-0">Drop one or more renders; they are numbered in the order they arrive.</p>
        </DropArea>
        <DropArea
          title={reference ? "Replace the reference" : "Bring in the reference"}
          forReference
          action="Choose the reference"
          onFiles={(files) => addFiles(files, "reference")}
        >
          <p className="soft m-0">
            {reference
              ? "All versions are compared anew with the file you drop."
              : "Everything is measured against it."}
          </p>
        </DropArea>
      </div>
      {leaving && (
        <AskFirst
          title={`Delete version ${leaving.number}?`}
          action="Delete the version"
          onCancel={() => setLeaving(null)}
          onConfirm={() => {
            setLeaving(null);
            void change("DELETE", `/api/tracks/${leaving.id}`).then(
              (gone) => gone && say(`Version ${leaving.number} was deleted.`),
            );
          }}
        >
          <p className="m-0">
            Its file, {leaving.note ? `its note “${leaving.note}” ` : ""}and its place in the history are
            removed from Plain Mirror. Your own copy of the file is not touched. This cannot be undone.
          </p>
        </AskFirst>
      )}
    </div>
  );
}

function FileFacts({ track }: { track: TrackRecord }) {
  const { jobOf, cancelAnalysis, analyseAgain } = useStudy();
  return (
    <>
      <div className="clip" title={track.fileName}>
        {track.fileName}
      </div>
      <div className="small-text soft">
        {fileWords(track)}, {day(track.addedAt)}
      </div>
      {track.file.warnings.map((warning) => (
        <div key={warning} className="small-text needs-attention">
          {warning}
        </div>
      ))}
      <JobLine
        job={jobOf(track)}
        onCancel={() => cancelAnalysis(track)}
        onAgain={() => analyseAgain(track)}
      />
      <Stems track={track} />
    </>
  );
}

/** The isolated parts of a track, each tied to an element. */
function Stems({ track }: { track: TrackRecord }) {
  const { study, addStems, jobOf, cancelAnalysis, analyseAgain, change, addressOf } = useStudy();
  const { say } = useNotices();
  const field = useRef<HTMLInputElement>(null);
  const whose = track.number === 0 ? "the reference" : `version ${track.number}`;
  const place = (stem: StemRecord): string => {
    const seconds = stem.offsetSeconds ?? stem.measuredOffset?.seconds;
    return seconds === undefined ? "being lined up" : `begins at ${signed(1000 * seconds, 1)} ms`;
  };
  const remove = async (stem: StemRecord) => {
    if (await change("DELETE", `/api/stems/${stem.id}`)) say(`The stem “${stem.fileName}” was removed.`);
  };
  return (
    <div className="small-text">
      {track.stems.map((stem) => (
        <div key={stem.id} className="d-flex gap-2 align-items-baseline flex-wrap">
          <span className="clip" style={{ maxWidth: 150 }} title={stem.fileName}>
            {stem.fileName}
          </span>
          <select
            className="stem-element"
            aria-label={`Element of the stem ${stem.fileName}`}
            value={stem.elementId ?? ""}
            onChange={(event) =>
              void change("PATCH", `/api/stems/${stem.id}`, { elementId: event.target.value || null })
            }
          >
            <option value="">no element</option>
            {study.elements.map((element) => (
              <option key={element.id} value={element.id}>
                {element.name}
              </option>
            ))}
          </select>
          {jobOf(stem).state === "done" ? (
            <Link className="plain-button underlined" href={addressOf("grid", { grid: stem.id })}>
              {place(stem)}
            </Link>
          ) : (
            <JobLine
              job={jobOf(stem)}
              onCancel={() => cancelAnalysis(stem)}
              onAgain={() => analyseAgain(stem)}
            />
          )}
          <button
            type="button"
            className="plain-button underlined soft"
            aria-label={`Remove the stem ${stem.fileName}`}
            onClick={() => void remove(stem)}
          >
            Remove
          </button>
        </div>
      ))}
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

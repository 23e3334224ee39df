"use client";

import { DropArea } from "@/components/DropArea";
import { EditableText } from "@/components/EditableText";
import { clock, day, fixed, megabytes, points } from "@/models/format";
import { JobLine } from "@/components/JobLine";
import { mixAspects } from "@/core/match";
import { movedPlace, type TrackRecord } from "@/core/study";
import { aspectTitles } from "@/models/aspectTitles";
import { bestVersion, changesByVersion, changeWords, type ScoreChange } from "@/models/progress";
import { useAnalysis, useEdits, useStudy, useStudyUploads } from "../study/StudyContext";
import { ElementHistory } from "./ElementHistory";
import { Stems } from "./Stems";
import { Target } from "./Target";
import { WatchedFolder } from "./WatchedFolder";
import { VersionHistory } from "./VersionHistory";

const formatNames: Record<TrackRecord["file"]["format"], string> = {
  wav: "WAV",
  aiff: "AIFF",
  flac: "FLAC",
  mp3: "MP3",
  vorbis: "Ogg Vorbis",
  opus: "Opus",
  m4a: "M4A",
  aac: "AAC",
};

function fileWords({ file }: TrackRecord): string {
  const channels =
    file.channels === 1 ? "mono" : file.channels === 2 ? "stereo" : `${file.channels} channels`;
  return `${formatNames[file.format]}, ${clock(file.durationSeconds)}, ${fixed(file.sampleRate / 1000, 1)} kHz, ${channels}, ${megabytes(file.bytes)}`;
}

/** What the tags say, beside the measurement. */
function tagWords({ file: { tags } }: TrackRecord, bpm: number | null): string | null {
  const parts = [
    tags.title && `title “${tags.title}”`,
    tags.artist && `artist “${tags.artist}”`,
    tags.bpm && `${fixed(tags.bpm, 0)} BPM${bpm ? ` (measured ${fixed(bpm, 2)})` : ""}`,
    tags.key && `key ${tags.key}`,
  ].filter(Boolean);
  return parts.length > 0 ? `File tags: ${parts.join(", ")}.` : null;
}

/** What moved most against the version before, and with what. */
function Changes({ changes }: { changes: readonly ScoreChange[] }) {
  if (changes.length === 0) return null;
  return (
    <ul
      className="changes tiny-text soft"
      title="Points against the version before, and the gap to the reference that moved"
    >
      {changes.slice(0, 3).map((change) => (
        <li key={change.name}>
          <span className={change.by > 0 ? "is-gain strong" : "needs-attention strong"}>
            {changeWords([change])}
          </span>{" "}
          {change.cause}
        </li>
      ))}
    </ul>
  );
}

/** All files of the study: the reference, and every version with its note and scores. */
export function Versions() {
  const { study, scores, version, facts, chooseVersion } = useStudy();
  const changes = changesByVersion(scores, study);
  const best = bestVersion(scores, ({ match }) => match);
  const { addFiles } = useStudyUploads();
  const { editItem } = useEdits();
  const { reference } = study;
  const setNote = (track: TrackRecord, note: string) =>
    editItem(track.id, `Note on version ${track.number} changed`, () => ({ note }));
  return (
    <div className="stacked versions-view" style={{ gap: 26 }}>
      <div className="view-heading m-0">
        <h1>Versions</h1>
        <p>
          {study.versions.length === 0
            ? "Every render of your recreation, in order of arrival."
            : "Select a version to compare it in every view. Click a note to edit it."}
        </p>
      </div>
      {scores.filter((s) => s.match !== null).length > 1 && (
        <VersionHistory
          scores={scores}
          chosen={version?.number ?? null}
          target={study.target}
          onChoose={chooseVersion}
        />
      )}
      {study.standIn === null && study.versions.length > 0 && <Target />}
      <div className="version-scroll" role="region" aria-label="Aspects of each version" tabIndex={0}>
        <table className="ruled version-list">
          <thead>
            <tr>
              <th>No.</th>
              <th>What changed</th>
              <th>File</th>
              <th className="number">Match</th>
              {mixAspects.map((name) => (
                <th key={name} className="number">
                  {aspectTitles[name]}
                </th>
              ))}
              <th>
                <span className="visually-hidden">Actions</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {[...study.versions].reverse().map((track) => {
              const versionScores = scores.find((s) => s.trackId === track.id);
              return (
                <tr key={track.id}>
                  <td className="text-nowrap">
                    <button
                      type="button"
                      className={`plain-button strong${track.id === version?.id ? " in-version" : ""}`}
                      aria-label={`Choose version ${track.number}`}
                      aria-pressed={track.id === version?.id}
                      onClick={() => chooseVersion(track.number)}
                    >
                      {track.number}
                      {track.id === version?.id ? " ◂" : ""}
                    </button>
                    <button
                      type="button"
                      className={`plain-button star${track.starred ? " is-on" : ""}`}
                      aria-label={`Star version ${track.number}`}
                      aria-pressed={track.starred}
                      title={track.starred ? "Starred" : "Star this version to find it again"}
                      onClick={() =>
                        editItem(
                          track.id,
                          `Version ${track.number} ${track.starred ? "no longer starred" : "starred"}`,
                          () => ({ starred: !track.starred }),
                        )
                      }
                    >
                      {track.starred ? "★" : "☆"}
                    </button>
                    {study.versions.length > 1 && <Move track={track} />}
                  </td>
                  <td style={{ maxWidth: 260 }}>
                    <EditableText
                      value={track.note}
                      label={`Note on version ${track.number}`}
                      empty="Add a note"
                      onSave={(note) => setNote(track, note)}
                    />
                    <Changes changes={changes.get(track.id) ?? []} />
                  </td>
                  <td style={{ maxWidth: 300 }}>
                    <FileFacts track={track} />
                  </td>
                  <td className="number strong" style={{ fontSize: "1.375rem" }}>
                    {points(versionScores?.match)}
                    {scores.length > 1 && best?.trackId === track.id && (
                      <div className="tiny-text fw-normal soft">best so far</div>
                    )}
                  </td>
                  {mixAspects.map((name) => (
                    <td key={name} className="number">
                      {points(versionScores?.aspects[name])}
                    </td>
                  ))}
                  <td className="number small-text">
                    <button
                      type="button"
                      className="plain-button underlined soft"
                      aria-label={`Delete version ${track.number}`}
                      onClick={() =>
                        editItem(track.id, `Version ${track.number} deleted`, () => ({ removed: true }))
                      }
                    >
                      Delete
                    </button>
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
      <ElementHistory />
      {reference && study.standIn === null && (
        <section aria-label="The reference">
          <h2 className="in-reference mb-1">Reference</h2>
          <FileFacts track={reference} />
          {tagWords(reference, facts[reference.id]?.bpm ?? null) && (
            <p className="small-text soft m-0">{tagWords(reference, facts[reference.id]?.bpm ?? null)}</p>
          )}
        </section>
      )}
      <div className="stems-of-both">
        {reference && study.standIn === null && <Stems track={reference} />}
        {version && <Stems track={version} />}
      </div>
      <div className="ways-in">
        <DropArea
          title="Add versions"
          several
          action="Choose versions"
          onFiles={(files) => addFiles(files, "version")}
        >
          <p className="soft m-0">Drop one or more renders. They are numbered in the order they arrive.</p>
        </DropArea>
        <WatchedFolder />
        {study.standIn === null && (
          <DropArea
            title={reference ? "Replace the reference" : "Add the reference"}
            forReference
            action="Choose the reference"
            onFiles={(files) => addFiles(files, "reference")}
          >
            <p className="soft m-0">
              {reference
                ? "All versions are compared with the file you drop."
                : "Everything is measured against it."}
            </p>
          </DropArea>
        )}
      </div>
    </div>
  );
}

/** Puts a version before or behind another, where renders did not arrive in the order they were made in. */
function Move({ track }: { track: TrackRecord }) {
  const { study } = useStudy();
  const { editItem } = useEdits();
  const move = (by: -1 | 1, where: string) => {
    const place = movedPlace(study.versions, track.id, by);
    return (
      <button
        type="button"
        className="plain-button soft"
        aria-label={`Move version ${track.number} ${where}`}
        title={`Move ${where}`}
        disabled={place === null}
        onClick={() => editItem(track.id, `Version ${track.number} moved ${where}`, () => ({ place }))}
      >
        {by > 0 ? "↑" : "↓"}
      </button>
    );
  };
  return (
    <div className="move">
      {move(1, "later")}
      {move(-1, "earlier")}
    </div>
  );
}

function FileFacts({ track }: { track: TrackRecord }) {
  const { job, cancel, again } = useAnalysis(track);
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
      <JobLine job={job} onCancel={cancel} onAgain={again} />
      {track.stems.length > 0 && (
        <div className="small-text soft">
          {track.stems.length === 1 ? "1 stem" : `${track.stems.length} stems`}
        </div>
      )}
    </>
  );
}

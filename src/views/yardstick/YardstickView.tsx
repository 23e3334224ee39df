"use client";

import { useState } from "react";
import { Button } from "react-bootstrap";
import { z } from "zod";
import { DropArea } from "@/components/DropArea";
import { JobLine } from "@/components/JobLine";
import { useNotices } from "@/components/Notices";
import { send, sentenceOf } from "@/components/requests";
import { fewestTracks } from "@/core/yardstick";
import type { YardstickRecord } from "@/core/study";
import { clock } from "@/models/format";
import { isEnough, type YardstickModel, type YardstickSource } from "@/models/yardstick";
import { appliedSchema } from "../study/state/useEditing";
import { useAnalysis, useEdits, useStudy, useStudyUploads } from "../study/StudyContext";
import { FigureTable } from "./FigureTable";
import { Patterns } from "./Patterns";
import { StyleTargets } from "./StyleTargets";
import { ToneRange } from "./ToneRange";

/** What several tracks of a style are like, and how far the reference and the version are. */
export function YardstickView({ model, sources }: { model: YardstickModel; sources: YardstickSource[] }) {
  const { study, version } = useStudy();
  const names = {
    reference: study.standIn === null ? "the reference" : `version ${study.standIn}`,
    version: version ? `version ${version.number}` : null,
  };
  const sides = (["reference", "version"] as const).filter((side) => names[side] !== null);
  return (
    <div className="stacked yardstick-view">
      <div className="view-heading m-0">
        <h1>Yardstick</h1>
        <p>
          {isEnough(model)
            ? `What ${model.measured} tracks of the style are typically like: four in five lie within each range.${recountedWords(model)}`
            : "Several tracks of one style show what is typical of it, and what is unusual about yours."}
        </p>
      </div>
      {isEnough(model) && (
        <>
          <div className="yardstick-top">
            <FigureTable model={model} versionName={names.version} />
            <aside aria-label="What is unusual">
              {sides.map((side) => (
                <section key={side} aria-labelledby={`unusual-${side}`}>
                  <p className="m-0">
                    <span className="figure-count">{model.within[side].count}</span>{" "}
                    <span className="soft">
                      of {model.within[side].of} figures of {names[side]} are typical
                    </span>
                  </p>
                  <h2 id={`unusual-${side}`} className={`in-${side}`}>
                    Unusual about {names[side]}
                  </h2>
                  {model.unusual[side].length === 0 ? (
                    <p className="soft">Nothing: all of it lies within what is typical.</p>
                  ) : (
                    <ul className="plain-list">
                      {model.unusual[side].slice(0, 6).map((words) => (
                        <li key={words}>{words}</li>
                      ))}
                    </ul>
                  )}
                </section>
              ))}
            </aside>
          </div>
          <StyleTargets />
          {model.tone && <ToneRange rows={model.tone} versionName={names.version} />}
          <Patterns patterns={model.patterns} versionName={names.version} />
        </>
      )}
      <Tracks model={model} sources={sources} />
    </div>
  );
}

const recountedWords = ({ recounted }: YardstickModel): string =>
  recounted === 0
    ? ""
    : ` ${recounted === 1 ? "One" : recounted} could be counted in half or in double time, and ${recounted === 1 ? "is" : "are"} counted as the others are.`;

/** The tracks themselves, and how to add some. */
function Tracks({ model, sources }: { model: YardstickModel; sources: YardstickSource[] }) {
  const { study } = useStudy();
  const { addFiles } = useStudyUploads();
  const missing = fewestTracks - model.measured;
  return (
    <section aria-labelledby="yardstick-tracks">
      <h2 id="yardstick-tracks">
        {study.yardstick.length === 0
          ? "Tracks of the style"
          : `${study.yardstick.length} ${study.yardstick.length === 1 ? "track" : "tracks"} of the style`}
      </h2>
      {study.yardstick.length > 0 && missing > 0 && (
        <p className="small-text">
          {missing} more {missing === 1 ? "is" : "are"} needed before anything can be said; ten make a good
          yardstick.
        </p>
      )}
      {study.yardstick.length > 0 && (
        <ul className="plain-list yardstick-tracks">
          {study.yardstick.map((track) => (
            <Track key={track.id} track={track} />
          ))}
        </ul>
      )}
      <div className="ways-in">
        <DropArea
          title="Add tracks"
          several
          action="Choose tracks"
          onFiles={(files) => addFiles(files, "yardstick")}
        >
          <p className="soft m-0">
            Drop tracks of the same style, tens of them if you like. They are measured like the reference.
          </p>
        </DropArea>
        {sources.length > 0 && <FromStudy sources={sources} />}
      </div>
    </section>
  );
}

function Track({ track }: { track: YardstickRecord }) {
  const { editItem } = useEdits();
  const { job, cancel, again } = useAnalysis(track);
  return (
    <li>
      <span className="clip" title={track.fileName}>
        {track.fileName}
      </span>
      <span className="small-text soft">{clock(track.file.durationSeconds)}</span>
      <JobLine job={job} onCancel={cancel} onAgain={again} />
      <button
        type="button"
        className="plain-button underlined soft small-text"
        aria-label={`Remove ${track.fileName} from the yardstick`}
        onClick={() =>
          editItem(track.id, `Yardstick track “${track.fileName}” removed`, () => ({ removed: true }))
        }
      >
        Remove
      </button>
    </li>
  );
}

const takenSchema = z.object({ added: z.number(), edit: appliedSchema.nullable() });

/** References and yardsticks of other studies, which need no upload. */
function FromStudy({ sources }: { sources: YardstickSource[] }) {
  const { study } = useStudy();
  const { add } = useEdits();
  const { say } = useNotices();
  const [chosen, setChosen] = useState(sources[0]!.id);
  const source = sources.find(({ id }) => id === chosen) ?? sources[0]!;
  const take = (what: "reference" | "yardstick") =>
    void send("POST", `/api/studies/${study.id}/yardstick`, { from: source.id, what }, takenSchema).then(
      (outcome) => {
        if (!outcome.ok) say(sentenceOf(outcome.refusal));
        else if (outcome.value.edit) add(outcome.value.edit);
        else say("These tracks are here already.");
      },
    );
  return (
    <section className="way-in" aria-labelledby="from-study">
      <h2 id="from-study" className="m-0">
        From another study
      </h2>
      <select
        className="form-select form-select-sm"
        aria-label="Study"
        value={source.id}
        onChange={({ target }) => setChosen(target.value)}
      >
        {sources.map(({ id, title }) => (
          <option key={id} value={id}>
            {title}
          </option>
        ))}
      </select>
      <div className="d-flex gap-2 flex-wrap">
        <Button size="sm" variant="outline-secondary" onClick={() => take("reference")}>
          Take its reference
        </Button>
        {source.tracks > 0 && (
          <Button size="sm" variant="outline-secondary" onClick={() => take("yardstick")}>
            Take its {source.tracks} yardstick {source.tracks === 1 ? "track" : "tracks"}
          </Button>
        )}
      </div>
    </section>
  );
}

"use client";

import Link from "next/link";
import { useRouter } from "next/navigation";
import { useState } from "react";
import { DropArea } from "@/components/DropArea";
import { clock, fixed, points } from "@/models/format";
import { HistoryLine } from "@/components/HistoryLine";
import { JobLine } from "@/components/JobLine";
import { matchSituations, situationOf, type MixAspect } from "@/core/match";
import { referenceName, type TrackRecord } from "@/core/study";
import { usePlayback } from "@/listening/Playback";
import {
  answersTo,
  barWords,
  coverageWords,
  isStranger,
  isUnderOtherChords,
  otherChordsWords,
  strangerWords,
} from "@/models/coverage";
import { useAnalysis, useStudy, useStudyUploads } from "../study/StudyContext";
import { ComparedTable } from "./ComparedTable";
import { Effects, Findings } from "./Findings";
import type { Finding } from "@/models/findings";
import { changesBetween, changeWords } from "@/models/progress";
import { overviewMatch, type OverviewModel, type SideNumbers } from "@/models/overview";

/** In one sentence: what is held against what. */
function useSpanSentence(name: string, nothingRecreated: boolean): string {
  const { aligned, selection, bars } = useStudy();
  if (!aligned) {
    return selection
      ? `${clock(selection.from, true)} – ${clock(selection.to, true)}. The two are not aligned by bars.`
      : `All of ${name} against all of the reference. The two are not aligned by bars.`;
  }
  if (!bars) return coverageWords(aligned, name);
  const selected = capital(barWords(bars));
  if (nothingRecreated) return `${selected} of the reference: not recreated in ${name}.`;
  return `${selected} of the reference against ${answersTo(aligned, bars).map(barWords).join(", ")} of ${name}.`;
}

const capital = (words: string) => words[0]!.toUpperCase() + words.slice(1);

export function Overview({
  model,
  referenceNumbers,
}: {
  model: OverviewModel | null;
  referenceNumbers: SideNumbers | null;
}) {
  const { study, version } = useStudy();
  const { addFiles } = useStudyUploads();
  if (!study.reference) {
    return (
      <DropArea
        title="Add the reference"
        forReference
        action="Choose the reference"
        onFiles={(files) => addFiles(files, "reference")}
      >
        <p className="soft m-0">
          Drop the track you want to rebuild. Everything else is measured against it.
        </p>
      </DropArea>
    );
  }
  if (!version) {
    return (
      <>
        <ReferenceAlone numbers={referenceNumbers} />
        <DropArea
          title="Add your first version"
          several
          action="Choose a version"
          onFiles={(files) => addFiles(files, "version")}
        >
          <p className="soft m-0">
            Render what you have so far and drop it here: the whole track or just eight bars.
          </p>
        </DropArea>
      </>
    );
  }
  if (!model) return <Waiting tracks={[study.reference, version]} />;
  return <Compared model={model} version={version} />;
}

function ReferenceAlone({ numbers }: { numbers: SideNumbers | null }) {
  const { study } = useStudy();
  if (!numbers) return <Waiting tracks={study.reference ? [study.reference] : []} />;
  const { loudness } = numbers;
  const facts: [string, string][] = [
    ["Tempo", numbers.bpm === null ? "not found" : `${fixed(numbers.bpm, 2)} BPM`],
    ["Integrated loudness", `${fixed(loudness.integratedLufs)} LUFS`],
    ["Loudness range", `${fixed(loudness.loudnessRangeLu)} LU`],
    ["True peak", `${fixed(loudness.truePeakDbtp)} dBTP`],
    ["Peak-to-loudness", `${fixed(loudness.peakToLoudnessLu)} LU`],
    ["Spectral slope", `${fixed(numbers.slopeDbPerOctave)} dB/oct`],
  ];
  return (
    <section className="mb-4" aria-label="The reference">
      <div className="view-heading">
        <h1>Reference</h1>
        {loudness.integratedLufs === null && (
          <p className="needs-attention">This file is silent throughout, so levels have no meaning.</p>
        )}
      </div>
      <div className="d-flex flex-wrap gap-5">
        {facts.map(([name, text]) => (
          <div key={name}>
            <div className="small-text soft">{name}</div>
            <div className="strong" style={{ fontSize: "1.375rem" }}>
              {text}
            </div>
          </div>
        ))}
      </div>
    </section>
  );
}

/** Both tracks while at least one of them has no result. */
function Waiting({ tracks }: { tracks: TrackRecord[] }) {
  const { failures } = useStudy();
  const failed = tracks.map(({ id }) => failures[id]).find((own) => own !== undefined);
  return (
    <section aria-label="Analysis" style={{ maxWidth: 560 }} className="stacked">
      <div className="view-heading m-0">
        <h1>Analysing your files</h1>
        <p>You can leave or close this page; the analysis keeps running.</p>
      </div>
      {tracks.map((track) => (
        <WaitingTrack key={track.id} track={track} />
      ))}
      {failed ? (
        <p className="m-0 needs-attention" role="alert">
          {failed.sentence} {failed.remedy}
        </p>
      ) : (
        tracks.length > 1 &&
        tracks.every(({ job }) => job.state === "done") && (
          <p className="m-0" role="status">
            Aligning the two, bar by bar …
          </p>
        )
      )}
    </section>
  );
}

function WaitingTrack({ track }: { track: TrackRecord }) {
  const { job, cancel, again } = useAnalysis(track);
  return (
    <div>
      <span className="strong">{track.number === 0 ? "Reference" : `Version ${track.number}`}</span>{" "}
      <span className="soft clip">{track.fileName}</span>
      {job.state === "done" ? (
        <p className="small-text soft m-0">Done.</p>
      ) : (
        <JobLine job={job} onCancel={cancel} onAgain={again} />
      )}
    </div>
  );
}

function Compared({ model, version }: { model: OverviewModel; version: TrackRecord }) {
  const { study, scores, scoresBefore, selection, alignments, addressOf, chooseVersion } = useStudy();
  const router = useRouter();
  const playback = usePlayback();
  const [open, setOpen] = useState<MixAspect | null>(null);
  const name = `version ${version.number}`;
  const match = overviewMatch(model, study);
  const whole = selection === null;
  const sentence = useSpanSentence(name, model.nothingRecreated);
  const choose = ({ place }: Finding) => {
    if (place.kind === "aspect") setOpen(place.aspect);
    if (place.kind === "range")
      router.push(addressOf("tone", { range: `${Math.round(place.fromHz)}-${Math.round(place.toHz)}` }));
    if (place.kind === "element") router.push(addressOf("elements", { element: place.elementId }));
    if (place.kind === "peak") playback.listenTo("version");
  };
  return (
    <div className="overview">
      <div>
        <div className="view-heading in-line">
          <h1>{`Version ${version.number} vs. ${referenceName(study)}`}</h1>
          <p>
            {sentence}
            {model.outdated && <span className="needs-attention"> Updating …</span>}
          </p>
        </div>
        {isStranger(version, alignments[version.id]?.alignment) && (
          <p className="needs-attention" role="status">
            {strangerWords(`Version ${version.number}`)} Only tempo, level and tone can be compared. If it
            does, say which bars in the{" "}
            <Link href={addressOf("grid")} className="plain-button underlined" prefetch={false}>
              Grid view
            </Link>
            .
          </p>
        )}
        {isUnderOtherChords(version, alignments[version.id]?.alignment, study.aspectWeights) && (
          <p className="needs-attention" role="status">
            {otherChordsWords(`Version ${version.number}`)} If other chords are intended, set the weight of
            Harmony to 0.
          </p>
        )}
        <ComparedTable model={model} scores={scores} open={open} onOpen={setOpen} />
      </div>
      <aside aria-label="Match and what to do">
        <div className="answer">
          <span className="value" data-testid="match">
            {points(match)}
          </span>
          <span className="soft">
            of 100
            {!whole
              ? " in the selection"
              : scoresBefore
                ? ` · ${points(scoresBefore.match)} in v${scoresBefore.number}`
                : ""}
          </span>
        </div>
        {match !== null && <MatchScale match={match} />}
        {scores.length > 1 && (
          <div className="mt-2">
            <HistoryLine
              scores={scores.map((s) => s.match)}
              width={270}
              height={54}
              label="Match over versions"
            />
            <div className="d-flex justify-content-between tiny-text soft" style={{ width: 270 }}>
              {scores.map((s) => (
                <button
                  key={s.trackId}
                  type="button"
                  className={`plain-button${s.number === version.number ? " strong in-version" : ""}`}
                  onClick={() => chooseVersion(s.number)}
                >
                  v{s.number} {points(s.match)}
                </button>
              ))}
            </div>
          </div>
        )}
        <ChangeSince />
        <Effects />
        {model.nothingRecreated ? (
          <p className="mt-3">
            Nothing to compare here. Select bars you have recreated, or add a version that has these.
          </p>
        ) : model.findings.length === 0 ? (
          <p className="mt-3">No audible differences left in what is measured so far.</p>
        ) : (
          <Findings findings={model.findings} onChoose={choose} />
        )}
      </aside>
    </div>
  );
}

/** What the number means, and the whole scale on request. */
function MatchScale({ match }: { match: number }) {
  const own = situationOf(match);
  return (
    <details className="match-scale">
      <summary>{capital(own.words)}.</summary>
      <table className="ruled">
        <caption>What a match means</caption>
        <tbody>
          {matchSituations.map(({ least, words }) => (
            <tr key={least} className={least === own.least ? "strong" : "soft"}>
              <th scope="row" className="number">
                {least > 0 ? `from ${Math.round(least)}` : "below"}
              </th>
              <td>{words}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </details>
  );
}

/** What became better and what worse since the version before, in one line. */
function ChangeSince() {
  const { versionScores, scoresBefore, study } = useStudy();
  if (!versionScores || !scoresBefore) return null;
  const changes = changesBetween(scoresBefore, versionScores, study);
  const better = changeWords(
    changes.filter(({ by }) => by > 0),
    3,
    1,
  );
  const worse = changeWords(
    changes.filter(({ by }) => by < 0),
    3,
    1,
  );
  if (better === "" && worse === "") return null;
  return (
    <p className="small-text mt-2 mb-0">
      Since v{scoresBefore.number}:{" "}
      {better !== "" && (
        <>
          <span className="is-gain strong">better</span> in {better}
        </>
      )}
      {better !== "" && worse !== "" && "; "}
      {worse !== "" && (
        <>
          <span className="needs-attention strong">worse</span> in {worse}
        </>
      )}
      .
    </p>
  );
}

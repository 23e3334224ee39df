"use client";

import { useSearchParams } from "next/navigation";
import type { ReactNode } from "react";
import { Button } from "react-bootstrap";
import { Choices } from "@/components/Choices";
import { closenessOf } from "@/core/hits/closeness";
import { fixed, points } from "@/models/format";
import {
  cleanWords,
  hitPairs,
  hitSentences,
  type HitPair,
  type HitsModel,
  type ShownHit,
} from "@/models/hits";
import { useReferenceName } from "../study/ReferenceName";
import { useStudy } from "../study/StudyContext";
import { BandDecays, HitFigures } from "./HitFigures";
import { Candidates } from "./Candidates";
import { HitMirror } from "./HitMirror";
import { Strokes } from "./Strokes";
import { useHits } from "./useHits";
import { useOneShot } from "./useOneShot";

export function HitsView({ model }: { model: HitsModel }) {
  const { study, version } = useStudy();
  const reference = useHits(model.reference);
  const other = useHits(model.version);
  if (!model.reference)
    return (
      <Said>
        {study.reference
          ? "Hits appear here as soon as the reference is analysed."
          : "Add a reference first."}
      </Said>
    );
  const failed = [reference, other].find((own) => own.state === "failed");
  if (failed?.state === "failed") return <Said isTrouble>{failed.sentence}</Said>;
  if (reference.state !== "there" || other.state === "waiting")
    return <Said>Averaging the strokes of every drum …</Said>;
  const pairs = hitPairs(reference.hits, other.state === "there" ? other.hits : []);
  if (pairs.length === 0)
    return (
      <Said>
        No drum is struck often enough to tell its sound from what sounds with it: four strokes are needed.
      </Said>
    );
  return (
    <Pairs pairs={pairs} model={model} versionName={version ? `Version ${version.number}` : "Version"} />
  );
}

/** The view while there is nothing to show. */
const Said = ({ children, isTrouble }: { children: ReactNode; isTrouble?: boolean }) => (
  <div className="view-heading">
    <h1>Hits</h1>
    <p className={isTrouble ? "needs-attention" : undefined} role="status">
      {children}
    </p>
  </div>
);

const closenessOfPair = ({ reference, version }: HitPair): number | null =>
  reference && version ? closenessOf(reference.measures, version.measures).score : null;

/** What is looked at of a drum: its figures, the strokes it is made of, or sounds to put in its place. */
const looks = ["close up", "strokes", "candidates"] as const;

function Pairs({ pairs, model, versionName }: { pairs: HitPair[]; model: HitsModel; versionName: string }) {
  const { go, study } = useStudy();
  const referenceName = useReferenceName();
  const address = useSearchParams();
  const asked = address.get("hit");
  const look = looks.find((own) => own === address.get("look")) ?? "close up";
  const sound = useOneShot();
  const pair = pairs.find(({ name }) => name === asked) ?? pairs[0]!;
  const { reference, version } = pair;
  const closeness = closenessOfPair(pair);
  const sentences =
    reference && version ? hitSentences(reference.voice, reference.measures, version.measures) : [];
  const addressOf = (side: "reference" | "version", hit: ShownHit) =>
    `/api/items/${model[side]!.itemId}/hits/${hit.name}`;
  const head = (
    <>
      <div className="view-heading d-flex justify-content-between align-items-baseline gap-4">
        <h1>{pair.title}</h1>
        <Choices
          label="What to look at"
          choices={looks.map((value) => ({
            value,
            title:
              value === "candidates" && study.candidates.length > 0
                ? `candidates (${study.candidates.length})`
                : value,
            disabled: value === "candidates" && !reference,
          }))}
          chosen={look}
          onChoose={(value) => go({ look: value === "close up" ? null : value })}
        />
      </div>
      <Choices
        label="Drum"
        className="hit-choices"
        choices={pairs.map((own) => ({
          value: own.name,
          title: (
            <>
              {own.title} <span className="soft">{points(closenessOfPair(own))}</span>
            </>
          ),
        }))}
        chosen={pair.name}
        onChoose={(name) => {
          sound.stop();
          go({ hit: name });
        }}
      />
    </>
  );
  if (look === "candidates" && reference && model.reference)
    return (
      <Candidates
        key={reference.name}
        head={head}
        trackId={model.reference.itemId}
        trackKey={model.reference.key}
        beat={model.reference.beat}
        hit={reference}
        version={version}
        title={pair.title}
        sound={sound}
      />
    );
  return (
    <div className="hits-view">
      <div>
        {head}
        <HitMirror
          pair={pair}
          beat={model.reference?.beat ?? null}
          {...(look === "strokes" ? { height: 170 } : {})}
        />
        {look === "strokes" ? (
          (["reference", "version"] as const).map((side) => {
            const own = pair[side];
            return (
              own &&
              model[side] && (
                <Strokes
                  key={`${side} ${own.name}`}
                  itemId={model[side].itemId}
                  hit={own}
                  title={pair.title}
                  side={side}
                  name={side === "reference" ? referenceName : versionName}
                />
              )
            );
          })
        ) : (
          <div className="low-figures">
            <BandDecays pair={pair} />
            <HitFigures
              pair={pair}
              beats={{ reference: model.reference?.beat ?? null, version: model.version?.beat ?? null }}
              versionName={versionName}
            />
          </div>
        )}
      </div>
      <aside aria-label="What to do about this drum">
        {closeness !== null && (
          <div className="answer">
            <span className="value" data-testid="hit-closeness">
              {points(closeness)}
            </span>
            <span className="soft">of 100, how close this sound is</span>
          </div>
        )}
        {!version && model.version && (
          <p className="strong">
            Nothing in your version plays its part, or it is struck fewer than four times.
          </p>
        )}
        {!reference && <p className="strong">The reference has no such drum.</p>}
        {reference && version && sentences.length === 0 && (
          <p className="strong mt-2">Nothing about it differs enough to be heard plainly.</p>
        )}
        <ul className="findings" aria-label="What differs">
          {sentences.map((sentence) => (
            <li key={sentence} className="finding">
              <span className="title">{sentence}</span>
            </li>
          ))}
        </ul>
        {(["reference", "version"] as const).map((side) => {
          const hit = pair[side];
          if (!hit) return null;
          const address = addressOf(side, hit);
          const isLooped = sound.looped === address;
          return (
            <section key={side} aria-label={side === "reference" ? referenceName : versionName}>
              <h2 className={`in-${side}`}>{side === "reference" ? referenceName : versionName}</h2>
              <p className="mb-2">
                Made of {hit.used} of {hit.count} strokes, {cleanWords(hit.clean)} (
                {fixed(100 * hit.clean, 0)} % of it repeats), known for {fixed(1000 * hit.known, 0)} ms.
              </p>
              <div className="d-flex gap-2">
                <Button size="sm" variant="quiet" onClick={() => sound.play(address)}>
                  Hear it
                </Button>
                <Button
                  size="sm"
                  variant={isLooped ? "primary" : "quiet"}
                  aria-pressed={isLooped}
                  onClick={() => (isLooped ? sound.stop() : sound.loop(address))}
                >
                  Loop
                </Button>
                <a className="btn btn-quiet btn-sm" href={address} download>
                  Save as WAV
                </a>
              </div>
            </section>
          );
        })}
      </aside>
    </div>
  );
}

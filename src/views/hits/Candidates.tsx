"use client";

import { useEffect, useState, type KeyboardEvent, type ReactNode } from "react";
import { Button } from "react-bootstrap";
import { Choices } from "@/components/Choices";
import { FileDrop } from "@/components/DropArea";
import { beatAt } from "@/core/grid/grid";
import { beforeHit } from "@/core/hits/hitMeasures";
import { partOfVoice } from "@/core/lens/parts";
import { median } from "@/core/median";
import { points } from "@/models/format";
import { reasonsOf, suggestionWords, type ShownCandidate, type ShownLayer } from "@/models/candidates";
import { outlineRate, type ShownHit } from "@/models/hits";
import { allBut, nothingMuted } from "@/listening/engine/muting";
import { usePlayback } from "@/listening/Playback";
import { useEdits, useStudy, useStudyUploads } from "../study/StudyContext";
import { HitMirror, type DrawnHit } from "./HitMirror";
import { Layers } from "./Layers";
import { Loops } from "./Loops";
import { useCandidates } from "./useCandidates";
import { useLayers } from "./useLayers";
import type { OneShotPlayer } from "./useOneShot";

/** What is heard beside it while it plays the strokes of the drum: all but that drum, all, or nothing. */
type InPattern = "instead" | "over" | "alone";

/** So many are shown at first; the rest lies further away. */
const shownFirst = 8;

const drawn = ({ measures, outline }: ShownCandidate): DrawnHit => ({
  measures,
  outline,
  known: outline.length / outlineRate,
});

/** Sounds that are offered for a drum of the reference: ranked, heard in its place, chosen. */
export function Candidates({
  head,
  trackId,
  trackKey,
  beat,
  hit,
  version,
  title,
  sound,
}: {
  /** What stands above, whatever is looked at of a drum. */
  head: ReactNode;
  trackId: string;
  trackKey: string;
  beat: number | null;
  hit: ShownHit;
  /** The drum of the version, which is drawn until a candidate is at hand. */
  version: ShownHit | null;
  title: string;
  sound: OneShotPlayer;
}) {
  const { study, facts } = useStudy();
  const { edit } = useEdits();
  const { addFiles, arrivals } = useStudyUploads();
  const { accompany, ...playback } = usePlayback();
  const [held, setHeld] = useState<string | null>(null);
  const [adjusted, setAdjusted] = useState<ReadonlySet<string>>(new Set());
  const [inPattern, setInPattern] = useState<InPattern | null>(null);
  const [isWhole, setIsWhole] = useState(false);
  /** The candidate and setting that layers are looked for, and the one laid over it. */
  const [layersAt, setLayersAt] = useState<string | null>(null);
  const [layer, setLayer] = useState<ShownLayer | null>(null);

  const { candidates } = study;
  const isArriving = arrivals.some(({ role, message }) => role === "candidate" && message === undefined);
  const analysed = candidates.map(({ id, job }) => `${id} ${job.state}`).join(" ");
  // Many that arrive together are ranked once.
  const key = candidates.length > 0 && !isArriving ? `${trackKey} ${analysed}` : null;
  const found = useCandidates(trackId, hit.name, key);
  const answer = found.state === "there" ? found.answer : found.state === "waiting" ? found.last : null;
  const names = new Map(candidates.map(({ id, fileName }) => [id, fileName]));
  const ranked = (answer?.oneShots ?? []).filter(({ id }) => names.has(id));
  const loops = (answer?.loops ?? []).filter(({ id }) => names.has(id));
  const chosen = candidates.find(({ chosenFor }) => chosenFor === hit.name) ?? null;
  const shown = isWhole ? ranked : ranked.filter(({ id }, i) => i < shownFirst || id === chosen?.id);
  const own = ranked.find(({ id }) => id === held) ?? null;

  const changeOf = ({ id, suggestion }: ShownCandidate) => (adjusted.has(id) ? suggestion : null);
  const addressOf = (candidate: ShownCandidate, what: "sound" | "layers") => {
    const by = changeOf(candidate);
    const shaping = by ? `&semitones=${by.semitones}&decay=${by.decay}` : "";
    return `/api/items/${candidate.id}/${what}?track=${trackId}&hit=${hit.name}${shaping}`;
  };
  const layersAddress = own && addressOf(own, "layers");
  const foundLayers = useLayers(layersAt !== null && layersAt === layersAddress ? layersAt : null);
  // A layer belongs to the sound and setting that it was found for.
  const over = layer && foundLayers.state === "there" && foundLayers.layers.includes(layer) ? layer : null;
  const heldAddress =
    own &&
    addressOf(own, "sound") +
      (over
        ? `&layer=${over.id}&offset=${over.offsetMs}&inverted=${over.inverted ? "yes" : "no"}&gain=${over.gainDb}`
        : "");

  const grid = facts[trackId]?.grid ?? null;
  useEffect(() => {
    if (!inPattern || !heldAddress || !grid) {
      accompany(null);
      return;
    }
    const strikes = hit.strokes.map(([time, velocity]) => ({
      beat: beatAt(grid, time),
      voice: hit.voice,
      velocity,
    }));
    accompany({
      strikes,
      alone: inPattern === "alone",
      sound: {
        address: heldAddress,
        ahead: beforeHit,
        velocity: median(hit.strokes.map(([, velocity]) => velocity)),
      },
    });
    // The player is the same as long as the page stands; its functions are made anew at each render.
    // oxlint-disable-next-line react-hooks/exhaustive-deps
  }, [inPattern, heldAddress, hit, grid]);
  // oxlint-disable-next-line react-hooks/exhaustive-deps -- only leaving the view ends it
  useEffect(() => () => accompany(null), []);

  const part = partOfVoice[hit.voice];
  useEffect(() => {
    if (inPattern !== "instead") return;
    playback.change({ muted: allBut(part) });
    return () => playback.change({ muted: nothingMuted });
    // oxlint-disable-next-line react-hooks/exhaustive-deps -- as above
  }, [inPattern, part]);

  const hold = (candidate: ShownCandidate) => {
    setHeld(candidate.id);
    if (!inPattern) sound.play(addressOf(candidate, "sound"));
  };
  const adjust = (candidate: ShownCandidate) => {
    const next = new Set(adjusted);
    if (!next.delete(candidate.id)) next.add(candidate.id);
    setAdjusted(next);
    setHeld(candidate.id);
  };
  const pattern = (next: InPattern) => {
    setInPattern(inPattern === next ? null : next);
    sound.stop();
    if (inPattern !== next && !playback.playing) playback.toggle();
  };
  const choose = (id: string) => {
    const isChosen = chosen?.id === id;
    edit(isChosen ? `${title}: no sound chosen` : `${title}: “${names.get(id)}” chosen`, (now) => ({
      ...now,
      items: Object.fromEntries(
        Object.entries(now.items).map(([itemId, item]) => [
          itemId,
          itemId === id
            ? { ...item, chosenFor: isChosen ? null : hit.name }
            : item.chosenFor === hit.name
              ? { ...item, chosenFor: null }
              : item,
        ]),
      ),
    }));
  };
  const remove = (ids: readonly string[], label: string) =>
    edit(label, (now) => ({
      ...now,
      items: Object.fromEntries(
        Object.entries(now.items).map(([itemId, item]) => [
          itemId,
          ids.includes(itemId) ? { ...item, removed: true } : item,
        ]),
      ),
    }));

  const onKey = (event: KeyboardEvent) => {
    const step = event.key === "ArrowDown" ? 1 : event.key === "ArrowUp" ? -1 : 0;
    if (step === 0 || shown.length === 0) return;
    event.preventDefault();
    const next =
      shown[Math.max(0, Math.min(shown.length - 1, shown.findIndex(({ id }) => id === held) + step))]!;
    hold(next);
    document.getElementById(`candidate-${next.id}`)?.focus();
  };

  const isUsed = own !== null && chosen?.id === own.id;
  const change = own && changeOf(own);
  return (
    <div className="hits-view">
      <div>
        {head}
        <HitMirror
          pair={{ title, reference: hit, version: own ? drawn(own) : version }}
          beat={beat}
          height={140}
        />
        <section className="candidates" aria-label="Candidates">
          <FileDrop
            label={`Candidates for the ${title.toLowerCase()}`}
            onFiles={(files) => addFiles(files, "candidate")}
          >
            {(browse) => (
              <div className="candidates-heading">
                <p className="m-0">
                  {candidates.length === 0
                    ? `Drop one-shots, loops or a whole kit here. Each is measured and ranked by how close it comes to this ${title.toLowerCase()}.`
                    : isArriving || found.state === "waiting"
                      ? "Measuring …"
                      : `${candidates.length} ${candidates.length === 1 ? "sound" : "sounds"}, nearest first. Drop more here at any time.`}
                </p>
                <Button size="sm" variant={candidates.length === 0 ? "primary" : "quiet"} onClick={browse}>
                  Add sounds
                </Button>
              </div>
            )}
          </FileDrop>
          {found.state === "failed" && <p className="needs-attention">{found.sentence}</p>}
          {ranked.length > 0 && (
            <table className="ruled candidate-table" onKeyDown={onKey}>
              <thead>
                <tr>
                  <th>Sound</th>
                  <th className="number">Closeness</th>
                  <th>What differs</th>
                  <th>Would bring it nearer</th>
                  <th>
                    <span className="visually-hidden">Remove</span>
                  </th>
                </tr>
              </thead>
              <tbody>
                {shown.map((candidate) => {
                  const { id, score, suggestion } = candidate;
                  const name = names.get(id)!;
                  return (
                    <tr key={id} className={id === held ? "is-held" : undefined}>
                      <td className="candidate-name">
                        <button
                          id={`candidate-${id}`}
                          type="button"
                          className="plain-button clip"
                          title={name}
                          aria-pressed={id === held}
                          onClick={() => hold(candidate)}
                        >
                          {name}
                        </button>
                        {chosen?.id === id && <span className="chosen-mark">in use</span>}
                      </td>
                      <td className="number strong">{points(score)}</td>
                      <td className="small-text">{reasonsOf(candidate)}</td>
                      <td className="small-text text-nowrap">
                        {suggestion ? (
                          `${suggestionWords(suggestion)}: ${points(suggestion.score)}`
                        ) : (
                          <span className="soft">–</span>
                        )}
                      </td>
                      <td className="number">
                        <button
                          type="button"
                          className="plain-button soft"
                          aria-label={`Remove ${name}`}
                          onClick={() => remove([id], `Candidate “${name}” removed`)}
                        >
                          ×
                        </button>
                      </td>
                    </tr>
                  );
                })}
              </tbody>
            </table>
          )}
          <div className="candidates-foot small-text">
            {ranked.length > shown.length && (
              <button type="button" className="plain-button underlined" onClick={() => setIsWhole(true)}>
                {ranked.length - shown.length} more, further away
              </button>
            )}
            {ranked.length > 1 && (
              <button
                type="button"
                className="plain-button underlined soft"
                onClick={() =>
                  remove(
                    candidates.filter(({ chosenFor }) => chosenFor === null).map(({ id }) => id),
                    "Candidates that are not in use removed",
                  )
                }
              >
                Remove all that are not in use
              </button>
            )}
          </div>
          {loops.length > 0 && (
            <Loops
              loops={loops.map((loop) => ({ ...loop, name: names.get(loop.id)! }))}
              onHear={(id) => sound.play(`/api/items/${id}/sound`)}
              onRemove={(id) => remove([id], `Candidate “${names.get(id)}” removed`)}
            />
          )}
          {(answer?.refused ?? []).map(({ id, sentence }) => (
            <p key={id} className="needs-attention small-text">
              {names.get(id)}: {sentence}
            </p>
          ))}
        </section>
      </div>
      <aside aria-label="The sound at hand" className="stays-in-view">
        {own && heldAddress ? (
          <>
            <div className="answer">
              <span className="value" data-testid="candidate-closeness">
                {points(over ? over.score : change ? change.score : own.score)}
              </span>
              <span className="soft">of 100, how close it comes</span>
            </div>
            <h2 className="in-version candidate-title">
              {names.get(own.id)}
              {over && ` with ${names.get(over.id)}`}
            </h2>
            <p className="mb-2">Heard as loud as the {title.toLowerCase()} of the reference.</p>
            <div className="d-flex gap-2 flex-wrap">
              <Button
                size="sm"
                variant="quiet"
                onClick={() => sound.play(`/api/items/${trackId}/hits/${hit.name}`)}
              >
                Hear the reference
              </Button>
              <Button size="sm" variant="quiet" onClick={() => sound.play(heldAddress)}>
                Hear it
              </Button>
              <Button
                size="sm"
                variant={sound.looped === heldAddress ? "primary" : "quiet"}
                aria-pressed={sound.looped === heldAddress}
                onClick={() => (sound.looped === heldAddress ? sound.stop() : sound.loop(heldAddress))}
              >
                Loop
              </Button>
            </div>
            <p className="small-text soft m-0 mt-3">In the pattern of the {title.toLowerCase()}</p>
            <Choices
              label="Hear it in the pattern"
              choices={[
                { value: "instead", title: "in its place" },
                { value: "over", title: "over the music" },
                { value: "alone", title: "alone" },
              ]}
              chosen={inPattern}
              onChoose={pattern}
            />
            <div className="d-flex gap-2 mt-3">
              <Button size="sm" variant={isUsed ? "quiet" : "primary"} onClick={() => choose(own.id)}>
                {isUsed ? "Don't use it" : `Use it for the ${title.toLowerCase()}`}
              </Button>
              <a className="btn btn-quiet btn-sm" href={heldAddress} download>
                Save as WAV
              </a>
            </div>
            {own.suggestion && (
              <label className="candidate-switch">
                <input type="checkbox" checked={change !== null} onChange={() => adjust(own)} />
                <span>
                  {suggestionWords(own.suggestion)}
                  <span className="soft"> brings it to {points(own.suggestion.score)}</span>
                </span>
              </label>
            )}
            <Layers
              reference={hit.measures}
              measures={own.measures}
              found={foundLayers}
              chosen={over}
              nameOf={(id) => names.get(id) ?? "a sound that was removed"}
              onFind={() => setLayersAt(layersAddress)}
              onChoose={setLayer}
            />
          </>
        ) : (
          <p className="soft">
            {ranked.length > 0
              ? "Press a sound to hear it beside the reference; the arrow keys go from one to the next."
              : "Add sounds to see which comes closest, what differs and what would help."}
          </p>
        )}
      </aside>
    </div>
  );
}

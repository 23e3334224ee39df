"use client";

import { useEffect, useState, type KeyboardEvent } from "react";
import { Button } from "react-bootstrap";
import { FileDrop } from "@/components/DropArea";
import { beatAt } from "@/core/grid/grid";
import { beforeHit } from "@/core/hits/hitMeasures";
import { median } from "@/core/median";
import { points } from "@/models/format";
import { loopWords, reasonsOf, suggestionWords, type ShownCandidate } from "@/models/candidates";
import type { ShownHit } from "@/models/hits";
import { usePlayback } from "@/listening/Playback";
import { useEdits, useStudy, useStudyUploads } from "../study/StudyContext";
import { useCandidates } from "./useCandidates";
import type { useOneShot } from "./useOneShot";

/** So many are shown at first; the rest lies further away. */
const shownFirst = 8;

/** Both outlines on one line: the reference above, the candidate below. */
function Outlines({ reference, candidate }: { reference: readonly number[]; candidate: readonly number[] }) {
  const span = 300;
  const path = (outline: readonly number[], sign: 1 | -1) =>
    `M0 15${outline
      .slice(0, span)
      .map((own, i) => `L${i} ${(15 + sign * 14 * Math.sqrt(own)).toFixed(1)}`)
      .join("")}L${Math.min(span, outline.length)} 15Z`;
  return (
    <svg
      className="mirror-picture small-outlines"
      viewBox={`0 0 ${span} 30`}
      preserveAspectRatio="none"
      aria-hidden
    >
      <path className="up" d={path(reference, -1)} />
      <path className="down" d={path(candidate, 1)} />
    </svg>
  );
}

/** Sounds that are offered for a drum of the reference: ranked, heard in its place, chosen. */
export function Candidates({
  trackId,
  trackKey,
  hit,
  title,
  sound,
}: {
  trackId: string;
  trackKey: string;
  hit: ShownHit;
  title: string;
  sound: ReturnType<typeof useOneShot>;
}) {
  const { study, facts } = useStudy();
  const { edit } = useEdits();
  const { addFiles, arrivals } = useStudyUploads();
  const { accompany, ...playback } = usePlayback();
  const [held, setHeld] = useState<string | null>(null);
  const [adjusted, setAdjusted] = useState<ReadonlySet<string>>(new Set());
  const [inPattern, setInPattern] = useState<"over" | "alone" | null>(null);
  const [isWhole, setIsWhole] = useState(false);

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
  const addressOf = (candidate: ShownCandidate) => {
    const change = changeOf(candidate);
    const by = change ? `&semitones=${change.semitones}&decay=${change.decay}` : "";
    return `/api/items/${candidate.id}/sound?track=${trackId}&hit=${hit.name}${by}`;
  };
  const heldAddress = own && addressOf(own);

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
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [inPattern, heldAddress, hit, grid]);
  // eslint-disable-next-line react-hooks/exhaustive-deps -- only leaving the view ends it
  useEffect(() => () => accompany(null), []);

  const hold = (candidate: ShownCandidate) => {
    setHeld(candidate.id);
    if (!inPattern) sound.play(addressOf(candidate));
  };
  const adjust = (candidate: ShownCandidate) => {
    const next = new Set(adjusted);
    if (!next.delete(candidate.id)) next.add(candidate.id);
    setAdjusted(next);
    setHeld(candidate.id);
  };
  const pattern = (next: "over" | "alone") => {
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

  return (
    <section className="candidates" aria-label="Candidates">
      <FileDrop
        label={`Candidates for the ${title.toLowerCase()}`}
        onFiles={(files) => addFiles(files, "candidate")}
      >
        {(browse) => (
          <div className="candidates-heading">
            <h2>Candidates</h2>
            <p className="soft m-0">
              {candidates.length === 0
                ? `Drop one-shots, loops or a whole kit here. Each is measured and ranked by how close it comes to this ${title.toLowerCase()}.`
                : `${candidates.length} ${candidates.length === 1 ? "sound" : "sounds"}, nearest first, heard at the loudness of the reference's ${title.toLowerCase()}.`}
            </p>
            <Button size="sm" variant={candidates.length === 0 ? "primary" : "quiet"} onClick={browse}>
              Add sounds
            </Button>
          </div>
        )}
      </FileDrop>
      {found.state === "failed" && <p className="needs-attention">{found.sentence}</p>}
      {candidates.length > 0 && (found.state === "waiting" || isArriving) && (
        <p className="soft" role="status">
          Measuring …
        </p>
      )}
      {ranked.length > 0 && (
        <>
          <div className="candidate-tools" role="group" aria-label="The sound at hand">
            <span className="strong clip">{own ? names.get(own.id) : "Press a sound to hear it."}</span>
            {own && heldAddress && (
              <>
                <Button
                  size="sm"
                  variant={sound.looped === heldAddress ? "primary" : "quiet"}
                  aria-pressed={sound.looped === heldAddress}
                  onClick={() => (sound.looped === heldAddress ? sound.stop() : sound.loop(heldAddress))}
                >
                  Loop
                </Button>
                <span className="choices" role="group" aria-label="Hear it in the pattern">
                  <span className="small-text soft">in the pattern</span>
                  <button
                    type="button"
                    className="plain-button"
                    aria-pressed={inPattern === "over"}
                    onClick={() => pattern("over")}
                  >
                    over the music
                  </button>
                  <button
                    type="button"
                    className="plain-button"
                    aria-pressed={inPattern === "alone"}
                    onClick={() => pattern("alone")}
                  >
                    alone
                  </button>
                </span>
                <a className="btn btn-quiet btn-sm" href={heldAddress} download>
                  Save as WAV
                </a>
                <Button
                  size="sm"
                  variant={chosen?.id === own.id ? "quiet" : "primary"}
                  onClick={() => choose(own.id)}
                >
                  {chosen?.id === own.id ? "Don't use it" : "Use it"}
                </Button>
              </>
            )}
          </div>
          <table className="ruled candidate-table" onKeyDown={onKey}>
            <thead>
              <tr>
                <th>Sound</th>
                <th>
                  <span className="visually-hidden">Shape</span>
                </th>
                <th className="number">Closeness</th>
                <th>What differs</th>
                <th>Brings it nearer</th>
                <th>
                  <span className="visually-hidden">Remove</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {shown.map((candidate) => {
                const { id, score, suggestion } = candidate;
                const name = names.get(id)!;
                const change = changeOf(candidate);
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
                    <td>
                      <Outlines reference={hit.outline} candidate={candidate.outline} />
                    </td>
                    <td className="number strong">{points(change ? change.score : score)}</td>
                    <td className="small-text">{reasonsOf(candidate)}</td>
                    <td className="small-text">
                      {suggestion ? (
                        <button
                          type="button"
                          className="plain-button underlined"
                          aria-pressed={change !== null}
                          onClick={() => adjust(candidate)}
                        >
                          {suggestionWords(suggestion)} → {points(suggestion.score)}
                        </button>
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
          {ranked.length > shown.length && (
            <button
              type="button"
              className="plain-button underlined small-text"
              onClick={() => setIsWhole(true)}
            >
              {ranked.length - shown.length} more, further away
            </button>
          )}
        </>
      )}
      {loops.length > 0 && (
        <section aria-label="Loops" className="mt-3">
          <h3>Loops</h3>
          <ul className="findings">
            {loops.map(({ id, ...loop }) => {
              const address = `/api/items/${id}/sound`;
              return (
                <li key={id} className="finding loop-line">
                  <span className="title clip" title={names.get(id)}>
                    {names.get(id)}
                  </span>
                  <span className="detail">{loopWords(loop).join("; ")}.</span>
                  <span className="d-flex gap-2">
                    <button
                      type="button"
                      className="plain-button underlined"
                      onClick={() => sound.play(address)}
                    >
                      Hear it
                    </button>
                    <button
                      type="button"
                      className="plain-button soft"
                      aria-label={`Remove ${names.get(id)}`}
                      onClick={() => remove([id], `Candidate “${names.get(id)}” removed`)}
                    >
                      ×
                    </button>
                  </span>
                </li>
              );
            })}
          </ul>
        </section>
      )}
      {(answer?.refused ?? []).map(({ id, sentence }) => (
        <p key={id} className="needs-attention small-text">
          {names.get(id)}: {sentence}
        </p>
      ))}
      {ranked.length > 1 && (
        <button
          type="button"
          className="plain-button underlined soft small-text mt-2"
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
    </section>
  );
}

"use client";

import { useEffect, useState } from "react";
import { signed } from "@/models/format";
import { chordNotes } from "@/core/harmony/chords";
import {
  allKeys,
  keyName,
  otherKeyName,
  relationSentence,
  sameKey,
  scaleNames,
  type Key,
} from "@/core/harmony/keys";
import { hold } from "@/listening/synth";
import { useEdits, useStudy } from "../study/StudyContext";
import type { PlanTrack } from "@/models/plan";

const percent = (share: number) => `${Math.round(100 * share)} %`;

const tonicPitches = ({ tonic, mode }: Key): number[] => {
  const root = 48 + tonic;
  return chordNotes({ root: tonic, quality: mode === "minor" ? "min" : "maj", bass: tonic }).map(
    (note) => root + ((((note - tonic) % 12) + 12) % 12),
  );
};

/** The confidence of the key that counts, in words. */
function confidenceWords({ choice, plan, corrections }: PlanTrack): string {
  if (corrections.harmony.key) return "set by you";
  const own = choice?.options.find((option) => plan.key && sameKey(option.key, plan.key));
  return own ? `${percent(own.confidence)} confidence` : "";
}

/** Below this a key is a guess. */
const guess = 0.6;
const isUnsure = ({ choice, plan, corrections }: PlanTrack): boolean =>
  !corrections.harmony.key &&
  !choice?.options.some(({ key, confidence }) => plan.key && sameKey(key, plan.key) && confidence >= guess);

/** What both opinions say of a key, and whether they agree. */
function opinionWords({ choice }: PlanTrack): string | null {
  if (!choice) return null;
  const { notes, chords } = choice.opinions;
  if (!notes) return null;
  if (!chords) return `By its notes ${keyName(notes)}; there are no chords to ask.`;
  return sameKey(notes, chords)
    ? `Notes and chords agree on ${keyName(notes)}.`
    : `By its notes ${keyName(notes)}, by its chords ${keyName(chords)}.`;
}

/** The keys of both sides in large letters, and how they lie to one another. */
export function KeyHead({ reference, version }: { reference: PlanTrack | null; version: PlanTrack | null }) {
  const [held, setHeld] = useState<string | null>(null);
  useEffect(() => () => hold([]), []);
  const hear = (id: string, key: Key) => {
    const next = held === id ? null : id;
    hold(next ? tonicPitches(key) : []);
    setHeld(next);
  };
  const { study } = useStudy();
  const keys = { reference: reference?.plan.key ?? null, version: version?.plan.key ?? null };
  return (
    <section aria-label="Key">
      <div className="key-head">
        {[reference, version].map((track) => {
          if (!track) return null;
          const key = track.plan.key;
          const isReference = track.kind === "reference";
          return (
            <div key={track.itemId}>
              <span className={`small-text strong ${isReference ? "in-reference" : "in-version"}`}>
                {track.name}
              </span>
              <div className="d-flex align-items-baseline gap-3">
                <span className="value">{key ? keyName(key) : "no key"}</span>
                <span className="soft">{confidenceWords(track)}</span>
              </div>
              {key ? (
                <div className="small-text soft">
                  {otherKeyName(key) && <>also written {otherKeyName(key)} · </>}
                  {scaleNames(key).join(" ")} · tuned {signed(track.tuningCents, 0)} cents
                  <br />
                  {opinionWords(track)}{" "}
                  <button
                    type="button"
                    className="plain-button underlined"
                    aria-pressed={held === track.itemId}
                    onClick={() => hear(track.itemId, key)}
                  >
                    {held === track.itemId ? "Stop" : "Play the tonic chord along"}
                  </button>
                </div>
              ) : (
                <div className="small-text soft">Nothing pitched found.</div>
              )}
            </div>
          );
        })}
      </div>
      {keys.reference && keys.version && (
        <p className="mt-2 mb-0">
          {relationSentence(keys.reference, keys.version)}
          {[reference!, version!].some(isUnsure) && (
            <span className="soft"> But the detection is uncertain: see the other readings.</span>
          )}
          {study.intended.semitones !== 0 && (
            <span className="soft">
              {" "}
              {signed(study.intended.semitones, 0)} semitones are intended, as set in the Grid view.
            </span>
          )}
        </p>
      )}
    </section>
  );
}

/** Readings of the key with how sure each is; the right one can be chosen, or any other. */
export function KeyReadings({ track }: { track: PlanTrack }) {
  const { editItem } = useEdits();
  const set = (key: Key) =>
    editItem(track.itemId, `Key of ${track.name.toLowerCase()} set to ${keyName(key)}`, ({ harmony }) => ({
      harmony: { ...harmony, key },
    }));
  const { key } = track.plan;
  return (
    <div className="field-label">
      <span className="small-text soft">Key readings, by confidence</span>
      <div className="readings">
        {(track.choice?.options ?? []).slice(0, 4).map((option) => (
          <button
            key={keyName(option.key)}
            type="button"
            className="plain-button reading"
            aria-pressed={key !== null && sameKey(key, option.key)}
            onClick={() => set(option.key)}
          >
            <span>{keyName(option.key)}</span>
            <span className="soft small-text">{percent(option.confidence)}</span>
          </button>
        ))}
      </div>
      <label className="field mt-2">
        Other key
        <select
          className="form-select form-select-sm"
          value={key ? allKeys.findIndex((own) => sameKey(own, key)) : ""}
          onChange={(event) => set(allKeys[Number(event.target.value)]!)}
        >
          {!key && <option value="">no key</option>}
          {allKeys.map((own, i) => (
            <option key={keyName(own)} value={i}>
              {keyName(own)}
            </option>
          ))}
        </select>
      </label>
    </div>
  );
}

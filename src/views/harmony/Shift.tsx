"use client";

import { useState } from "react";
import { fixed, signed } from "@/models/format";
import { chordName } from "@/core/harmony/chords";
import { allKeys, keyName, sameKey, shiftInto, spellingOf, type Key } from "@/core/harmony/keys";
import { noteName } from "@/core/harmony/notes";
import { transposed } from "@/core/harmony/chords";
import { ratioOfSemitones } from "@/core/units";
import type { PlanTrack } from "@/models/plan";

function KeySelect({ label, value, onChange }: { label: string; value: Key; onChange(key: Key): void }) {
  return (
    <label className="field">
      {label}
      <select
        className="form-select form-select-sm"
        value={allKeys.findIndex((key) => sameKey(key, value))}
        onChange={(event) => onChange(allKeys[Number(event.target.value)]!)}
      >
        {allKeys.map((key, i) => (
          <option key={keyName(key)} value={i}>
            {keyName(key)}
          </option>
        ))}
      </select>
    </label>
  );
}

const inSemitones = (semitones: number) =>
  semitones === 0
    ? "nothing to do"
    : `${signed(semitones, 0)} semitone${Math.abs(semitones) === 1 ? "" : "s"}`;

/** What a sample in another key must do to sit in this one. */
export function ShiftHelper({ into }: { into: Key }) {
  const [from, setFrom] = useState<Key>({ tonic: 4, mode: "minor" });
  const [to, setTo] = useState<Key | null>(null);
  const target = to ?? into;
  const { semitones, otherWay } = shiftInto(from, target);
  return (
    <section className="stacked" style={{ gap: 6 }} aria-label="Shift a sample">
      <h2>Shift a sample</h2>
      <div className="field-pair">
        <KeySelect label="Sample key" value={from} onChange={setFrom} />
        <KeySelect label="Target key" value={target} onChange={setTo} />
      </div>
      <p className="m-0" data-testid="shift">
        <span className="strong">{inSemitones(semitones)}</span>
        {otherWay !== null && <> or {signed(otherWay, 0)}</>}
        {semitones !== 0 && (
          <span className="soft">
            , by speed: play it at {fixed(100 * ratioOfSemitones(semitones), 2)} %
            {otherWay !== null && <> or {fixed(100 * ratioOfSemitones(otherWay), 2)} %</>}.
          </span>
        )}
      </p>
      {from.mode !== target.mode && (
        <p className="small-text soft m-0">
          Brought to the same notes: a minor key sits with its relative major.
        </p>
      )}
    </section>
  );
}

/** The chords of a track moved by semitones, to be read off. */
export function Transposed({ track }: { track: PlanTrack }) {
  const [semitones, setSemitones] = useState(0);
  const { key, chords } = track.plan;
  if (!key || chords.length === 0) return null;
  const moved = { tonic: (key.tonic + semitones + 24) % 12, mode: key.mode };
  const spelling = spellingOf(moved);
  const distinct = new Map<string, string>();
  for (const { chord } of chords) {
    if (chord)
      distinct.set(chordName(chord, spellingOf(key)), chordName(transposed(chord, semitones), spelling));
  }
  return (
    <section className="stacked" style={{ gap: 6 }} aria-label="Transpose the chords">
      <h2>Transpose the chords</h2>
      <label className="field" style={{ maxWidth: 140 }}>
        Semitones
        <input
          type="number"
          className="form-control form-control-sm"
          min={-11}
          max={11}
          value={semitones}
          onChange={(event) => setSemitones(Math.max(-11, Math.min(11, event.target.valueAsNumber || 0)))}
        />
      </label>
      <p className="m-0">
        {keyName(key)}{" "}
        {semitones !== 0 && (
          <>
            → {noteName(moved.tonic, spelling)} {moved.mode}
          </>
        )}
      </p>
      <p className="small-text soft m-0">
        {[...distinct].map(([from, to]) => (semitones === 0 ? from : `${from} → ${to}`)).join(", ")}
      </p>
    </section>
  );
}

"use client";

import { useState } from "react";
import { Button } from "react-bootstrap";
import { voicing } from "@/core/harmony/voicing";
import { chordName, chordNotes, chordSteps, chordWords, readChord, type Chord } from "@/core/harmony/chords";
import { romanNumeral, type Key } from "@/core/harmony/keys";
import { noteName, type Spelling } from "@/core/harmony/notes";
import type { PlacedChord } from "@/core/harmony/harmonyEstimate";
import { strike } from "@/listening/synth";
import { Keyboard } from "./Keyboard";

/** Sounds a chord once. */
export function hearChord(chord: Chord | null): void {
  if (!chord) return;
  const { bass, notes } = voicing(chord);
  strike([bass, ...notes]);
}

/** Everything about one chord, and what can be put right of it. */
export function ChordDetail({
  own,
  name,
  keyOfTrack,
  spelling,
  beatsPerBar,
  canJoin,
  onRename,
  onSplit,
  onJoin,
  onMove,
}: {
  own: PlacedChord;
  /** Whose chord it is. */
  name: string;
  keyOfTrack: Key | null;
  spelling: Spelling;
  beatsPerBar: number;
  canJoin: boolean;
  onRename(chord: Chord | null): void;
  onSplit(): void;
  onJoin(): void;
  onMove(beats: number): void;
}) {
  const { chord } = own;
  const beats = own.endBeat - own.startBeat;
  const place = (beat: number) => {
    const bar = Math.floor(beat / beatsPerBar + 1e-6);
    return `${bar + 1} : ${Math.round((beat - bar * beatsPerBar + 1) * 100) / 100}`;
  };
  return (
    <section className="stacked" style={{ gap: 10 }} aria-label="Chosen chord">
      <div>
        <span className="small-text soft">
          {name}, from {place(own.startBeat)}, {beats} beat{beats === 1 ? "" : "s"}
        </span>
        <div className="d-flex align-items-baseline gap-3">
          <span className="chord-name">{chordName(chord, spelling)}</span>
          {chord && keyOfTrack && <span className="soft">{romanNumeral(chord, keyOfTrack)}</span>}
          {chord && (
            <button
              type="button"
              className="plain-button underlined small-text"
              onClick={() => hearChord(chord)}
            >
              Hear it
            </button>
          )}
        </div>
        {chord ? (
          <p className="small-text soft m-0">
            {chordWords(chord, spelling)}:{" "}
            {chordNotes(chord)
              .map((note) => noteName(note, spelling))
              .join(" ")}
            , steps of {chordSteps(chord).join(" and ")} semitones; bass {noteName(chord.bass, spelling)}.{" "}
            {own.confidence >= 1 ? "Set by you." : `${Math.round(100 * own.confidence)} % sure.`}
          </p>
        ) : (
          <p className="small-text soft m-0">No chord here.</p>
        )}
      </div>
      {chord && <Keyboard notes={chordNotes(chord)} bass={chord.bass} spelling={spelling} />}
      <RenameField
        key={`${own.startBeat} ${chordName(chord)}`}
        chord={chord}
        spelling={spelling}
        onRename={onRename}
      />
      <div className="d-flex gap-2 flex-wrap">
        <Button size="sm" variant="quiet" disabled={beats < 2} onClick={onSplit}>
          Split
        </Button>
        <Button size="sm" variant="quiet" disabled={!canJoin} onClick={onJoin}>
          Join next
        </Button>
        <Button size="sm" variant="quiet" aria-label="Start a beat earlier" onClick={() => onMove(-1)}>
          −1 beat
        </Button>
        <Button size="sm" variant="quiet" aria-label="Start a beat later" onClick={() => onMove(1)}>
          +1 beat
        </Button>
      </div>
    </section>
  );
}

function RenameField({
  chord,
  spelling,
  onRename,
}: {
  chord: Chord | null;
  spelling: Spelling;
  onRename(chord: Chord | null): void;
}) {
  const [wrong, setWrong] = useState(false);
  return (
    <label className="field">
      Rename, e.g. F♯m7 or C/E
      <input
        className="form-control form-control-sm"
        data-rename
        defaultValue={chordName(chord, spelling)}
        aria-invalid={wrong}
        onFocus={(event) => event.currentTarget.select()}
        onKeyDown={(event) => {
          if (event.key === "Enter") event.currentTarget.blur();
        }}
        onBlur={(event) => {
          const text = event.target.value.trim();
          const read = text === "" ? null : readChord(text);
          setWrong(read === undefined);
          if (read !== undefined && chordName(read) !== chordName(chord)) onRename(read);
        }}
      />
      {wrong && (
        <span className="needs-attention" role="alert">
          Unknown chord name.
        </span>
      )}
    </label>
  );
}

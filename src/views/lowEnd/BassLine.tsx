"use client";

import { useState, type KeyboardEvent } from "react";
import { Button } from "react-bootstrap";
import { beatAt, secondsAt, type BarRange } from "@/core/grid/grid";
import type { PlacedChord } from "@/core/harmony/harmonyEstimate";
import { pitchName } from "@/core/harmony/notes";
import type { CountedNote } from "@/core/lowEnd/correction";
import { answeringTime, type AlignedBars } from "@/core/study";
import { noteWords, type BassLines, type ShownNote, type Side } from "@/models/bassLine";
import { useEdits } from "../study/StudyContext";
import { addedNote, noteEdit, type NoteEdit } from "./bassEditing";
import { useReferenceName } from "../study/ReferenceName";

const rowHeight = 34;
const leastRows = 5;
const sixteenth = 0.25;

interface Held {
  side: Side;
  start: number;
  midi: number;
}

/** Both bass lines on one axis of pitch: each pitch has its line, with the reference above it and the version below. */
export function BassLine({
  lines,
  itemIds,
  counted,
  kicks,
  powers,
  chords,
  aligned,
  bars,
  numberName,
}: {
  lines: BassLines;
  itemIds: Record<Side, string>;
  counted: Record<Side, readonly CountedNote[]>;
  kicks: Record<Side, readonly number[]>;
  /** Of all but the kicks in the low end; null while it is not there. */
  powers: Record<Side, Float32Array | null>;
  chords: readonly PlacedChord[];
  aligned: AlignedBars;
  bars: BarRange;
  numberName: string;
}) {
  const { editItem } = useEdits();
  const [held, setHeld] = useState<Held | null>(null);
  const { beatsPerBar } = aligned.reference;
  const from = (bars.first - 1) * beatsPerBar;
  const length = (bars.last - bars.first + 1) * beatsPerBar;
  const shown = lines.pairs.filter(({ reference, version }) => {
    const { beat } = (reference ?? version)!;
    return beat >= from - 0.2 && beat < from + length - 0.2;
  });
  const notes = shown.flatMap(({ reference, version, answer }) => [
    ...(reference ? [{ side: "reference" as const, own: reference, answer }] : []),
    ...(version ? [{ side: "version" as const, own: version, answer }] : []),
  ]);
  // Where a note slides to has a line as well.
  const pitchesOf = ({ midi, slide }: CountedNote) =>
    slide ? [midi, midi + Math.round(slide.before), midi + Math.round(slide.after)] : [midi];
  const pitches = [...new Set(notes.flatMap(({ own }) => pitchesOf(own.note)))].sort((a, b) => b - a);
  const lowest = pitches.at(-1) ?? 36;
  // Rows that have no note give room to put one.
  const rows =
    pitches.length >= leastRows ? pitches : [...pitches, ...emptyRows(lowest, leastRows - pitches.length)];
  const isHeld = (side: Side, { note }: ShownNote) =>
    held !== null &&
    held.side === side &&
    held.midi === note.midi &&
    Math.abs(held.start - note.start) < 1e-6;
  const at = notes.find(({ side, own }) => isHeld(side, own)) ?? null;
  const referenceName = useReferenceName();
  const name = (side: Side) => (side === "reference" ? referenceName : numberName);

  const apply = (edit: NoteEdit) => {
    if (!at) return;
    const { label, next, change } = noteEdit(at.own.note, edit, aligned[at.side]);
    editItem(itemIds[at.side], label, ({ bass }) => ({ bass: change(bass) }));
    setHeld(next && { side: at.side, start: next.start, midi: next.midi });
  };
  const add = (side: Side, midi: number, beat: number) => {
    const time = side === "reference" ? secondsAt(aligned.reference, beat) : answeringTime(aligned, beat);
    if (time === null) return;
    const { note, change } = addedNote(midi, time, aligned[side], counted[side]);
    editItem(itemIds[side], `Bass note ${pitchName(midi)} added`, ({ bass }) => ({ bass: change(bass) }));
    setHeld({ side, start: note.start, midi });
  };
  const onKey = (event: KeyboardEvent) => {
    const go = (by: 1 | -1) => {
      const line = at ? notes.filter(({ side }) => side === at.side) : notes;
      const next = line[at ? line.indexOf(at) + by : by > 0 ? 0 : line.length - 1];
      if (next) setHeld({ side: next.side, start: next.own.note.start, midi: next.own.note.midi });
    };
    const step = event.shiftKey ? 1 / 16 : sixteenth;
    const actions: Record<string, () => unknown> = {
      ArrowRight: () => (event.altKey ? apply({ kind: "move", by: step }) : go(1)),
      ArrowLeft: () => (event.altKey ? apply({ kind: "move", by: -step }) : go(-1)),
      ArrowUp: () => apply({ kind: "pitch", by: event.shiftKey ? 12 : 1 }),
      ArrowDown: () => apply({ kind: "pitch", by: event.shiftKey ? -12 : -1 }),
      Delete: () => apply({ kind: "away" }),
      Backspace: () => apply({ kind: "away" }),
      ...(at ? { Escape: () => setHeld(null) } : {}),
    };
    const action = actions[event.key];
    if (!action || event.metaKey || event.ctrlKey) return;
    event.preventDefault();
    event.stopPropagation();
    action();
  };
  return (
    <section className="bass-line" aria-label="Bass line over bars">
      <div
        className="bass-rows"
        role="group"
        tabIndex={0}
        aria-label={`Bass notes of bars ${bars.first} to ${bars.last}. Arrow keys go from note to note, up and down tune it, with Shift by an octave, Alt with left and right moves it.`}
        style={{ height: rows.length * rowHeight }}
        onKeyDown={onKey}
      >
        {Array.from({ length: length + 1 }, (_, i) => (
          <span
            key={i}
            className={i % beatsPerBar === 0 ? "bass-bar" : "bass-beat"}
            style={{ left: `calc(44px + (100% - 44px) * ${i / length})` }}
          />
        ))}
        {rows.map((midi, row) => (
          <div
            key={midi}
            className="bass-row"
            style={{ top: row * rowHeight, height: rowHeight }}
            onDoubleClick={(event) => {
              const box = event.currentTarget.getBoundingClientRect();
              const share = (event.clientX - box.left - 44) / (box.width - 44);
              if (share < 0) return;
              const beat = from + Math.round((share * length) / sixteenth) * sixteenth;
              add(event.clientY < box.top + box.height / 2 ? "reference" : "version", midi, beat);
            }}
          >
            <span className="bass-pitch">{pitchName(midi)}</span>
          </div>
        ))}
        <svg className="bass-slides" aria-hidden>
          {notes.map(({ side, own }) => {
            const { slide, midi, start } = own.note;
            if (!slide) return null;
            const grid = aligned[side];
            // Beats of the reference, whichever side it is on.
            const xOf = (time: number) =>
              `${(100 * (own.beat + beatAt(grid, time) - beatAt(grid, start) - from)) / length}%`;
            const yOf = (semitones: number) =>
              (rows.indexOf(midi + Math.round(semitones)) + (side === "reference" ? 0.28 : 0.77)) * rowHeight;
            return (
              <line
                key={`${side} ${start} ${midi}`}
                className={`in-${side}`}
                x1={xOf(slide.from)}
                x2={xOf(slide.to)}
                y1={yOf(slide.before)}
                y2={yOf(slide.after)}
              />
            );
          })}
        </svg>
        {notes.map(({ side, own, answer }) => {
          const row = rows.indexOf(own.note.midi);
          const left = Math.max(0, (own.beat - from) / length);
          const width = Math.max(0.004, Math.min(1 - left, own.length / length));
          return (
            <button
              key={`${side} ${own.note.start} ${own.note.midi}`}
              type="button"
              tabIndex={-1}
              className={`bass-note of-${side}${answer === "same" ? "" : " differs"}${isHeld(side, own) ? " is-held" : ""}`}
              style={{
                top: row * rowHeight + (side === "reference" ? 2 : rowHeight / 2 + 1),
                left: `calc(44px + (100% - 44px) * ${left})`,
                width: `calc((100% - 44px) * ${width} - 1px)`,
              }}
              aria-label={`${name(side)}: ${noteWords(own, { grid: aligned.reference, kicks: kicks[side], chords })}, ${answer}`}
              aria-pressed={isHeld(side, own)}
              onClick={() => setHeld({ side, start: own.note.start, midi: own.note.midi })}
            />
          );
        })}
      </div>
      <div className="bass-ruler small-text soft" aria-hidden>
        {Array.from({ length: bars.last - bars.first + 1 }, (_, i) => (
          <span key={i} style={{ left: `calc(44px + (100% - 44px) * ${(i * beatsPerBar) / length})` }}>
            {bars.first + i}
          </span>
        ))}
      </div>
      <div className="bass-tools">
        {at ? (
          <>
            <span className={`strong in-${at.side}`}>{name(at.side)}</span>
            <span className="small-text">
              {noteWords(at.own, {
                grid: aligned.reference,
                kicks: kicks[at.side],
                chords,
                restPower: powers[at.side],
              })}
              {at.answer === "same" ? "" : ` – ${answerWords(at.answer, at.side)}`}
            </span>
            <span className="choices" role="group" aria-label="Change the note">
              {tools.map(({ title, edit }) => (
                <button key={title} type="button" className="plain-button" onClick={() => apply(edit)}>
                  {title}
                </button>
              ))}
            </span>
            {at.answer === "missing" && (
              <Button size="sm" variant="quiet" onClick={() => add("version", at.own.note.midi, at.own.beat)}>
                Yours has it
              </Button>
            )}
          </>
        ) : (
          <span className="small-text soft">
            {notes.length === 0 &&
              `No bass notes were heard in ${bars.first === bars.last ? `bar ${bars.first}` : `bars ${bars.first} to ${bars.last}`}: select others above. `}
            Above each line the reference, below it yours; pale notes answer each other
            {notes.some(({ own }) => own.note.slide) && ", slanting lines are slides"}. Press a note to see
            what it is and put it right; double-click an empty place to add one.
          </span>
        )}
      </div>
    </section>
  );
}

const tools: readonly { title: string; edit: NoteEdit }[] = [
  { title: "up", edit: { kind: "pitch", by: 1 } },
  { title: "down", edit: { kind: "pitch", by: -1 } },
  { title: "octave up", edit: { kind: "pitch", by: 12 } },
  { title: "octave down", edit: { kind: "pitch", by: -12 } },
  { title: "earlier", edit: { kind: "move", by: -sixteenth } },
  { title: "later", edit: { kind: "move", by: sixteenth } },
  { title: "shorter", edit: { kind: "length", by: -sixteenth } },
  { title: "longer", edit: { kind: "length", by: sixteenth } },
  { title: "remove", edit: { kind: "away" } },
];

const answerWords = (answer: BassLines["pairs"][number]["answer"], side: Side): string =>
  ({
    same: "",
    "another octave": "the other side plays it in another octave",
    "another pitch": "the other side plays another note here",
    missing: "yours has no note here",
    extra: side === "version" ? "the reference has no note here" : "",
  })[answer];

function emptyRows(below: number, count: number): number[] {
  return Array.from({ length: Math.max(0, count) }, (_, i) => below - 1 - i);
}

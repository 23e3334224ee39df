"use client";

import { useState } from "react";
import { Button } from "react-bootstrap";
import { fixed, signed } from "@/models/format";
import { fastestTyped, slowestTyped } from "@/core/grid/correction";
import type { IntendedChanges } from "@/core/match";
import { sameTempo } from "@/listening/ListeningBar";
import { useEdits, useStudy } from "../study/StudyContext";
import type { GridSide } from "@/models/grid";

/** What is different on purpose: it is compensated and does not lower the match. */
export function Intended({ reference, version }: { reference: GridSide | null; version: GridSide | null }) {
  const { study, version: track, alignments } = useStudy();
  const { editStudy } = useEdits();
  const [wrong, setWrong] = useState<string | null>(null);
  const { intended } = study;
  const set = (next: Partial<IntendedChanges>, label: string) => {
    setWrong(null);
    editStudy(label, { intended: { ...intended, drums: [...(intended.drums ?? [])], ...next } });
  };
  const found = track ? alignments[track.id]?.alignment : null;
  const a = reference?.grid?.bpm;
  const b = version?.grid?.bpm;
  const offers: { label: string; take(): void }[] = [];
  if (a && b && !sameTempo(b / a) && intended.bpm === null) {
    const bpm = Math.round(b * 100) / 100;
    offers.push({
      label: `Keep ${fixed(bpm, 2)} BPM`,
      take: () => set({ bpm }, `${fixed(bpm, 2)} BPM marked as intended`),
    });
  }
  if (found?.semitones && intended.semitones !== found.semitones) {
    const { semitones } = found;
    offers.push({
      label: `Keep ${signed(semitones, 0)} semitones`,
      take: () => set({ semitones }, `${signed(semitones, 0)} semitones marked as intended`),
    });
  }
  return (
    <section className="stacked" aria-label="Intended differences">
      <h2>Intended differences</h2>
      {offers.length > 0 && (
        <div className="d-flex gap-2 flex-wrap">
          {offers.map(({ label, take }) => (
            <Button key={label} size="sm" variant="quiet" onClick={take}>
              {label}
            </Button>
          ))}
        </div>
      )}
      <div className="field-pair">
        <label className="field">
          My tempo, BPM
          <input
            key={intended.bpm ?? "reference"}
            className="form-control form-control-sm"
            inputMode="decimal"
            placeholder="Same as reference"
            defaultValue={intended.bpm === null ? "" : intended.bpm}
            onKeyDown={(event) => {
              if (event.key === "Enter") event.currentTarget.blur();
            }}
            onBlur={(event) => {
              const text = event.target.value.trim().replace(",", ".");
              const bpm = text === "" ? null : Number(text);
              if (bpm === intended.bpm) return;
              if (bpm !== null && !(bpm >= slowestTyped && bpm <= fastestTyped)) {
                setWrong(`Enter a tempo from ${slowestTyped} to ${fastestTyped} BPM.`);
                return;
              }
              set(
                { bpm },
                bpm === null
                  ? "Reference tempo marked as intended"
                  : `${fixed(bpm, 2)} BPM marked as intended`,
              );
            }}
          />
        </label>
        <label className="field">
          Transposed by, semitones
          <input
            key={intended.semitones}
            className="form-control form-control-sm"
            type="number"
            min={-24}
            max={24}
            step={1}
            defaultValue={intended.semitones}
            onKeyDown={(event) => {
              if (event.key === "Enter") event.currentTarget.blur();
            }}
            onBlur={(event) => {
              const semitones = event.target.valueAsNumber;
              if (semitones === intended.semitones) return;
              if (!Number.isInteger(semitones) || Math.abs(semitones) > 24) {
                setWrong("Enter a whole number from −24 to 24.");
                return;
              }
              set(
                { semitones },
                semitones === 0
                  ? "Reference key marked as intended"
                  : `${signed(semitones, 0)} semitones marked as intended`,
              );
            }}
          />
        </label>
      </div>
      {wrong && (
        <p className="small-text needs-attention m-0" role="alert">
          {wrong}
        </p>
      )}
      <p className="small-text soft m-0">
        {found && found.semitones !== null && found.semitones !== 0
          ? `Detected: ${signed(found.semitones, 0)} semitones from the reference. `
          : ""}
        Intended differences don’t lower the match.
      </p>
    </section>
  );
}

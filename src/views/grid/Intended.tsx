"use client";

import { useState } from "react";
import { Button } from "react-bootstrap";
import { fixed, signed } from "@/components/format";
import { useNotices } from "@/components/Notices";
import { fastestTyped, slowestTyped } from "@/core/grid/correction";
import type { IntendedChanges } from "@/core/match";
import { sameTempo } from "@/listening/ListeningBar";
import { useStudy } from "../study/StudyContext";
import type { GridSide } from "./model";

/** What is different on purpose: it is compensated and costs nothing in the match. */
export function Intended({ reference, version }: { reference: GridSide | null; version: GridSide | null }) {
  const { study, version: track, lineUps, change } = useStudy();
  const { say } = useNotices();
  const [wrong, setWrong] = useState<string | null>(null);
  const { intended } = study;
  const address = `/api/studies/${study.id}`;
  const set = async (next: IntendedChanges, what: string) => {
    setWrong(null);
    if (await change("PATCH", address, { intended: next })) {
      say(`${what} The match was worked out again.`, () => void change("PATCH", address, { intended }));
    }
  };
  const found = track ? lineUps[track.id]?.alignment : null;
  const a = reference?.grid?.bpm;
  const b = version?.grid?.bpm;
  const offers: { says: string; take(): void }[] = [];
  if (a && b && !sameTempo(b / a) && intended.bpm === null) {
    const bpm = Math.round(b * 100) / 100;
    offers.push({
      says: `${fixed(bpm, 2)} BPM is meant`,
      take: () => void set({ ...intended, bpm }, `${fixed(bpm, 2)} BPM is meant.`),
    });
  }
  if (found?.semitones && intended.semitones !== found.semitones) {
    const { semitones } = found;
    offers.push({
      says: `${signed(semitones, 0)} semitones are meant`,
      take: () => void set({ ...intended, semitones }, `${signed(semitones, 0)} semitones are meant.`),
    });
  }
  return (
    <section className="stacked" aria-label="Meant differently">
      <h2>Different on purpose</h2>
      {offers.length > 0 && (
        <div className="d-flex gap-2 flex-wrap">
          {offers.map(({ says, take }) => (
            <Button key={says} size="sm" variant="quiet" onClick={take}>
              {says}
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
            placeholder="the reference's"
            defaultValue={intended.bpm === null ? "" : intended.bpm}
            onKeyDown={(event) => {
              if (event.key === "Enter") event.currentTarget.blur();
            }}
            onBlur={(event) => {
              const text = event.target.value.trim().replace(",", ".");
              const bpm = text === "" ? null : Number(text);
              if (bpm === intended.bpm) return;
              if (bpm !== null && !(bpm >= slowestTyped && bpm <= fastestTyped)) {
                setWrong(`A tempo from ${slowestTyped} to ${fastestTyped} BPM.`);
                return;
              }
              void set(
                { ...intended, bpm },
                bpm === null ? "The reference's tempo is meant." : `${fixed(bpm, 2)} BPM is meant.`,
              );
            }}
          />
        </label>
        <label className="field">
          Shifted by, semitones
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
                setWrong("A whole number from −24 to 24.");
                return;
              }
              void set(
                { ...intended, semitones },
                semitones === 0
                  ? "The reference's key is meant."
                  : `${signed(semitones, 0)} semitones are meant.`,
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
          ? `Lined up best ${signed(found.semitones, 0)} semitones from the reference. `
          : ""}
        What is meant costs nothing in the match.
      </p>
    </section>
  );
}

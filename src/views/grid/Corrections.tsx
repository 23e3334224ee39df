"use client";

import { useEffect, useRef, useState } from "react";
import { Button } from "react-bootstrap";
import { z } from "zod";
import { fixed, signed } from "@/models/format";
import { send, sentenceOf } from "@/components/requests";
import { useNotices } from "@/components/Notices";
import {
  fastestTyped,
  isEmptyCorrection,
  offeredMetres,
  slowestTyped,
  type GridCorrection,
} from "@/core/grid/correction";
import { metreName } from "@/core/grid/grid";
import { useEdits } from "../study/StudyContext";
import type { GridSide } from "@/models/grid";
import { tappedBpm, tapsKept } from "./tapping";

const nudges = [-10, -5, -1, 1, 5, 10];

/** How an alternative tempo relates to the one that counts. */
function relation(bpm: number, counted: number): string {
  const ratio = bpm / counted;
  const known: [number, string][] = [
    [0.5, "half"],
    [2, "double"],
    [1 / 3, "a third"],
    [3, "triple"],
    [2 / 3, "two thirds"],
    [1.5, "three halves"],
    [0.75, "three quarters"],
    [4 / 3, "four thirds"],
  ];
  return known.find(([r]) => Math.abs(ratio / r - 1) < 0.01)?.[1] ?? "";
}

/** Readings of bar 1 that are less probable are not offered. */
const leastShown = 0.05;

/** How much later or earlier bars begin, in beats. */
function beatsInWords(beats: number): string {
  if (beats === 0) return "as detected";
  const size = Math.abs(beats);
  const whole = Math.floor(size + 0.01);
  const rest = size - whole;
  const part = rest < 0.02 ? "" : rest < 0.4 ? "⅓" : rest < 0.6 ? "½" : "⅔";
  const count = `${whole > 0 ? whole : ""}${part}`;
  return `${count} beat${whole > 1 || (whole === 1 && part) ? "s" : ""} ${beats > 0 ? "later" : "earlier"}`;
}

/** Everything by which a grid can be put right; each change shows at once everywhere and can be undone. */
export function Corrections({
  side,
  playhead,
  onBarOne,
}: {
  side: GridSide;
  /** Seconds of this side's file at the playhead. */
  playhead(): number;
  onBarOne(): void;
}) {
  const { editItem } = useEdits();
  const { say } = useNotices();
  const { correction, grid, measured, tempo } = side;
  const correct = (label: string, change: (now: GridCorrection) => GridCorrection) =>
    editItem(side.itemId, label, ({ grid: now }) => ({ grid: change(now) }));
  const sharpen = async (bpm: number) => {
    const found = await send(
      "GET",
      `/api/items/${side.itemId}/tempo?near=${bpm}`,
      undefined,
      z.object({ bpm: z.number() }),
    );
    if (!found.ok) return say(sentenceOf(found.refusal));
    correct(`Tempo tapped: ${fixed(found.value.bpm, 2)} BPM`, (now) => ({ ...now, bpm: found.value.bpm }));
  };

  const counted = grid?.bpm ?? null;
  const candidates = [
    ...(tempo ? [{ bpm: tempo.bpm, confidence: tempo.confidence }, ...tempo.alternatives] : []),
  ];
  const folds =
    counted === null
      ? []
      : [counted / 2, counted * 2].filter(
          (bpm) =>
            bpm >= slowestTyped &&
            bpm <= fastestTyped &&
            candidates.every((c) => Math.abs(c.bpm / bpm - 1) > 0.01),
        );
  const nudge = correction.nudgeSeconds ?? 0;
  // They belong to the detected tempo and metre.
  const barStarts =
    measured && correction.bpm === undefined && correction.beatsPerBar === undefined
      ? [
          { beatsLater: 0, barOneAt: undefined, confidence: measured.confidence },
          ...measured.otherBarStarts.filter(({ confidence }) => confidence >= leastShown),
        ]
      : [];
  const setTempo = (bpm: number) =>
    correct(`Tempo set to ${fixed(bpm, 2)} BPM`, (now) => ({ ...now, bpm: Math.round(bpm * 100) / 100 }));
  return (
    <div className="stacked">
      <div className="field-label">
        <span className="small-text soft">Tempo readings, by confidence</span>
        <div className="readings">
          {candidates.map(({ bpm, confidence }) => (
            <button
              key={bpm}
              type="button"
              className="plain-button reading"
              aria-pressed={counted !== null && Math.abs(bpm / counted - 1) < 0.001}
              onClick={() => setTempo(bpm)}
            >
              <span>{fixed(bpm, 2)}</span>
              <span className="soft small-text">
                {counted === null ? "" : relation(bpm, counted)} {Math.round(100 * confidence)} %
              </span>
            </button>
          ))}
          {folds.map((bpm) => (
            <button key={bpm} type="button" className="plain-button reading" onClick={() => setTempo(bpm)}>
              <span>{fixed(bpm, 2)}</span>
              <span className="soft small-text">{relation(bpm, counted!)}</span>
            </button>
          ))}
        </div>
      </div>
      {barStarts.length > 1 && (
        <div className="field-label">
          <span className="small-text soft">Bar 1 readings, by confidence</span>
          <div className="readings">
            {barStarts.map(({ beatsLater, barOneAt, confidence }) => (
              <button
                key={beatsLater}
                type="button"
                className="plain-button reading"
                aria-pressed={correction.barOneAt === barOneAt}
                onClick={() =>
                  correct(
                    barOneAt === undefined
                      ? "Bar 1 as detected"
                      : `Bar 1 moved: ${beatsInWords(beatsLater)} than detected`,
                    (now) => ({ ...now, barOneAt }),
                  )
                }
              >
                <span>{beatsInWords(beatsLater)}</span>
                <span className="soft small-text">{Math.round(100 * confidence)} %</span>
              </button>
            ))}
          </div>
        </div>
      )}
      <div className="field-pair">
        <TempoField key={counted ?? 0} bpm={counted} onSet={(bpm) => setTempo(bpm)} />
        <TapButton onTapped={(bpm) => void sharpen(bpm)} />
      </div>
      <div className="field-label">
        <span className="small-text soft">
          Nudge, ms{nudge === 0 ? "" : ` (${signed(1000 * nudge, 0)} so far)`}
        </span>
        <div className="nudges" role="group" aria-label="Nudge the grid">
          {nudges.map((ms) => (
            <button
              key={ms}
              type="button"
              className="btn btn-quiet btn-sm"
              aria-label={`${Math.abs(ms)} ms ${ms < 0 ? "earlier" : "later"}`}
              onClick={() =>
                correct(`Grid nudged by ${signed(ms, 0)} ms`, (now) => ({
                  ...now,
                  nudgeSeconds: Math.round(1e6 * ((now.nudgeSeconds ?? 0) + ms / 1000)) / 1e6,
                }))
              }
            >
              {signed(ms, 0)}
            </button>
          ))}
        </div>
      </div>
      <div className="field-pair">
        <label className="field">
          Metre
          <select
            className="form-select form-select-sm"
            value={grid?.beatsPerBar ?? 4}
            onChange={(event) =>
              correct(`Metre set to ${metreName(Number(event.target.value))}`, (now) => ({
                ...now,
                beatsPerBar: Number(event.target.value),
              }))
            }
          >
            {offeredMetres.map((beats) => (
              <option key={beats} value={beats}>
                {metreName(beats)}
              </option>
            ))}
          </select>
        </label>
        <label className="field">
          Beats
          <select
            className="form-select form-select-sm"
            value={grid?.steady === false ? "following" : "steady"}
            disabled={!measured}
            onChange={(event) =>
              correct(
                event.target.value === "steady" ? "Beats set to one exact tempo" : "Beats follow the player",
                (now) => ({ ...now, manner: event.target.value as "steady" | "following" }),
              )
            }
          >
            <option value="steady">Exact tempo</option>
            <option value="following">Follow the player</option>
          </select>
        </label>
      </div>
      <div className="d-flex gap-2 flex-wrap">
        <Button
          size="sm"
          variant="quiet"
          title="Bar 1 starts at the playhead"
          onClick={() => {
            const at = playhead();
            correct("Bar 1 set at the playhead", (now) => ({
              ...now,
              barOneAt: Math.round(1e4 * (at - (now.nudgeSeconds ?? 0))) / 1e4,
            }));
            onBarOne();
          }}
        >
          Bar 1 here
        </Button>
        <Button
          size="sm"
          variant="quiet"
          disabled={isEmptyCorrection(correction)}
          onClick={() => correct("Grid reset to detected", () => ({}))}
        >
          Reset to detected
        </Button>
      </div>
      <p className="small-text soft m-0">
        {isEmptyCorrection(correction) ? "As detected." : "Edited by you. The detected grid is kept."}
      </p>
    </div>
  );
}

function TempoField({ bpm, onSet }: { bpm: number | null; onSet(bpm: number): void }) {
  const [wrong, setWrong] = useState(false);
  return (
    <label className="field">
      Tempo, BPM
      <input
        className="form-control form-control-sm"
        inputMode="decimal"
        defaultValue={bpm === null ? "" : bpm.toFixed(2)}
        aria-invalid={wrong}
        onKeyDown={(event) => {
          if (event.key === "Enter") event.currentTarget.blur();
        }}
        onBlur={(event) => {
          const value = Number(event.target.value.replace(",", "."));
          const fits = value >= slowestTyped && value <= fastestTyped;
          setWrong(!fits && event.target.value !== "");
          if (fits && (bpm === null || Math.abs(value - Number(bpm.toFixed(2))) > 1e-9)) onSet(value);
        }}
      />
      {wrong && (
        <span className="needs-attention" role="alert">
          From {slowestTyped} to {fastestTyped} BPM.
        </span>
      )}
    </label>
  );
}

/** Tapped with the pointer or, while it has the keyboard, with the space bar. */
function TapButton({ onTapped }: { onTapped(bpm: number): void }) {
  const [taps, setTaps] = useState<number[]>([]);
  const bpm = tappedBpm(taps);
  const latest = useRef({ bpm, onTapped });
  useEffect(() => {
    latest.current = { bpm, onTapped };
  });
  useEffect(() => {
    if (taps.length < 4) return;
    // Taken once tapping has stopped.
    const timer = setTimeout(() => {
      if (latest.current.bpm !== null) latest.current.onTapped(latest.current.bpm);
      setTaps([]);
    }, 1600);
    return () => clearTimeout(timer);
  }, [taps]);
  const tap = () => setTaps((all) => tapsKept(all, performance.now() / 1000));
  return (
    <div className="field">
      <span>Tap along</span>
      <button
        type="button"
        className="btn btn-quiet btn-sm tap-button"
        onPointerDown={(event) => {
          event.preventDefault();
          event.currentTarget.focus();
          tap();
        }}
        onPointerUp={(event) => event.stopPropagation()}
        onKeyDown={(event) => {
          if (event.key !== " " && event.key !== "Enter") return;
          event.preventDefault();
          if (!event.repeat) tap();
        }}
      >
        {bpm === null
          ? taps.length > 0
            ? `${4 - Math.min(3, taps.length)} more`
            : "Tap, or Space"
          : `${fixed(bpm, 1)} BPM`}
      </button>
    </div>
  );
}

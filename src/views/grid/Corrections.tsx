"use client";

import { useEffect, useRef, useState } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import { Button } from "react-bootstrap";
import { fixed, signed } from "@/components/format";
import { useNotices } from "@/components/Notices";
import {
  fastestTyped,
  isEmptyCorrection,
  offeredMetres,
  slowestTyped,
  type GridCorrection,
} from "@/core/grid/correction";
import { metreName } from "@/core/grid/grid";
import { useStudy } from "../study/StudyContext";
import type { GridSide } from "./model";
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
  const { change } = useStudy();
  const { say } = useNotices();
  const { correction, grid, measured, tempo } = side;
  const address = `/api/grids/${side.placeId}`;
  const undo = () => void change("DELETE", address);
  const correct = async (next: GridCorrection, what: string, tapped = false) => {
    if (await change("POST", address, { correction: next, tapped })) say(`${what}.`, undo);
  };
  useHotkeys("mod+shift+z", undo, { enabled: side.correctionsMade > 0 }, [side]);

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
  const setTempo = (bpm: number, tapped = false) =>
    void correct(
      { ...correction, bpm: Math.round(bpm * 100) / 100 },
      tapped
        ? `Tapped about ${fixed(bpm, 0)} BPM; the onsets nearby say it exactly`
        : `${side.name} is at ${fixed(bpm, 2)} BPM now`,
      tapped,
    );
  return (
    <div className="stacked">
      <div className="field-label">
        <span className="small-text soft">Readings of the tempo, how sure</span>
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
      <div className="field-pair">
        <TempoField key={counted ?? 0} bpm={counted} onSet={(bpm) => setTempo(bpm)} />
        <TapButton onTapped={(bpm) => setTempo(bpm, true)} />
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
                void correct(
                  { ...correction, nudgeSeconds: Math.round(1e6 * (nudge + ms / 1000)) / 1e6 },
                  `The grid was moved by ${signed(ms, 0)} ms`,
                )
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
              void correct(
                { ...correction, beatsPerBar: Number(event.target.value) },
                `The metre is ${metreName(Number(event.target.value))} now`,
              )
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
              void correct(
                { ...correction, manner: event.target.value as "steady" | "following" },
                event.target.value === "steady"
                  ? "Beats lie on one tempo now"
                  : "Beats follow the player now",
              )
            }
          >
            <option value="steady">exact tempo</option>
            <option value="following">follow player</option>
          </select>
        </label>
      </div>
      <div className="d-flex gap-2 flex-wrap">
        <Button
          size="sm"
          variant="quiet"
          title="Bar 1 begins at the playhead"
          onClick={() => {
            void correct(
              { ...correction, barOneAt: Math.round(1e4 * (playhead() - nudge)) / 1e4 },
              "Bar 1 begins at the playhead now",
            );
            onBarOne();
          }}
        >
          Bar 1 here
        </Button>
        <Button size="sm" variant="quiet" disabled={side.correctionsMade === 0} onClick={undo}>
          Undo
        </Button>
        <Button
          size="sm"
          variant="quiet"
          disabled={isEmptyCorrection(correction)}
          onClick={() => void correct({}, "The grid is as measured again")}
        >
          As measured
        </Button>
      </div>
      <p className="small-text soft m-0">
        {isEmptyCorrection(correction)
          ? "Nothing is corrected; this is what was measured."
          : "Corrected by you; the measurement is kept beside it."}
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

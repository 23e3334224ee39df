"use client";

import { asType, moveLimits, moveTypes, type EqualiserMove, type KeptMove } from "@/core/equaliser";
import { NumberField } from "@/components/NumberField";
import { moveDetail, moveTitle, moveTypeNames } from "@/models/equaliser";
import { fixed } from "@/models/format";

/** A gain of less than this is not shown. */
const leastWorth = 0.05;

/** The moves in words: each with a switch and what it is worth; the chosen one with its numbers. */
export function MoveList({
  moves,
  worth,
  chosen,
  onChoose,
  onSwitch,
  onChange,
  onRemove,
}: {
  moves: readonly KeptMove[];
  /** dB of gap that each closes. */
  worth: readonly number[];
  chosen: number | null;
  onChoose(index: number | null): void;
  onSwitch(index: number): void;
  onChange(index: number, next: EqualiserMove): void;
  onRemove(index: number): void;
}) {
  return (
    <ol className="move-list" aria-label="Equaliser moves">
      {moves.map((move, i) => (
        <li key={i}>
          <div className="move-head">
            <button
              type="button"
              role="switch"
              className="move-switch"
              aria-checked={move.on}
              aria-label={`Move ${i + 1} on`}
              onClick={() => onSwitch(i)}
            />
            <button
              type="button"
              className={`plain-button title${move.on ? "" : " soft"}`}
              aria-expanded={chosen === i}
              onClick={() => onChoose(chosen === i ? null : i)}
            >
              {i + 1} · {moveTitle(move)}
            </button>
            <span className="points">
              {move.on && worth[i]! >= leastWorth ? `−${fixed(worth[i])} dB` : ""}
            </span>
          </div>
          <p className="small-text soft m-0">{moveDetail(move)}</p>
          {chosen === i && (
            <div className="move-numbers small-text">
              <label>
                Type
                <select
                  className="form-select form-select-sm"
                  value={move.type}
                  aria-label={`Type of move ${i + 1}`}
                  onChange={({ target }) => onChange(i, asType(move, target.value as EqualiserMove["type"]))}
                >
                  {moveTypes.map((type) => (
                    <option key={type} value={type}>
                      {moveTypeNames[type]}
                    </option>
                  ))}
                </select>
              </label>
              <label>
                Hz
                <NumberField
                  value={move.hz}
                  label={`Frequency of move ${i + 1}, Hz`}
                  min={moveLimits.lowestHz}
                  max={moveLimits.highestHz}
                  step={1}
                  onSave={(hz) => onChange(i, { ...move, hz })}
                />
              </label>
              {move.type !== "lowCut" && move.type !== "highCut" && (
                <label>
                  dB
                  <NumberField
                    value={move.gainDb}
                    label={`Gain of move ${i + 1}, dB`}
                    min={-moveLimits.mostGainDb}
                    max={moveLimits.mostGainDb}
                    step={0.1}
                    onSave={(gainDb) => onChange(i, { ...move, gainDb })}
                  />
                </label>
              )}
              {move.type === "peak" && (
                <label>
                  Q
                  <NumberField
                    value={move.q}
                    label={`Q of move ${i + 1}`}
                    min={moveLimits.leastQ}
                    max={moveLimits.mostQ}
                    step={0.1}
                    onSave={(q) => onChange(i, { ...move, q })}
                  />
                </label>
              )}
              <button type="button" className="plain-button underlined" onClick={() => onRemove(i)}>
                Remove
              </button>
            </div>
          )}
        </li>
      ))}
    </ol>
  );
}

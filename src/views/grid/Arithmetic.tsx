"use client";

import { useState } from "react";
import { fixed, signed } from "@/models/format";
import { noteSeconds, semitonesOfRatio } from "@/core/units";
import type { GridSide } from "@/models/grid";

const values: { name: string; value: number }[] = [
  { name: "1/4", value: 1 / 4 },
  { name: "1/8", value: 1 / 8 },
  { name: "1/16", value: 1 / 16 },
  { name: "1/32", value: 1 / 32 },
];

/** The sums that people do by hand: from tempo to tempo, and note lengths in milliseconds. */
export function Arithmetic({ reference, version }: { reference: GridSide | null; version: GridSide | null }) {
  const own = reference?.grid?.bpm ?? version?.grid?.bpm ?? 120;
  const [from, setFrom] = useState(() => round2(version?.grid?.bpm ?? own));
  const [to, setTo] = useState(() => round2(own));
  const ratio = to / from;
  const fits = Number.isFinite(ratio) && ratio > 0;
  const field = (label: string, value: number, set: (bpm: number) => void) => (
    <label className="field">
      {label}
      <input
        className="form-control form-control-sm"
        type="number"
        min={20}
        max={400}
        step="any"
        value={Number.isFinite(value) ? value : ""}
        onChange={(event) => set(event.target.valueAsNumber)}
      />
    </label>
  );
  return (
    <section aria-label="Tempo arithmetic">
      <h2 className="mb-2">From tempo to tempo</h2>
      <div className="field-pair">
        {field("From, BPM", from, setFrom)}
        {field("To, BPM", to, setTo)}
      </div>
      <p className="small-text mt-2 mb-3" data-testid="tempo-sum">
        {fits ? (
          <>
            Play at <span className="strong">{fixed(100 * ratio, 2)} %</span> of the speed; stretched, it
            becomes <span className="strong">{fixed(100 / ratio, 2)} %</span> as long. Repitched instead, it
            sounds <span className="strong">{signed(semitonesOfRatio(ratio), 2)} semitones</span>{" "}
            {ratio >= 1 ? "higher" : "lower"}.
          </>
        ) : (
          "Give two tempi."
        )}
      </p>
      <h2 className="mb-1">Note lengths at {fits ? fixed(to, 2) : "–"} BPM, ms</h2>
      <table className="ruled">
        <thead>
          <tr>
            <th>Note</th>
            <th className="number">plain</th>
            <th className="number">dotted</th>
            <th className="number">triplet</th>
          </tr>
        </thead>
        <tbody>
          {values.map(({ name, value }) => (
            <tr key={name}>
              <td>{name}</td>
              {[1, 3 / 2, 2 / 3].map((factor) => (
                <td key={factor} className="number">
                  {fits ? fixed(1000 * noteSeconds(to, value * factor), 1) : "–"}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

const round2 = (value: number) => Math.round(value * 100) / 100;

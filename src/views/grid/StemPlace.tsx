"use client";

import { useState } from "react";
import { fixed, signed } from "@/models/format";
import { useEdits } from "../study/StudyContext";
import type { GridSide } from "@/models/grid";

/** Where a stem lies in its full track: as measured, or as the producer says. */
export function StemPlace({ side }: { side: GridSide }) {
  const { editItem } = useEdits();
  const [wrong, setWrong] = useState(false);
  const { measuredOffset, offsetSeconds } = side.stem!;
  const set = (seconds: number | null) =>
    editItem(side.itemId, seconds === null ? "Stem position reset to detected" : "Stem moved", () => ({
      offsetSeconds: seconds,
    }));
  const used = offsetSeconds ?? measuredOffset?.seconds ?? null;
  return (
    <section className="stacked" aria-label="Position of the stem">
      <h2>Position in the full track</h2>
      <p className="small-text soft m-0">
        {measuredOffset === null
          ? "Being aligned with its full track."
          : `Measured: ${signed(1000 * measuredOffset.seconds, 1)} ms, ${Math.round(100 * measuredOffset.confidence)} % confidence. Positive: the stem starts later in the track.`}
      </p>
      <label className="field">
        Offset, ms
        <input
          key={used ?? 0}
          className="form-control form-control-sm"
          inputMode="decimal"
          defaultValue={used === null ? "" : fixed(1000 * used, 1).replace("−", "-")}
          aria-invalid={wrong}
          onKeyDown={(event) => {
            if (event.key === "Enter") event.currentTarget.blur();
          }}
          onBlur={(event) => {
            const value = Number(event.target.value.replace(",", ".").replace("−", "-"));
            setWrong(!Number.isFinite(value));
            if (Number.isFinite(value) && (used === null || Math.abs(value / 1000 - used) > 5e-5))
              set(value / 1000);
          }}
        />
        {wrong && (
          <span className="needs-attention" role="alert">
            Enter a number of milliseconds.
          </span>
        )}
      </label>
      {offsetSeconds !== null && (
        <button type="button" className="plain-button underlined small-text" onClick={() => set(null)}>
          Reset to detected
        </button>
      )}
    </section>
  );
}

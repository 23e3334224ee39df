"use client";

import { useState } from "react";
import { fixed, signed } from "@/components/format";
import { useNotices } from "@/components/Notices";
import { useStudy } from "../study/StudyContext";
import type { GridSide } from "./model";

/** Where a stem lies in its full track: as measured, or as the producer says. */
export function StemPlace({ side }: { side: GridSide }) {
  const { change } = useStudy();
  const { say } = useNotices();
  const [wrong, setWrong] = useState(false);
  const { measuredOffset, offsetSeconds } = side.stem!;
  const address = `/api/stems/${side.placeId}`;
  const set = async (seconds: number | null) => {
    if (await change("PATCH", address, { offsetSeconds: seconds })) {
      say(
        seconds === null ? "The stem lies where it was measured." : "The stem was moved.",
        () => void change("PATCH", address, { offsetSeconds }),
      );
    }
  };
  const used = offsetSeconds ?? measuredOffset?.seconds ?? null;
  return (
    <section className="stacked" aria-label="Place of the stem">
      <h2>Place in the full track</h2>
      <p className="small-text soft m-0">
        {measuredOffset === null
          ? "Being lined up with its full track."
          : `Measured: ${signed(1000 * measuredOffset.seconds, 1)} ms, ${Math.round(100 * measuredOffset.confidence)} % sure. Positive means that the stem begins later in the track.`}
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
              void set(value / 1000);
          }}
        />
        {wrong && (
          <span className="needs-attention" role="alert">
            A number of milliseconds.
          </span>
        )}
      </label>
      {offsetSeconds !== null && (
        <button type="button" className="plain-button underlined small-text" onClick={() => void set(null)}>
          As measured
        </button>
      )}
    </section>
  );
}

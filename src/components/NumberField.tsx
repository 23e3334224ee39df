"use client";

import { useState } from "react";

/** A number that is saved as it is changed and never loses the keyboard while it is typed. */
export function NumberField({
  value,
  label,
  min,
  max,
  step,
  onSave,
}: {
  value: number;
  label: string;
  min: number;
  max: number;
  step: number;
  onSave(next: number): void;
}) {
  // What is typed stays as typed until the field is left.
  const [draft, setDraft] = useState<string | null>(null);
  const number = draft === null ? value : Number(draft);
  const isValid = draft === null || (draft.trim() !== "" && number >= min && number <= max);
  return (
    <span className="d-inline-flex align-items-center gap-2">
      <input
        type="number"
        className="form-control form-control-sm"
        style={{ width: 76 }}
        aria-label={label}
        aria-invalid={!isValid}
        min={min}
        max={max}
        step={step}
        value={draft ?? value}
        onChange={({ target }) => {
          setDraft(target.value);
          const next = target.valueAsNumber;
          if (Number.isFinite(next) && next >= min && next <= max && next !== value) onSave(next);
        }}
        onBlur={() => setDraft(null)}
        onKeyDown={(event) => {
          if (event.key === "Enter") event.currentTarget.blur();
        }}
      />
      {!isValid && (
        <span className="needs-attention small-text" role="alert">
          {min} to {max}
        </span>
      )}
    </span>
  );
}

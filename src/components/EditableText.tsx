"use client";

import { useCallback, useRef, useState } from "react";

/** Text that becomes a field when pressed; Enter or leaving saves, Escape keeps the old text. */
export function EditableText({
  value,
  label,
  empty,
  className = "",
  longest = 500,
  required,
  editing,
  list,
  onClose,
  onSave,
}: {
  value: string;
  label: string;
  /** Shown where there is no text yet. */
  empty: string;
  className?: string;
  longest?: number;
  required?: boolean;
  /** Begins as a field. */
  editing?: boolean;
  /** Id of a list of suggestions. */
  list?: string;
  onClose?(): void;
  onSave(next: string): void;
}) {
  const [draft, setDraft] = useState<string | null>(editing ? value : null);
  // Who went in by keys goes on from here by keys.
  const returns = useRef(false);
  const takeFocusBack = useCallback((button: HTMLButtonElement | null) => {
    if (button && returns.current) button.focus();
    returns.current = false;
  }, []);
  if (draft === null) {
    return (
      <button
        ref={takeFocusBack}
        type="button"
        className={`plain-button ${className}${value ? "" : " soft"}`}
        title={`Change: ${label}`}
        onClick={() => setDraft(value)}
      >
        {value || empty}
      </button>
    );
  }
  const close = () => {
    setDraft(null);
    onClose?.();
  };
  const finish = () => {
    const next = draft.trim();
    close();
    if (next !== value && !(required && next === "")) onSave(next);
  };
  return (
    <input
      className="form-control form-control-sm"
      aria-label={label}
      autoFocus
      maxLength={longest}
      list={list}
      value={draft}
      onChange={(event) => setDraft(event.target.value)}
      onBlur={finish}
      onKeyDown={(event) => {
        if (event.key !== "Enter" && event.key !== "Escape") return;
        // The same key must not press the button that comes back.
        event.preventDefault();
        returns.current = true;
        if (event.key === "Enter") finish();
        else close();
      }}
    />
  );
}

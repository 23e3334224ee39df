"use client";

import { useRef } from "react";

/** A line of text that opens the choice of a file. */
export function FilePick({
  text,
  label,
  accept,
  onFile,
}: {
  text: string;
  /** Name of the field, for those who do not see it. */
  label: string;
  accept: string;
  onFile(file: File): void;
}) {
  const picker = useRef<HTMLInputElement>(null);
  return (
    <>
      <button type="button" className="plain-button underlined" onClick={() => picker.current?.click()}>
        {text}
      </button>
      <input
        ref={picker}
        type="file"
        accept={accept}
        hidden
        aria-label={label}
        onChange={(event) => {
          const [file] = event.target.files ?? [];
          if (file) onFile(file);
          event.target.value = "";
        }}
      />
    </>
  );
}

"use client";

import { useRef, useState, type DragEvent, type ReactNode } from "react";
import { Button } from "react-bootstrap";

/** What file choosers offer; dropping accepts anything and lets the server judge. */
export const accepted = "audio/*,.wav,.aif,.aiff,.flac,.mp3,.ogg,.oga,.opus,.m4a,.aac";

interface DropAreaProps {
  title: string;
  children?: ReactNode;
  /** Whose ink the area takes while files hang over it. */
  forReference?: boolean;
  several?: boolean;
  action: string;
  onFiles(files: File[]): void;
}

/** A place to drop files or choose them. */
export function DropArea({ title, children, forReference, several, action, onFiles }: DropAreaProps) {
  const [over, setOver] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  const take = (list: FileList | null) => {
    const files = [...(list ?? [])];
    if (files.length > 0) onFiles(several ? files : files.slice(0, 1));
  };
  const hang = (event: DragEvent) => {
    event.preventDefault();
    setOver(true);
  };
  return (
    <section
      className={`drop-area${over ? " is-over" : ""}${forReference ? " for-reference" : ""}`}
      aria-label={title}
      onDragEnter={hang}
      onDragOver={hang}
      onDragLeave={() => setOver(false)}
      onDrop={(event) => {
        event.preventDefault();
        event.stopPropagation();
        setOver(false);
        take(event.dataTransfer.files);
      }}
    >
      <h2>{title}</h2>
      {children}
      <Button className="mt-2" variant="primary" onClick={() => input.current?.click()}>
        {action}
      </Button>
      <input
        ref={input}
        type="file"
        hidden
        accept={accepted}
        multiple={several}
        aria-label={action}
        onChange={(event) => {
          take(event.target.files);
          event.target.value = "";
        }}
      />
    </section>
  );
}

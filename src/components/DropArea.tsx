"use client";

import { useRef, useState, type DragEvent, type ReactNode } from "react";
import { Button } from "react-bootstrap";

/** What file choosers offer; dropping accepts anything and lets the server judge. */
export const accepted = "audio/*,.wav,.aif,.aiff,.flac,.mp3,.ogg,.oga,.opus,.m4a,.aac";

/** Files in a folder that was dropped, in the order of their names. */
async function filesIn(entry: FileSystemEntry): Promise<File[]> {
  if (entry.isFile)
    return new Promise((resolve) =>
      (entry as FileSystemFileEntry).file(
        (file) => resolve([file]),
        () => resolve([]),
      ),
    );
  const reader = (entry as FileSystemDirectoryEntry).createReader();
  const entries: FileSystemEntry[] = [];
  // A reader tells a part at a time.
  for (;;) {
    const more = await new Promise<FileSystemEntry[]>((resolve) =>
      reader.readEntries(resolve, () => resolve([])),
    );
    if (more.length === 0) break;
    entries.push(...more);
  }
  entries.sort((a, b) => a.name.localeCompare(b.name));
  return (await Promise.all(entries.map(filesIn))).flat();
}

/** Files of what was dropped where folders are among it, but for hidden ones. */
async function filesInAll(entries: readonly (FileSystemEntry | null)[]): Promise<File[]> {
  const all = await Promise.all(entries.map((entry) => (entry ? filesIn(entry) : [])));
  return all.flat().filter(({ name }) => !name.startsWith("."));
}

interface Drop {
  /** Whether files hang over it. */
  over: boolean;
  handlers: {
    onDragEnter(event: DragEvent): void;
    onDragOver(event: DragEvent): void;
    onDragLeave(): void;
    onDrop(event: DragEvent): void;
  };
  /** Opens the file chooser. */
  browse(): void;
  /** The chooser itself, to be rendered somewhere. */
  chooser: ReactNode;
}

function useFileDrop(
  label: string,
  several: boolean,
  onFiles: (files: File[]) => void,
  accept = accepted,
): Drop {
  const [over, setOver] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  const take = (files: File[]) => {
    if (files.length > 0) onFiles(several ? files : files.slice(0, 1));
  };
  const hang = (event: DragEvent) => {
    event.preventDefault();
    setOver(true);
  };
  return {
    over,
    handlers: {
      onDragEnter: hang,
      onDragOver: hang,
      onDragLeave: () => setOver(false),
      onDrop(event) {
        event.preventDefault();
        event.stopPropagation();
        setOver(false);
        const { items, files } = event.dataTransfer;
        const entries = [...(items ?? [])].map((item) => item.webkitGetAsEntry?.() ?? null);
        if (entries.some((entry) => entry?.isDirectory)) void filesInAll(entries).then(take);
        else take([...files]);
      },
    },
    browse: () => input.current?.click(),
    chooser: (
      <input
        ref={input}
        type="file"
        hidden
        accept={accept}
        multiple={several}
        aria-label={label}
        onChange={(event) => {
          take([...(event.target.files ?? [])]);
          event.target.value = "";
        }}
      />
    ),
  };
}

interface DropAreaProps {
  title: string;
  children?: ReactNode;
  /** Whose ink the area takes while files hang over it. */
  forReference?: boolean;
  several?: boolean;
  /** What the file chooser offers. */
  accept?: string;
  action: string;
  onFiles(files: File[]): void;
}

/** A place to drop files or choose them. */
export function DropArea({
  title,
  children,
  forReference,
  several = false,
  accept,
  action,
  onFiles,
}: DropAreaProps) {
  const { over, handlers, browse, chooser } = useFileDrop(action, several, onFiles, accept);
  return (
    <section
      className={`drop-area${over ? " is-over" : ""}${forReference ? " for-reference" : ""}`}
      aria-label={title}
      {...handlers}
    >
      <h2>{title}</h2>
      {children}
      <Button className="mt-2" variant="primary" onClick={browse}>
        {action}
      </Button>
      {chooser}
    </section>
  );
}

/** Something on a page that files can be dropped on as well; what is in it can open the chooser. */
export function FileDrop({
  label,
  onFiles,
  children,
}: {
  label: string;
  onFiles(files: File[]): void;
  children(browse: () => void): ReactNode;
}) {
  const { over, handlers, browse, chooser } = useFileDrop(label, true, onFiles);
  return (
    <div className={`file-drop${over ? " is-over" : ""}`} {...handlers}>
      {children(browse)}
      {chooser}
    </div>
  );
}

"use client";

import { useEffect, useMemo, useState } from "react";
import { Button, Modal } from "react-bootstrap";
import { countingOrder, fileRoles, guessRoles, saysItself, type FileRole } from "@/core/formats/sortFiles";
import type { SoundSketch } from "@/core/formats/soundSketch";
import { sketchFile } from "@/listening/sketchFile";

/** A file with what it is to become. */
export interface SortedFile {
  file: File;
  role: FileRole;
}

const roleNames: Record<FileRole, string> = {
  reference: "the reference",
  version: "a version",
  stem: "a stem of the reference",
  yardstick: "a track of the style",
  "leave out": "nothing: leave it out",
};

/** Files in the order of their numbers. */
const inOrder = (files: readonly File[]): File[] =>
  countingOrder(files.map(({ name }) => name)).map((i) => files[i]!);

/** Listens to files whose names do not all say what they are. @returns how many have been heard; null once all are. */
function useSketches(files: readonly File[], onHeard: (sketches: (SoundSketch | null)[]) => void) {
  const [heard, setHeard] = useState<number | null>(() =>
    files.every(({ name }) => saysItself(name)) ? null : 0,
  );
  useEffect(() => {
    if (files.every(({ name }) => saysItself(name))) return;
    const abort = new AbortController();
    const listen = async () => {
      const sketches: (SoundSketch | null)[] = [];
      for (const file of files) {
        sketches.push(await sketchFile(file, abort.signal));
        if (abort.signal.aborted) return;
        setHeard(sketches.length);
      }
      onHeard(sketches);
      setHeard(null);
    };
    void listen();
    return () => abort.abort();
  }, [files, onHeard]);
  return heard;
}

/** Asks what each of several files is; a guess from their names stands there already, and one from their sound follows. */
export function SortFiles({
  files,
  hasReference,
  onConfirm,
  onCancel,
}: {
  files: readonly File[];
  hasReference: boolean;
  onConfirm(sorted: SortedFile[]): void;
  onCancel(): void;
}) {
  const [ordered] = useState(() => inOrder(files));
  const names = useMemo(() => ordered.map(({ name }) => name), [ordered]);
  /** What has been chosen by hand. */
  const [chosen, setChosen] = useState<readonly (FileRole | null)[]>(() => names.map(() => null));
  const [sketches, setSketches] = useState<readonly (SoundSketch | null)[]>([]);
  const heard = useSketches(ordered, setSketches);
  const guessed = useMemo(() => guessRoles(names, hasReference, sketches), [names, hasReference, sketches]);
  const isChosen = chosen.includes("reference");
  const sorted = ordered.map((file, i): SortedFile => {
    // There is one reference.
    const guess = guessed[i] === "reference" && isChosen ? "version" : guessed[i]!;
    return { file, role: chosen[i] ?? guess };
  });
  const choose = (place: number, role: FileRole) =>
    setChosen((all) =>
      all.map((own, i) => {
        if (i === place) return role;
        return role === "reference" && own === "reference" ? "version" : own;
      }),
    );
  const taken = sorted.filter(({ role }) => role !== "leave out");
  const lacksReference = !hasReference && !taken.some(({ role }) => role === "reference");
  return (
    <Modal show centered onHide={onCancel} aria-labelledby="sort-title">
      <Modal.Header>
        <h2 id="sort-title">What are these {files.length} files?</h2>
      </Modal.Header>
      <Modal.Body>
        <p className="soft small-text" aria-live="polite">
          {heard === null
            ? `Guessed from their names${sketches.some(Boolean) ? " and their sound" : ""}. `
            : `Listening to ${Math.min(heard + 1, files.length)} of ${files.length} … `}
          Versions are numbered in this order.
        </p>
        <ul className="plain-list sort-files">
          {sorted.map(({ file, role }, i) => (
            <li key={`${i} ${file.name}`}>
              <span className="clip" title={file.name}>
                {file.name}
              </span>
              <select
                className="form-select form-select-sm"
                aria-label={`What ${file.name} is`}
                value={role}
                onChange={({ target }) => choose(i, target.value as FileRole)}
              >
                {fileRoles.map((name) => (
                  <option key={name} value={name}>
                    {roleNames[name]}
                  </option>
                ))}
              </select>
            </li>
          ))}
        </ul>
        {lacksReference && (
          <p className="needs-attention small-text mt-2 mb-0" role="alert">
            Say which of them is the reference.
          </p>
        )}
      </Modal.Body>
      <Modal.Footer>
        <Button variant="quiet" onClick={onCancel}>
          Cancel
        </Button>
        <Button
          variant="primary"
          disabled={lacksReference || taken.length === 0}
          onClick={() => onConfirm(taken)}
        >
          Add {taken.length} {taken.length === 1 ? "file" : "files"}
        </Button>
      </Modal.Footer>
    </Modal>
  );
}

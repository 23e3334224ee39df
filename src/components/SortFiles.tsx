"use client";

import { useState } from "react";
import { Button, Modal } from "react-bootstrap";
import { countingOrder, fileRoles, guessRoles, type FileRole } from "@/core/formats/sortFiles";

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

/** Asks what each of several files is; a guess from their names stands there already. */
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
  const [sorted, setSorted] = useState((): SortedFile[] => {
    const order = countingOrder(files.map(({ name }) => name));
    const roles = guessRoles(
      order.map((i) => files[i]!.name),
      hasReference,
    );
    return order.map((i, place) => ({ file: files[i]!, role: roles[place]! }));
  });
  const choose = (place: number, role: FileRole) =>
    setSorted((all) =>
      all.map((own, i) => {
        if (i === place) return { ...own, role };
        // There is one reference.
        return role === "reference" && own.role === "reference" ? { ...own, role: "version" } : own;
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
        <p className="soft small-text">Guessed from their names. Versions are numbered in this order.</p>
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

"use client";

import { useCallback, useRef, useState } from "react";
import { sentenceOf, upload, type Added } from "@/components/requests";

/** A file on its way into the study. */
export interface Arrival {
  key: number;
  name: string;
  role: "reference" | "version" | "stem" | "candidate" | "yardstick";
  /** Share of the upload, 0–1. */
  done: number;
  /** Once it has become a track or stem. */
  itemId?: string;
  /** Why it was not taken, or what was recognised. */
  message?: string;
  cancel(): void;
}

export interface Uploads {
  arrivals: Arrival[];
  addFiles(files: File[], role: "reference" | "version" | "candidate" | "yardstick"): void;
  /** Adds isolated parts of a track. */
  addStems(files: File[], trackId: string): void;
  dismiss(key: number): void;
}

/**
 * Uploads into a study, one after the other, so that versions are numbered in the order they were
 * dropped.
 *
 * @param onAdded called with each file that has become a track or stem.
 */
export function useUploads(studyId: string, onAdded: (added: Added, role: Arrival["role"]) => void): Uploads {
  const [arrivals, setArrivals] = useState<Arrival[]>([]);
  const nextKey = useRef(0);
  const uploading = useRef(Promise.resolve());
  const revise = useCallback(
    (key: number, next: Partial<Arrival>) =>
      setArrivals((all) => all.map((own) => (own.key === key ? { ...own, ...next } : own))),
    [],
  );
  const dismiss = useCallback(
    (key: number) => setArrivals((all) => all.filter((own) => own.key !== key)),
    [],
  );
  const add = useCallback(
    (files: File[], role: Arrival["role"], query: string) => {
      for (const file of files) {
        const key = nextKey.current++;
        let cancelled = false;
        let stop = () => {
          cancelled = true;
        };
        setArrivals((all) => [...all, { key, name: file.name, role, done: 0, cancel: () => stop() }]);
        uploading.current = uploading.current.then(async () => {
          if (cancelled) return revise(key, { message: "The upload was cancelled." });
          const name = encodeURIComponent(file.name);
          const { finished, cancel } = upload(
            `/api/studies/${studyId}/items?role=${role}&name=${name}${query}`,
            file,
            (done) => revise(key, { done }),
          );
          stop = cancel;
          const outcome = await finished;
          if (!outcome.ok) return revise(key, { message: sentenceOf(outcome.refusal) });
          // Of these there may be many, and each shows in its place.
          if ((role === "candidate" || role === "yardstick") && !outcome.value.recognised) dismiss(key);
          else if (outcome.value.recognised) revise(key, { message: outcome.value.recognised, done: 1 });
          else revise(key, { itemId: outcome.value.itemId, done: 1 });
          onAdded(outcome.value, role);
        });
      }
    },
    [revise, dismiss, studyId, onAdded],
  );
  return {
    arrivals,
    addFiles: (files, role) => add(files, role, ""),
    addStems: (files, trackId) => add(files, "stem", `&parent=${trackId}`),
    dismiss,
  };
}

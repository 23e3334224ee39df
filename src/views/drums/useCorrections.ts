"use client";

import { useRef } from "react";
import { useNotices } from "@/components/Notices";
import type { DrumCorrection } from "@/core/drums";
import { useStudy } from "../study/StudyContext";
import type { DrumTrack } from "./model";

/**
 * Corrections of drums on their way: one is sent after the other, and each builds on the one before,
 * also where keys are faster than the page.
 */
export function useCorrections() {
  const { change } = useStudy();
  const { say } = useNotices();
  const queue = useRef(Promise.resolve());
  // What was sent last of each track: the page may still show one before.
  const sent = useRef(new Map<string, DrumCorrection>());

  const latest = ({ placeId, correction }: DrumTrack): DrumCorrection =>
    sent.current.get(placeId) ?? correction;
  const undoOf = (track: DrumTrack) => () => {
    sent.current.delete(track.placeId);
    queue.current = queue.current.then(
      () => void change("DELETE", `/api/plans/${track.placeId}?subject=drums`),
    );
  };
  const set = async (track: DrumTrack, correction: DrumCorrection, what: string): Promise<void> => {
    sent.current.set(track.placeId, correction);
    const done = queue.current.then(() =>
      change("POST", `/api/plans/${track.placeId}`, { subject: "drums", correction }),
    );
    queue.current = done.then(() => undefined);
    if (await done) say(`${what}.`, undoOf(track));
    else sent.current.delete(track.placeId);
  };
  return { set, undoOf, latest };
}

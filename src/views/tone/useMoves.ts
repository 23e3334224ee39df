"use client";

import { useCallback, useEffect, useMemo, useState } from "react";
import { mostMoves, type EqualiserMove, type KeptMove } from "@/core/equaliser";
import { usePlayback } from "@/listening/Playback";
import { movesWorth, type MovesWorth } from "@/models/equaliser";
import type { ToneModel } from "@/models/tone";
import { useEdits, useStudy } from "../study/StudyContext";
import { useSuggestedMoves } from "./useSuggestedMoves";

const none: KeptMove[] = [];

export interface Moves {
  moves: readonly KeptMove[];
  /** Whether they were edited; else they are those that are suggested for what is shown. */
  areKept: boolean;
  /** Whether what is suggested is still being worked out. */
  areAwaited: boolean;
  worth: MovesWorth;
  /** Whether the version is heard through them. */
  isHeard: boolean;
  setHeard(on: boolean): void;
  change(index: number, next: EqualiserMove, isDone?: boolean): void;
  switchOne(index: number): void;
  remove(index: number): void;
  add(move: EqualiserMove): void;
  /** Back to what is suggested. */
  suggest(): void;
}

/** The equaliser moves of the chosen version: suggested until one is edited, then kept with the version. */
export function useMoves({ spectra, sampleRate }: Pick<ToneModel, "spectra" | "sampleRate">): Moves {
  const { version } = useStudy();
  const { editItem } = useEdits();
  const playback = usePlayback();
  const suggested = useSuggestedMoves(spectra, sampleRate);
  const kept = version?.corrections.equaliser.moves;
  const [dragged, setDragged] = useState<KeptMove[] | null>(null);
  const moves = dragged ?? kept ?? suggested ?? none;
  const worth = useMemo(() => movesWorth(spectra, moves, sampleRate), [spectra, moves, sampleRate]);

  const [isHeard, setHeard] = useState(false);
  const { change: changeListening } = playback;
  const heard = useMemo(
    () =>
      isHeard
        ? {
            gainDb: worth.gainDb,
            moves: moves.filter(({ on }) => on).map(({ on: _on, ...move }) => move),
          }
        : null,
    [isHeard, moves, worth.gainDb],
  );
  const key = JSON.stringify(heard);
  useEffect(() => {
    changeListening({ inserts: { equaliser: heard, narrowHz: null } });
    // oxlint-disable-next-line react-hooks/exhaustive-deps -- only what is heard matters, not who says it
  }, [key]);
  // Nobody should go on hearing moves that are out of sight.
  useEffect(
    () => () => changeListening({ inserts: { equaliser: null, narrowHz: null } }),
    // oxlint-disable-next-line react-hooks/exhaustive-deps -- once, when the view is left
    [],
  );

  const save = useCallback(
    (label: string, next: KeptMove[] | null) => {
      if (!version) return;
      editItem(version.id, label, () => ({ equaliser: next ? { moves: next } : {} }));
    },
    [version, editItem],
  );
  return {
    moves,
    areKept: kept !== undefined,
    areAwaited: !dragged && !kept && !suggested,
    worth,
    isHeard,
    setHeard(on) {
      setHeard(on);
      if (on) playback.listenTo("version");
    },
    change(index, next, isDone = true) {
      const all = moves.map((own, i) => (i === index ? { ...next, on: own.on } : own));
      setDragged(isDone ? null : all);
      if (isDone) save(`Equaliser move ${index + 1} changed`, all);
    },
    switchOne(index) {
      const own = moves[index]!;
      save(
        `Equaliser move ${index + 1} switched ${own.on ? "off" : "on"}`,
        moves.map((move, i) => (i === index ? { ...move, on: !move.on } : move)),
      );
    },
    remove: (index) =>
      save(
        `Equaliser move ${index + 1} removed`,
        moves.filter((_, i) => i !== index),
      ),
    add(move) {
      if (moves.length >= mostMoves) return;
      save(
        "Equaliser move added",
        [...moves, { ...move, on: true }].sort((a, b) => a.hz - b.hz),
      );
    },
    suggest: () => save("Equaliser moves suggested anew", null),
  };
}

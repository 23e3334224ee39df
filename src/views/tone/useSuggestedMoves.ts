"use client";

import { useEffect, useRef, useState } from "react";
import type { KeptMove } from "@/core/equaliser";
import { suggestedMoves } from "@/models/equaliser";
import type { ComparedSpectra } from "@/models/spectra";

export interface MovesQuestion {
  id: number;
  spectra: ComparedSpectra;
  sampleRate: number;
}

export interface MovesAnswer {
  id: number;
  moves: KeptMove[];
}

/** The moves that bring the version nearest; null while they are being fitted. */
export function useSuggestedMoves(spectra: ComparedSpectra, sampleRate: number): KeptMove[] | null {
  const worker = useRef<Worker | null>(null);
  const asked = useRef<MovesQuestion | null>(null);
  const [known, setKnown] = useState<{ spectra: ComparedSpectra; moves: KeptMove[] } | null>(null);
  useEffect(() => {
    const own = new Worker(new URL("./movesWorker.ts", import.meta.url), { type: "module" });
    own.onmessage = ({ data: { id, moves } }: MessageEvent<MovesAnswer>) => {
      if (id === asked.current?.id) setKnown({ spectra: asked.current.spectra, moves });
    };
    // Where no worker can run they are fitted here after all: better late than never.
    own.onerror = () => {
      const question = asked.current;
      if (question)
        setKnown({
          spectra: question.spectra,
          moves: suggestedMoves(question.spectra, question.sampleRate),
        });
    };
    worker.current = own;
    return () => {
      own.terminate();
      worker.current = null;
    };
  }, []);
  useEffect(() => {
    asked.current = { id: (asked.current?.id ?? 0) + 1, spectra, sampleRate };
    worker.current?.postMessage(asked.current);
  }, [spectra, sampleRate]);
  return known?.spectra === spectra ? known.moves : null;
}

"use client";

import type { Interplay } from "@/core/lens/interplay";
import { interplayWords } from "@/models/interplay";
import { useStudy } from "../study/StudyContext";
import { BarFinding } from "./BarFinding";

/** What never sounds together and what answers what; a press selects where the other side has both. */
export function InTurn({ pairs }: { pairs: readonly Interplay[] }) {
  const { study, aligned } = useStudy();
  if (pairs.length === 0 || !aligned) return null;
  return (
    <section className="mt-3">
      <h2>Never together, and in turn</h2>
      <ul className="findings m-0" aria-label="Never together, and in turn">
        {pairs.map((pair) => (
          <BarFinding
            key={pair.parts.join(" ")}
            {...interplayWords(pair, study.elements, aligned.reference.beatsPerBar)}
            bars={pair.bars}
          />
        ))}
      </ul>
    </section>
  );
}

"use client";

import type { Covering } from "@/core/lens/covering";
import type { ElementRecord } from "@/core/study";
import { coveringWords } from "@/models/covering";
import { useStudy } from "../study/StudyContext";
import { BarFinding } from "./BarFinding";

/** What covers an element more than in the reference; a press selects where it does so longest. */
export function CoveredBy({
  element,
  coverings,
}: {
  element: ElementRecord;
  coverings: readonly Covering[];
}) {
  const { study } = useStudy();
  if (coverings.length === 0) return null;
  return (
    <div>
      <h3 className="small-text soft m-0">Covered more than in the reference</h3>
      <ul className="findings m-0" aria-label={`What covers ${element.name}`}>
        {coverings.map((covering) => (
          <BarFinding
            key={`${covering.by} ${covering.fromHz}`}
            {...coveringWords(covering, study.elements)}
            bars={covering.bars}
          />
        ))}
      </ul>
    </div>
  );
}

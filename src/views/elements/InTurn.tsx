"use client";

import type { Interplay } from "@/core/lens/interplay";
import { barRangesOf } from "@/models/coverage";
import { interplayWords } from "@/models/interplay";
import { selectionInAddress } from "../study/state/useAddress";
import { useStudy } from "../study/StudyContext";

/** What never sounds together and what answers what; a press selects where the other side has both. */
export function InTurn({ pairs }: { pairs: readonly Interplay[] }) {
  const { study, aligned, go } = useStudy();
  if (pairs.length === 0 || !aligned) return null;
  return (
    <section className="mt-3">
      <h2>Never together, and in turn</h2>
      <ul className="findings m-0" aria-label="Never together, and in turn">
        {pairs.map((pair) => {
          const { title, detail } = interplayWords(pair, study.elements, aligned.reference.beatsPerBar);
          const [longest] = barRangesOf(pair.bars);
          return (
            <li key={pair.parts.join(" ")}>
              <button
                type="button"
                className="finding plain-button"
                disabled={!longest}
                onClick={() => longest && go(selectionInAddress(longest))}
              >
                <span className="title">{title}</span>
                <span className="detail">{detail}</span>
              </button>
            </li>
          );
        })}
      </ul>
    </section>
  );
}

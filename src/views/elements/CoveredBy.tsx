"use client";

import type { Covering } from "@/core/lens/covering";
import type { ElementRecord } from "@/core/study";
import { barRangesOf } from "@/models/coverage";
import { coveringWords } from "@/models/covering";
import { selectionInAddress } from "../study/state/useAddress";
import { useStudy } from "../study/StudyContext";

/** What covers an element more than in the reference; a press selects where it does so longest. */
export function CoveredBy({
  element,
  coverings,
}: {
  element: ElementRecord;
  coverings: readonly Covering[];
}) {
  const { study, go } = useStudy();
  if (coverings.length === 0) return null;
  return (
    <div>
      <h3 className="small-text soft m-0">Covered more than in the reference</h3>
      <ul className="findings m-0" aria-label={`What covers ${element.name}`}>
        {coverings.map((covering) => {
          const { title, detail } = coveringWords(covering, study.elements);
          const [longest] = barRangesOf(covering.bars);
          return (
            <li key={`${covering.by} ${covering.fromHz}`}>
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
    </div>
  );
}

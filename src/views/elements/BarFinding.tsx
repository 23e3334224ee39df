import { barRangesOf } from "@/models/coverage";
import { selectionInAddress } from "../study/state/useAddress";
import { useStudy } from "../study/StudyContext";

/** A finding of some bars; a press selects where there are most of them in a row. */
export function BarFinding({
  title,
  detail,
  bars,
}: {
  title: string;
  detail: string;
  bars: readonly number[];
}) {
  const { go } = useStudy();
  const [longest] = barRangesOf(bars);
  return (
    <li>
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
}

import { clock } from "@/models/format";
import type { BarRange } from "@/core/grid/grid";
import type { Span } from "@/core/study";

const named = ({ first, last }: BarRange): string =>
  first === last ? `bar ${first}` : `bars ${first}–${last}`;

/** What is selected, and how closely is looked. */
export function StripTools({
  span,
  bars,
  isCloser,
  onNothing,
  onZoom,
  onAll,
}: {
  span: Span | null;
  bars: BarRange | null;
  isCloser: boolean;
  onNothing(): void;
  onZoom(factor: number): void;
  onAll(): void;
}) {
  const times = span && `${clock(span.from, true)} – ${clock(span.to, true)}`;
  return (
    <div className="strip-tools">
      {span ? (
        <span>
          Selected <span className="strong">{bars ? named(bars) : times}</span>{" "}
          <span className="soft">
            {bars && `${times}, `}
            {(span.to - span.from).toFixed(1)} s
          </span>{" "}
          <button type="button" className="plain-button underlined" onClick={onNothing}>
            Clear selection
          </button>
        </span>
      ) : (
        <span className="soft">Drag to select bars. Every view then compares those.</span>
      )}
      <span className="ms-auto soft">
        {isCloser && (
          <>
            <button type="button" className="plain-button underlined" onClick={onAll}>
              Whole track
            </button>
            {" · "}
          </>
        )}
        <button type="button" className="plain-button underlined" onClick={() => onZoom(0.5)}>
          Zoom in
        </button>
        {" · "}
        <button
          type="button"
          className="plain-button underlined"
          disabled={!isCloser}
          onClick={() => onZoom(2)}
        >
          Zoom out
        </button>
      </span>
    </div>
  );
}

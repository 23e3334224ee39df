import type { Moment } from "@/models/sections";

/** One small drawing a kind: a pause, a rise, a burst, a fall, an opening wedge. */
const drawings: Record<Moment["kind"], string> = {
  stop: "M4 2v8M8 2v8",
  riser: "M1.5 10.5 10.5 1.5M6.5 1.5h4v4",
  crash: "M6 1v10M1.7 3.5l8.6 5M10.3 3.5l-8.6 5",
  drumsOut: "M1.5 3h3v6h6",
  filterOpening: "M10.5 1.5 1.5 6l9 4.5",
};

export function MomentGlyph({ kind }: { kind: Moment["kind"] }) {
  return (
    <svg className="moment-glyph" viewBox="0 0 12 12" width="12" height="12" aria-hidden="true">
      <path d={drawings[kind]} fill="none" stroke="currentColor" strokeWidth="1.4" />
    </svg>
  );
}

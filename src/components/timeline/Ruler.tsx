import { percentAt, type Axis } from "./axis";
import type { RulerMark } from "./ruler";

/** Marks over a timeline. */
export function Ruler({ axis, marks }: { axis: Axis; marks: readonly RulerMark[] }) {
  return marks.map(({ at, text, isBar }) => (
    <span
      key={at}
      className={`timeline-mark tiny-text ${isBar ? "strong" : "soft"}`}
      style={{ left: percentAt(axis, at) }}
    >
      {text}
    </span>
  ));
}

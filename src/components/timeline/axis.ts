/** What a timeline shows from left to right, in whatever it counts: seconds, beats, bars. */
export interface Axis {
  from: number;
  to: number;
}

/** Where a value lies, 0 at the left edge, 1 at the right; outside of both where it is not shown. */
export const shareAt = ({ from, to }: Axis, value: number): number => (value - from) / (to - from);

/** The value at a share of the width, kept on the axis. */
export const valueAt = ({ from, to }: Axis, share: number): number =>
  from + Math.min(1, Math.max(0, share)) * (to - from);

/** The same in CSS, kept on the axis. */
export const percentAt = (axis: Axis, value: number): string =>
  `${100 * Math.min(1, Math.max(0, shareAt(axis, value)))}%`;

/** The part of a stretch that is shown, as CSS, and its share of the width; null where none of it is. */
export function stretchOn(
  axis: Axis,
  from: number,
  to: number,
): { left: string; width: string; share: number } | null {
  const left = Math.max(axis.from, from);
  const share = (Math.min(axis.to, to) - left) / (axis.to - axis.from);
  if (share <= 1e-9) return null;
  return { left: percentAt(axis, left), width: `${100 * share}%`, share };
}

/** Where a pointer is on an element that spans the axis. */
export function pointedAt(axis: Axis, event: { clientX: number }, element: Element): number {
  const box = element.getBoundingClientRect();
  return valueAt(axis, (event.clientX - box.left) / box.width);
}

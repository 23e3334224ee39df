import type { ElementLane } from "@/models/elements";

const height = 26;
const middle = height / 2;

/** Bars as one path, since hundreds of shapes take their time: each so tall, up or down from the line. */
function barsPath(heights: readonly (number | null)[], direction: 1 | -1): string {
  const gap = 0.12;
  return heights
    .map((own, i) =>
      own !== null && own > 0
        ? `M${i + gap / 2} ${middle}v${(direction * own * (middle - 1)).toFixed(2)}h${1 - gap}V${middle}z`
        : "",
    )
    .join("");
}

/** Where one element plays: the reference above the line, the version below; what differs is marked. */
export function Lane({
  lane: { reference, version, isTold, set },
  bars,
}: {
  lane: ElementLane;
  bars: number;
}) {
  const gaps = reference.map((own, i) => {
    const other = version[i];
    return isTold && other !== null && own > 0 !== other! > 0;
  });
  return (
    <svg
      viewBox={`0 0 ${bars} ${height}`}
      preserveAspectRatio="none"
      className={isTold ? "" : "unsure"}
      aria-hidden="true"
    >
      <path className="gap" d={gaps.map((isGap, i) => (isGap ? `M${i} 0h1v${height}h-1z` : "")).join("")} />
      <path className="up" d={barsPath(reference, -1)} />
      <path className="down" d={barsPath(version, 1)} />
      <path className="set" d={set.map((bar) => `M${bar - 1} ${height - 1.5}h1`).join("")} />
      <line x1={0} x2={bars} y1={middle} y2={middle} vectorEffect="non-scaling-stroke" />
    </svg>
  );
}

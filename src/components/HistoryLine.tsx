/** A small line of scores over versions, 0–100, the newest marked. */
export function HistoryLine({
  scores,
  width = 84,
  height = 22,
  label,
}: {
  scores: readonly (number | null)[];
  width?: number;
  height?: number;
  label: string;
}) {
  const known = scores.flatMap((score, i) => (score === null ? [] : [{ score, i }]));
  if (known.length === 0) return null;
  const inset = 4;
  // At least 30 points of height, so that a wobble of one point does not look like a leap.
  const low = Math.min(...known.map((k) => k.score));
  const high = Math.max(...known.map((k) => k.score));
  const bottom = Math.max(0, Math.min(low, (low + high) / 2 - 15));
  const top = Math.max(high, bottom + 30);
  const x = (i: number) => inset + ((width - 2 * inset) * i) / Math.max(1, scores.length - 1);
  const y = (score: number) => height - inset - ((height - 2 * inset) * (score - bottom)) / (top - bottom);
  const last = known[known.length - 1]!;
  return (
    <svg
      width={width}
      height={height}
      role="img"
      aria-label={`${label}: ${known.map((k) => Math.round(k.score)).join(", ")}`}
    >
      <polyline
        points={known.map((k) => `${x(k.i)},${y(k.score)}`).join(" ")}
        fill="none"
        stroke="var(--soft)"
        strokeWidth={1.5}
      />
      <circle cx={known.length === 1 ? inset : x(last.i)} cy={y(last.score)} r={3} fill="var(--version)" />
    </svg>
  );
}

import { frequency } from "@/models/format";

const low = Math.log2(20);
const octaves = Math.log2(20000) - low;
const share = (hertz: number) => (100 * (Math.log2(Math.min(20000, Math.max(20, hertz))) - low)) / octaves;

/** A frequency range as a bar on a scale from 20 Hz to 20 kHz. */
export function FocusRange({ fromHz, toHz }: { fromHz: number; toHz: number }) {
  const from = share(fromHz);
  return (
    <svg
      className="focus-range"
      viewBox="0 0 100 14"
      preserveAspectRatio="none"
      role="img"
      aria-label={`${frequency(fromHz)} to ${frequency(toHz)}`}
    >
      <line x1="0" x2="100" y1="7" y2="7" stroke="var(--line)" vectorEffect="non-scaling-stroke" />
      {[100, 1000, 10000].map((hertz) => (
        <line
          key={hertz}
          x1={share(hertz)}
          x2={share(hertz)}
          y1="4"
          y2="10"
          stroke="var(--line)"
          vectorEffect="non-scaling-stroke"
        />
      ))}
      <rect x={from} width={Math.max(1, share(toHz) - from)} y="4.5" height="5" fill="var(--ink)" />
    </svg>
  );
}

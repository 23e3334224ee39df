import { fixed } from "@/models/format";
import { outlineRate, type ShownHit } from "@/models/hits";

/** What is drawn of a hit. */
export type DrawnHit = Pick<ShownHit, "measures" | "known" | "outline">;
interface DrawnPair {
  title: string;
  reference: DrawnHit | null;
  version: DrawnHit | null;
}

const fullHeight = 260;
const steps = 100;

/** Milliseconds that are shown: until both have fallen by 40 dB, or all that is known. */
function shownMilliseconds(pair: DrawnPair): number {
  const end = ({ measures, known }: DrawnHit) =>
    Math.min(1000 * known, 1.15 * (measures.decay.to40 ?? 1000 * known)) + 20;
  const longest = Math.max(...[pair.reference, pair.version].flatMap((own) => (own ? [end(own)] : [])));
  return Math.min(600, Math.max(steps, Math.ceil(longest / steps) * steps));
}

/** Magnitudes drawn so that what is 40 dB down can still be seen: by their square root. */
function outline({ outline: magnitudes }: DrawnHit, span: number, half: number, sign: 1 | -1): string {
  const frames = Math.min(magnitudes.length, Math.round((span / 1000) * outlineRate));
  const points = magnitudes
    .slice(0, frames)
    .map(
      (own, i) =>
        `L${((100 * i) / span).toFixed(2)} ${(half + sign * (half - 14) * Math.sqrt(own)).toFixed(1)}`,
    );
  return `M0 ${half}${points.join("")}L${((100 * frames) / span).toFixed(2)} ${half}Z`;
}

/** The typical hit of both sides from the stroke on: the reference above the line, the version below. */
export function HitMirror({
  pair,
  beat,
  height = fullHeight,
}: {
  pair: DrawnPair;
  beat: number | null;
  height?: number;
}) {
  const half = height / 2;
  const span = shownMilliseconds(pair);
  const ticks = Array.from({ length: Math.floor(span / steps) + 1 }, (_, i) => i * steps);
  const sides = [
    { side: "reference", own: pair.reference, sign: -1 },
    { side: "version", own: pair.version, sign: 1 },
  ] as const;
  const beatTicks = beat
    ? [1 / 4, 1 / 2, 1].map((part) => ({ part, at: 1000 * beat * part })).filter(({ at }) => at < span)
    : [];
  const names: Record<number, string> = { 0.25: "¼ beat", 0.5: "½ beat", 1: "1 beat" };
  const words = sides
    .map(({ side, own }) =>
      own ? `${side}: 20 dB down after ${fixed(own.measures.decay.to20, 0)} ms` : `${side}: not struck`,
    )
    .join("; ");
  return (
    <div className="hit-mirror mirror-picture">
      <svg
        viewBox={`0 0 100 ${height}`}
        preserveAspectRatio="none"
        style={{ height }}
        role="img"
        aria-label={`${pair.title}, ${words}`}
      >
        {ticks.map((at) => (
          <line
            key={at}
            className="beat-line"
            x1={(100 * at) / span}
            x2={(100 * at) / span}
            y1={0}
            y2={height}
          />
        ))}
        {sides.map(
          ({ side, own, sign }) =>
            own && (
              <g key={side}>
                <path className={sign < 0 ? "up" : "down"} d={outline(own, span, half, sign)} />
                {[own.measures.decay.to20, own.measures.decay.to40].map(
                  (at, i) =>
                    at !== null &&
                    at < span && (
                      <line
                        key={i}
                        className={sign < 0 ? "fallen-up" : "fallen-down"}
                        x1={(100 * at) / span}
                        x2={(100 * at) / span}
                        y1={sign < 0 ? 16 : half}
                        y2={sign < 0 ? half : height - 16}
                      />
                    ),
                )}
              </g>
            ),
        )}
        <line x1={0} x2={100} y1={half} y2={half} />
      </svg>
      {sides.map(({ side, own }) => {
        if (!own) return null;
        const { to20, to40 } = own.measures.decay;
        // Where they lie close together, the first is named to its left.
        const isClose = to20 !== null && to40 !== null && to40 - to20 < 0.09 * span;
        return [
          { fall: 20, at: to20, isLeft: isClose },
          { fall: 40, at: to40, isLeft: false },
        ].map(
          ({ fall, at, isLeft }) =>
            at !== null &&
            at < 0.97 * span && (
              <span
                key={`${side} ${fall}`}
                className={`fallen-name in-${side}${isLeft ? " to-left" : ""}`}
                style={{
                  left: `${(100 * at) / span}%`,
                  ...(side === "reference" ? { top: 0 } : { bottom: "2.3rem" }),
                }}
              >
                −{fall} dB
              </span>
            ),
        );
      })}
      <div className="hit-ruler" aria-hidden>
        {ticks.slice(0, -1).map((at) => (
          <span key={at} style={{ left: `${(100 * at) / span}%` }}>
            {at === 0 ? "0 ms" : at}
          </span>
        ))}
        {beatTicks.map(({ part, at }) => (
          <span key={part} className="of-beat" style={{ left: `${(100 * at) / span}%` }}>
            {names[part]}
          </span>
        ))}
      </div>
    </div>
  );
}

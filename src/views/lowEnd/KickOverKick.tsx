import type { LowEndBand, LowEndMeasures } from "@/core/lowEnd";
import { lowFramesPerSecond } from "@/core/lowEnd";
import { fixed } from "@/models/format";

const height = 190;
const half = height / 2;
const mostDrawn = 48;

interface Shown {
  band: LowEndBand;
  measures: LowEndMeasures;
  kicks: readonly number[];
  beat: number;
}

/** Kicks of one side as lines over one beat, each against the typical peak. */
function lines({ band, measures, kicks, beat }: Shown, sign: 1 | -1): { typical: string; own: string[] } {
  const frames = Math.round(beat * lowFramesPerSecond);
  const scaled = (amplitude: number) => (half + sign * (half - 12) * Math.min(1.15, amplitude)).toFixed(1);
  const curve = measures.kickCurve.slice(0, frames).map((level) => 10 ** (level / 20));
  const typical = `M0 ${half}${curve.map((own, t) => `L${((100 * t) / frames).toFixed(2)} ${scaled(own)}`).join("")}L${((100 * Math.max(0, curve.length - 1)) / frames).toFixed(2)} ${half}Z`;
  const step = Math.max(1, Math.ceil(kicks.length / mostDrawn));
  const drawn = kicks.filter((_, i) => i % step === 0);
  const peaks = drawn.map((time) => {
    const first = Math.round(time * lowFramesPerSecond);
    return Math.max(1e-9, ...band.kickPower.subarray(first, first + 20));
  });
  const usual = [...peaks].sort((a, b) => a - b)[peaks.length >> 1] ?? 1;
  const own = drawn.map((time) => {
    const first = Math.round(time * lowFramesPerSecond);
    const next = kicks[kicks.indexOf(time) + 1] ?? Infinity;
    const last = Math.min(frames, Math.floor((next - time) * lowFramesPerSecond) - 10);
    return Array.from({ length: Math.max(0, last) }, (_, t) => {
      const amplitude = Math.sqrt((band.kickPower[first + t] ?? 0) / usual);
      return `${t === 0 ? "M" : "L"}${((100 * t) / frames).toFixed(2)} ${scaled(amplitude)}`;
    }).join("");
  });
  return { typical, own };
}

/** All kicks laid over one another, the typical one filled, with where it has fallen by 20 dB. */
export function KickOverKick({ reference, version }: { reference: Shown; version: Shown }) {
  const [above, below] = [lines(reference, -1), lines(version, 1)];
  const [a, b] = [reference.measures.kickLengthBeats, version.measures.kickLengthBeats];
  return (
    <section className="kick-over-kick" aria-label="Kicks laid over one another">
      <div className="chart-heading">
        <h2>Every kick laid over the next</h2>
        <span className="small-text soft">one beat</span>
      </div>
      <div className="mirror-picture">
        <svg
          viewBox={`0 0 100 ${height}`}
          preserveAspectRatio="none"
          style={{ height }}
          role="img"
          aria-label={`Typical kick of both sides over one beat: 20 dB down after ${fixed(a, 2)} and ${fixed(b, 2)} of a beat`}
        >
          {[25, 50, 75].map((x) => (
            <line key={x} className="beat-line" x1={x} x2={x} y1={0} y2={height} />
          ))}
          <path className="up typical" d={above.typical} />
          <path className="down typical" d={below.typical} />
          {above.own.map((d, i) => (
            <path key={i} className="one-up" d={d} />
          ))}
          {below.own.map((d, i) => (
            <path key={i} className="one-down" d={d} />
          ))}
          {a !== null && a <= 1 && <line className="fallen-up" x1={100 * a} x2={100 * a} y1={0} y2={half} />}
          {b !== null && b <= 1 && (
            <line className="fallen-down" x1={100 * b} x2={100 * b} y1={half} y2={height} />
          )}
          <line x1={0} x2={100} y1={half} y2={half} />
        </svg>
        {a !== null && (
          <span className="fallen-name in-reference" style={{ left: `${Math.min(62, 100 * a)}%`, top: 0 }}>
            −20 dB at {fixed(a, 2)} of a beat
          </span>
        )}
        {b !== null && (
          <span className="fallen-name in-version" style={{ left: `${Math.min(62, 100 * b)}%`, bottom: 0 }}>
            −20 dB at {fixed(b, 2)} of a beat
          </span>
        )}
      </div>
    </section>
  );
}

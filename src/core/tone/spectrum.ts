import type { Seconds, Span } from "../units";
import { twelfthCount } from "./bands";

const { ceil, floor, max, min, sin, PI } = Math;

/**
 * Power per twelfth-octave band over time, of mid (L+R)/2 and side (L−R)/2. The average spectrum
 * of any span and the level of any frequency range come from it without touching the samples.
 */
export interface FractionalOctaveSpectrogram {
  /** Seconds from one frame's centre to the next; frame 0 is centred on 0 s. */
  hopSeconds: Seconds;
  frames: number;
  /** Length of the file; the last frames may reach past it. */
  durationSeconds: Seconds;
  /** `frames × twelfthCount` powers (mean square, full-scale square wave = 1), frame by frame. */
  mid: Float32Array;
  /** The same for the side signal; all 0 in mono. */
  side: Float32Array;
  /** Real part of mid times conjugate side: half of what left has more than right, ±; all 0 in mono. */
  cross: Float32Array;
}

/** Mean powers per twelfth-octave band, length `twelfthCount`; mid + side is the whole. */
export interface Spectrum {
  mid: Float32Array;
  side: Float32Array;
  /** Real part of mid times conjugate side; left is mid + side + 2 cross, right mid + side − 2 cross. */
  cross: Float32Array;
}

/** Share 0–1 of a Hann window's power that lies before a place in it, −1 … 1. */
const windowPowerUpTo = (x: number): number =>
  (1.5 * (x + 1) + (2 / PI) * sin(PI * x) + sin(2 * PI * x) / (4 * PI)) / 3;

/**
 * Average spectrum of the whole or of some spans (long-term average spectrum): mean over the frames
 * centred in them, at least one frame a span. A frame that reaches past the file counts by the
 * share that lies inside.
 */
export function averageSpectrum(
  map: FractionalOctaveSpectrogram,
  spans: readonly Span[] | null = null,
): Spectrum {
  const mid = new Float64Array(twelfthCount);
  const side = new Float64Array(twelfthCount);
  const cross = new Float64Array(twelfthCount);
  let count = 0;
  for (const { from, to } of spans ?? [{ from: 0, to: Infinity }]) {
    const first = max(0, min(map.frames - 1, ceil(from / map.hopSeconds)));
    const last = max(first, min(map.frames - 1, floor(to / map.hopSeconds)));
    for (let frame = first; frame <= last; frame++) {
      // Places of the file's edges in the window, whose half length is one hop: −1 … 1.
      const start = -frame;
      const end = map.durationSeconds / map.hopSeconds - frame;
      count += windowPowerUpTo(min(1, end)) - windowPowerUpTo(max(-1, start));
      const row = frame * twelfthCount;
      for (let b = 0; b < twelfthCount; b++) {
        mid[b]! += map.mid[row + b]!;
        side[b]! += map.side[row + b]!;
        cross[b]! += map.cross[row + b]!;
      }
    }
  }
  count = max(0.1, count);
  const mean = (sums: Float64Array) => Float32Array.from(sums, (sum) => sum / count);
  return { mid: mean(mid), side: mean(side), cross: mean(cross) };
}

/** Powers of mid and side together, length `twelfthCount`. */
export const wholeOf = (spectrum: Spectrum): Float32Array =>
  spectrum.mid.map((power, b) => power + spectrum.side[b]!);

/**
 * Runs the fitted bass network over a track: at each moment how likely each pitch is what the bass plays, and
 * whether a note begins.
 */
import { runNetwork, unpackNetwork, type TemporalNetwork } from "../dsp/vector/temporalNetwork";
import { bassHop, bassInputs } from "./bassSpectra";
import { bassLineModel } from "./bassLineModel";
import { bassPitches } from "./bassPitch";
import type { Fraction, Seconds } from "../units";

const { ceil, exp, floor, max, min } = Math;

/** What the network says of each frame, `bassHop` apart. */
export interface HeardBass {
  /** How likely each of `bassPitches` sounds, `frames × bassPitches.length`; what lacks to 1 is that none does. */
  pitches: Float32Array;
  /** How likely a note begins, one a frame. */
  begins: Float32Array;
}

let network: TemporalNetwork | undefined;

/** @param rows `frames × bassInputs`, as `bassSpectra` answers them. */
export function hearBass(rows: Float32Array): HeardBass {
  network ??= unpackNetwork(bassLineModel);
  const frames = rows.length / bassInputs;
  const { output, row } = runNetwork(network, rows);
  const count = bassPitches.length;
  const pitches = new Float32Array(frames * count);
  const begins = new Float32Array(frames);
  for (let frame = 0; frame < frames; frame++) {
    const at = frame * row;
    let most = -Infinity;
    // One more than the pitches: that none sounds.
    for (let p = 0; p <= count; p++) most = max(most, output[at + p]!);
    let sum = 0;
    for (let p = 0; p <= count; p++) sum += exp(output[at + p]! - most);
    for (let p = 0; p < count; p++) pitches[frame * count + p] = exp(output[at + p]! - most) / sum;
    begins[frame] = 1 / (1 + exp(-output[at + count + 1]!));
  }
  return { pitches, begins };
}

/** Less likely beginnings are none, */
const leastLikely: Fraction = 0.35;
/** and none follows another this soon. */
const apart: Seconds = 0.06;

/** When notes begin: where that is likelier than just before and after, between frames by a parabola. */
export function beginningsIn({ begins }: HeardBass): { time: Seconds; likely: Fraction }[] {
  const found: { time: Seconds; likely: Fraction }[] = [];
  for (let i = 0; i < begins.length; i++) {
    // A file may begin with a note.
    const [before, own, after] = [begins[i - 1] ?? 0, begins[i]!, begins[i + 1] ?? 0];
    if (own < leastLikely || own < before || own <= after) continue;
    const bend = before - 2 * own + after;
    const time = max(0, i + (bend < 0 ? (0.5 * (before - after)) / bend : 0)) * bassHop;
    if (time - (found.at(-1)?.time ?? -Infinity) >= apart) found.push({ time, likely: own });
  }
  return found;
}

/** How likely each of `bassPitches` sounds over a stretch, on average. */
export function pitchesOver({ pitches }: HeardBass, from: Seconds, to: Seconds): Float64Array {
  const count = bassPitches.length;
  const frames = pitches.length / count;
  const first = min(frames - 1, ceil(from / bassHop));
  const end = max(first + 1, min(frames, floor(to / bassHop)));
  const means = new Float64Array(count);
  for (let frame = first; frame < end; frame++)
    for (let p = 0; p < count; p++) means[p]! += pitches[frame * count + p]! / (end - first);
  return means;
}

/** Mixes rendered parts: level, place, filters, a shared room, and a peak limiter on the sum. */
import { applyBiquad, designBiquad } from "@/core/dsp/biquad";
import { decibelsToAmplitude } from "@/core/units";
import { renderRate, type StereoTrack } from "./render";
import type { PartMix } from "./song";

/** What happens to the sum of all parts. */
export interface MasterSettings {
  /** Gain before the limiter. */
  driveDb: number;
  /** Largest sample after the limiter. */
  ceilingDb: number;
  /** Steady noise added after mixing, effective level; none when left out. */
  noiseDb?: number;
  /** Tilts the sum: shelves of ± this at 200 Hz and 4 kHz, bright when positive. */
  tiltDb?: number;
}

/**
 * @param tracks rendered parts, all of the same length.
 * @param settings one entry a track; `null` leaves the part out.
 */
export function mixDown(
  tracks: readonly StereoTrack[],
  settings: readonly (PartMix | null)[],
  master: MasterSettings,
): StereoTrack {
  const length = tracks[0]?.[0].length ?? 0;
  const sum: StereoTrack = [new Float32Array(length), new Float32Array(length)];
  const send: StereoTrack = [new Float32Array(length), new Float32Array(length)];
  tracks.forEach((track, t) => {
    const mix = settings[t];
    if (!mix) return;
    const gain = decibelsToAmplitude(mix.gainDb);
    const angle = ((mix.pan + 1) * Math.PI) / 4;
    track.forEach((samples, side) => {
      const placed = Float32Array.from(samples);
      const place = gain * Math.SQRT2 * (side === 0 ? Math.cos(angle) : Math.sin(angle));
      if (mix.highPassHz) applyBiquad(designBiquad("highPass", renderRate, mix.highPassHz, 0.707), placed);
      if (mix.lowPassHz) applyBiquad(designBiquad("lowPass", renderRate, mix.lowPassHz, 0.707), placed);
      const into = sum[side]!;
      const intoSend = send[side]!;
      for (let i = 0; i < length; i++) {
        const value = placed[i]! * place;
        into[i]! += value;
        intoSend[i]! += value * mix.room;
      }
    });
  });
  addRoom(send, sum);
  if (master.tiltDb) {
    for (const samples of sum) {
      applyBiquad(designBiquad("lowShelf", renderRate, 200, 0.7, -master.tiltDb), samples);
      applyBiquad(designBiquad("highShelf", renderRate, 4000, 0.7, master.tiltDb), samples);
    }
  }
  limit(sum, master);
  return sum;
}

/** A small room: eight feedback combs a side of different lengths, dulled, then two all-passes. */
function addRoom(send: StereoTrack, sum: StereoTrack): void {
  send.forEach((input, side) => {
    const wet = new Float32Array(input.length);
    for (const base of [1116, 1188, 1277, 1356, 1422, 1491, 1557, 1617]) {
      const line = new Float32Array(base + side * 23);
      let at = 0;
      let dull = 0;
      for (let i = 0; i < input.length; i++) {
        const out = line[at]!;
        dull = out * 0.7 + dull * 0.3;
        line[at] = input[i]! + dull * 0.8;
        wet[i]! += out * 0.09;
        at = at + 1 === line.length ? 0 : at + 1;
      }
    }
    for (const base of [556, 225]) {
      const line = new Float32Array(base + side * 23);
      let at = 0;
      for (let i = 0; i < wet.length; i++) {
        const delayed = line[at]!;
        const x = wet[i]!;
        line[at] = x + delayed * 0.5;
        wet[i] = delayed - x * 0.5;
        at = at + 1 === line.length ? 0 : at + 1;
      }
    }
    const into = sum[side]!;
    for (let i = 0; i < into.length; i++) into[i]! += wet[i]!;
  });
}

/** Gain, then a limiter with 2 ms look-ahead and a smooth release, both sides alike. */
function limit(sum: StereoTrack, { driveDb, ceilingDb }: MasterSettings): void {
  const drive = decibelsToAmplitude(driveDb);
  const ceiling = decibelsToAmplitude(ceilingDb);
  const [left, right] = sum;
  const lookAhead = Math.round(0.002 * renderRate);
  const release = Math.exp(-1 / (0.08 * renderRate));
  const wanted = new Float32Array(left.length);
  for (let i = 0; i < left.length; i++) {
    const peak = Math.max(Math.abs(left[i]!), Math.abs(right[i]!)) * drive;
    wanted[i] = peak > ceiling ? ceiling / peak : 1;
  }
  // Smallest gain wanted within the look-ahead, then released slowly.
  let gain = 1;
  const queue = new Int32Array(left.length);
  let head = 0;
  let tail = 0;
  for (let i = 0; i < left.length + lookAhead; i++) {
    if (i < left.length) {
      while (tail > head && wanted[queue[tail - 1]!]! >= wanted[i]!) tail--;
      queue[tail++] = i;
    }
    const at = i - lookAhead;
    if (at < 0) continue;
    while (queue[head]! < at) head++;
    const target = wanted[queue[head]!]!;
    gain = target < gain ? target : target + (gain - target) * release;
    left[at]! *= drive * gain;
    right[at]! *= drive * gain;
  }
}

/** Adds repeatable white noise of an effective level in place. */
export function addNoise(track: StereoTrack, levelDb: number, next: () => number): void {
  const amplitude = decibelsToAmplitude(levelDb) * Math.sqrt(3);
  for (const samples of track) {
    for (let i = 0; i < samples.length; i++) samples[i]! += (2 * next() - 1) * amplitude;
  }
}

/**
 * The pitch of the low end followed through a whole track: at each moment how much of a harmonic sound is at
 * each pitch, and the way through them on which most sounds and that costs least.
 */
import { loadFrame, realFft } from "../dsp/fft";
import { powerToDecibels, type Decibels, type Fraction, type Hertz, type Seconds } from "../units";

const { ceil, cos, floor, fround, log2, max, min, PI, pow, round, sqrt } = Math;

/** Frames lie this far apart, and are this long. */
export const trackHop: Seconds = 0.015;
export const trackFrame: Seconds = 0.1;
const lowest = 21;
const highest = 60;
const perSemitone = 4;
const states = (highest - lowest) * perSemitone + 1;
const harmonics = 5;
const harmonicWeight = 0.8;
/** What lies half way between harmonics speaks against a pitch. */
const betweenWeight = 0.5;
/** Going on at another pitch costs by the semitone, up to that of a jump. */
const perStep = 0.15;
const jump = 0.9;
const reach = 6;
/** Frames this far below the loud ones are not read, nor are those with less than this mean square. */
const quiet: Decibels = 40;
const silent = 1e-9;

/** Pitch over time, a value every `trackHop` seconds. */
export interface PitchTrack {
  /** MIDI note numbers, to a quarter of a semitone; NaN in silence. */
  pitch: Float32Array;
  /** How much of what sounds is at that pitch: about 1 for a pure tone, 0 in silence. */
  tonal: Float32Array;
}

/** Stretches are followed for so long at once. */
const longestStretch = 4000;

/**
 * Places of the harmonics of each pitch, and of what lies half way before each: the bin below, and the share
 * of the way to the next. What lies beyond the spectrum is found where nothing ever is.
 */
function placesOf(binWidth: Hertz, size: number): { bins: Int32Array; shares: Float32Array } {
  const bins = new Int32Array(states * harmonics * 2);
  const shares = new Float32Array(states * harmonics * 2);
  for (let state = 0; state < states; state++) {
    const hertz = 440 * pow(2, (lowest + state / perSemitone - 69) / 12);
    for (let h = 0; h < harmonics; h++) {
      const at = 2 * (state * harmonics + h);
      [h + 1, h + 0.5].forEach((multiple, i) => {
        const place = fround((multiple * hertz) / binWidth);
        bins[at + i] = min(size / 2, floor(place));
        shares[at + i] = place >= size / 2 ? 0 : place - floor(place);
      });
    }
  }
  return { bins, shares };
}

/** Reads frames: how much of a harmonic sound is at each pitch. */
function frameReader(samples: Float32Array, rate: Hertz) {
  const length = round(trackFrame * rate);
  const size = 2 ** ceil(log2(4 * length));
  const transform = realFft(size);
  const window = Float32Array.from({ length }, (_, i) => 0.5 - 0.5 * cos((2 * PI * (i + 0.5)) / length));
  const { bins, shares } = placesOf(rate / size, size);
  const upTo = min(size / 2, bins.reduce((most, bin) => max(most, bin), 0) + 3);
  const magnitudes = new Float32Array(size / 2 + 2);
  const at = (i: number): number => {
    const low = magnitudes[bins[i]!]!;
    return low + shares[i]! * (magnitudes[bins[i]! + 1]! - low);
  };
  const firstOf = (frame: number) => round(frame * trackHop * rate - length / 2);
  return {
    /** Mean square of a frame. */
    powerOf(frame: number): number {
      const first = firstOf(frame);
      let power = 0;
      for (let i = max(0, first); i < min(samples.length, first + length); i++) power += samples[i]! ** 2;
      return power / length;
    },
    read(frame: number, power: number, sounding: Float32Array): void {
      loadFrame(transform, [samples], firstOf(frame), window);
      const spectrum = transform.forward();
      for (let k = 1; k < upTo; k++) magnitudes[k] = sqrt(spectrum[2 * k]! ** 2 + spectrum[2 * k + 1]! ** 2);
      // A tone as strong as all that sounds has this magnitude.
      const whole = length * sqrt(power * 0.125) + 1e-9;
      for (let state = 0; state < states; state++) {
        let sum = 0;
        let weight = 1;
        for (let i = 2 * state * harmonics; i < 2 * (state + 1) * harmonics; i += 2) {
          sum += weight * (at(i) - betweenWeight * at(i + 1));
          weight *= harmonicWeight;
        }
        sounding[state] = max(0, sum / whole);
      }
    },
  };
}

/** The likeliest way through the pitches of a stretch, frame by frame (Viterbi). */
function pathFinder() {
  const back = new Uint8Array(longestStretch * states);
  const steps = Float32Array.from({ length: reach + 1 }, (_, away) => (perStep * away) / perSemitone);
  let best = new Float32Array(states);
  let next = new Float32Array(states);
  const topOf = (values: Float32Array): number => {
    let top = 0;
    for (let state = 1; state < states; state++) if (values[state]! > values[top]!) top = state;
    return top;
  };
  /** @param sounding `frames × states`. */
  return (sounding: Float32Array, frames: number): Uint8Array => {
    best.fill(0);
    for (let frame = 0; frame < frames; frame++) {
      const top = topOf(best);
      const jumped = best[top]! - jump;
      for (let state = 0; state < states; state++) {
        let from = top;
        let value = jumped;
        const last = min(states - 1, state + reach);
        for (let near = max(0, state - reach); near <= last; near++) {
          const own = best[near]! - steps[near < state ? state - near : near - state]!;
          if (own > value) {
            value = own;
            from = near;
          }
        }
        back[frame * states + state] = from;
        next[state] = value + sounding[frame * states + state]!;
      }
      [best, next] = [next, best];
    }
    const path = new Uint8Array(frames);
    let state = topOf(best);
    for (let frame = frames - 1; frame >= 0; frame--) {
      path[frame] = state;
      state = back[frame * states + state]!;
    }
    return path;
  };
}

/** @param samples mid of the low end without kicks. */
export function pitchTrack(samples: Float32Array, rate: Hertz): PitchTrack {
  const count = max(0, floor(samples.length / rate / trackHop));
  const { powerOf, read } = frameReader(samples, rate);
  const find = pathFinder();
  const powers = Float64Array.from({ length: count }, (_, frame) => powerOf(frame));
  const loudest = powers.reduce((a, b) => max(a, b), 0);
  const isRead = (frame: number) =>
    powers[frame]! > silent && powerToDecibels(powers[frame]! / loudest) > -quiet;

  const pitch = new Float32Array(count).fill(NaN);
  const tonal = new Float32Array(count);
  const sounding = new Float32Array(min(count, longestStretch) * states);
  for (let begin = 0; begin < count;) {
    let frames = 0;
    while (begin + frames < count && frames < longestStretch && isRead(begin + frames)) {
      const to = sounding.subarray(frames * states, (frames + 1) * states);
      read(begin + frames, powers[begin + frames]!, to);
      frames++;
    }
    find(sounding, frames).forEach((state, i) => {
      pitch[begin + i] = lowest + state / perSemitone;
      tonal[begin + i] = sounding[i * states + state]!;
    });
    begin += max(1, frames);
  }
  return { pitch, tonal };
}

/** Mean of how tonal a stretch of frames is. */
export function tonalOver({ tonal }: PitchTrack, from: number, to: number): Fraction {
  let sum = 0;
  for (let frame = max(0, from); frame < min(tonal.length, to); frame++) sum += tonal[frame]!;
  return to > from ? sum / (to - from) : 0;
}

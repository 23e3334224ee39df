/** Drum parts for tests: written as text, one letter a step. */
import type { StrokeCurves } from "../grid/strokeCurves";
import type { Hertz, Seconds } from "../units";
import type { CountedDrums, CountedHit, DrumVoice } from "../drums";
import { gainOfVelocity, practiceKit, stroke } from "../drums/kit";
import { swung, type MainSwing } from "../drums/steps";
import { secondsAt, type Grid } from "../grid/grid";

const { PI, floor, imul, min, round, sin } = Math;

export const steadyGrid = (bpm: number, bars: number, start = 0.5, beatsPerBar = 4): Grid => ({
  beats: Array.from({ length: bars * beatsPerBar + 1 }, (_, k) => start + (k * 60) / bpm),
  barOne: 0,
  beatsPerBar,
  steady: true,
  bpm,
});

const velocities: Record<string, number> = { X: 0.9, x: 0.7, o: 0.5, ",": 0.3 };

/** Bars of text for each voice; bars are repeated to the end of the grid. */
export type Written = Partial<Record<DrumVoice, readonly string[]>>;

/**
 * Hits as they are written, for every bar of a grid.
 *
 * @param alter changes single hits, or leaves them out with null.
 */
export function drumsAsWritten(
  written: Written,
  grid: Grid,
  {
    swing = { of: 16, percent: 50 } as MainSwing,
    alter = (hit: CountedHit, _beat: number): CountedHit | null => hit,
  } = {},
): CountedDrums {
  const bars = floor((grid.beats.length - 1) / grid.beatsPerBar);
  const hits: CountedHit[] = [];
  for (const [voice, lines] of Object.entries(written) as [DrumVoice, readonly string[]][]) {
    for (let bar = 0; bar < bars; bar++) {
      const line = lines[bar % lines.length]!;
      [...line].forEach((letter, step) => {
        const velocity = velocities[letter];
        if (velocity === undefined) return;
        const beat = bar * grid.beatsPerBar + (step * grid.beatsPerBar) / line.length;
        const time = secondsAt(grid, swung(beat, swing));
        const hit = alter({ time, voice, velocity, confidence: 0.95, origin: "heard" }, beat);
        if (hit) hits.push(hit);
      });
    }
  }
  return { hits: hits.sort((a, b) => a.time - b.time), subThreshold: [], bassNotes: [] };
}

/** Bass notes that change with the bars, so that bars can be told. */
const bassNotes = [55, 82.4, 73.4, 61.7];

/** Hits played on the practice kit, over held bass notes of a bar each where a grid says where bars are; mono samples. */
export function playedDrums(
  { hits }: Pick<CountedDrums, "hits">,
  seconds: number,
  sampleRate: number,
  bars: Grid | null = null,
): Float32Array {
  const samples = new Float32Array(round(seconds * sampleRate));
  let state = 5;
  const random = () => {
    state = (imul(state, 1664525) + 1013904223) >>> 0;
    return state / 4294967296;
  };
  const strokes = new Map<DrumVoice, Float32Array>();
  for (const { time, voice, velocity } of hits) {
    const sound = strokes.get(voice) ?? stroke(practiceKit[voice], sampleRate, random);
    strokes.set(voice, sound);
    const start = round(time * sampleRate);
    const gain = 0.5 * gainOfVelocity(velocity);
    for (let i = 0; i < sound.length && start + i < samples.length; i++)
      samples[start + i]! += gain * sound[i]!;
  }
  if (bars) {
    for (let bar = 0; (bar + 1) * bars.beatsPerBar < bars.beats.length; bar++) {
      const [from, to] = [bar, bar + 1].map((own) =>
        round(secondsAt(bars, own * bars.beatsPerBar) * sampleRate),
      ) as [number, number];
      const step = (2 * PI * bassNotes[bar % bassNotes.length]!) / sampleRate;
      for (let i = from; i < min(to, samples.length); i++) {
        const edge = min(1, (i - from) / 400, (to - i) / 400);
        samples[i]! += edge * (0.06 * sin(step * (i - from)) + 0.03 * sin(4 * step * (i - from)));
      }
    }
  }
  return samples;
}

/** What the drum model would hear of bass notes and kicks that are struck at these times, and of nothing else. */
export function strokesAt(
  bass: readonly Seconds[],
  kicks: readonly Seconds[],
): { curves: StrokeCurves; framesPerSecond: Hertz } {
  const framesPerSecond = 100;
  const frames = Math.ceil(Math.max(1, ...bass, ...kicks) * framesPerSecond) + 1;
  const curveOf = (times: readonly Seconds[]) => {
    const curve = new Float32Array(frames);
    for (const time of times) curve[Math.round(time * framesPerSecond)] = 0.95;
    return curve;
  };
  return { curves: [curveOf(kicks), curveOf([]), curveOf([]), curveOf(bass)], framesPerSecond };
}

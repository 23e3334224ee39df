import type { Bpm, Seconds } from "../units";
import { readBars, shifted, type Metre } from "./bars";
import { combinedStrength, settled, trackBeats } from "./beats";
import type { GridEstimate } from "./gridEstimate";
import type { OnsetEnvelope } from "./highBandOnsets";
import type { OnsetStrength } from "./onset";
import type { StrokeCurves } from "./strokeCurves";
import { estimateSwing } from "./swing";

/** Times are kept to a tenth of a millisecond: finer than can be heard or measured. */
const kept = (seconds: Seconds): Seconds => Math.round(seconds * 1e4) / 1e4;

/** An onset weaker than this share of the usual beat's is ringing or noise, not the end of the music. */
const lastOnsetShare = 0.25;

/** Beats before the end that say how strong onsets are there: tracks often end quietly. */
const endingBeats = 16;

/** Time of the last onset that is about as strong as the beats are, in the whole track or before its end. */
function lastOnset(onsets: OnsetStrength, beats: readonly Seconds[]): Seconds {
  const strength = combinedStrength(onsets);
  const at = (time: Seconds) => strength[Math.round(time * onsets.framesPerSecond)] ?? 0;
  const lastOver = (own: readonly Seconds[]): Seconds => {
    const least = (lastOnsetShare * own.reduce((sum, beat) => sum + at(beat), 0)) / own.length;
    const frame = strength.findLastIndex((value) => value >= least);
    return frame > 0 ? frame / onsets.framesPerSecond : beats.at(-1)!;
  };
  const last = lastOver(beats);
  const ending = beats.filter((beat) => beat <= last + 0.05).slice(-endingBeats);
  return ending.length < endingBeats ? last : Math.max(last, lastOver(ending));
}

/** Beats up to the end of the bar in which the last onset falls. */
function throughLastBar(
  beats: readonly Seconds[],
  beatsPerBar: number,
  firstDownbeat: number,
  last: Seconds,
): Seconds[] {
  const sounding = beats.findLastIndex((beat) => beat <= last + 0.05);
  const bars = Math.floor((sounding - firstDownbeat) / beatsPerBar) + 1;
  return beats.slice(0, Math.max(sounding + 1, firstDownbeat + bars * beatsPerBar));
}

/** So many other readings of the bars are kept. */
const mostOthers = 4;
/** Bar 1 may begin this much before the first sound. */
const barBefore: Seconds = 0.07;

/**
 * Beats and bars at a tempo that is known; null where there are too few beats for two bars.
 *
 * @param from, to first and last sound.
 * @param strokes what is struck where; null where nobody has listened for it.
 * @param metre where it is known.
 */
export function estimateGrid(
  onsets: OnsetStrength,
  attacks: OnsetEnvelope,
  bpm: Bpm,
  from: Seconds,
  to: Seconds,
  strokes: StrokeCurves | null = null,
  metre: Metre | null = null,
): GridEstimate | null {
  const path = trackBeats(onsets, bpm, from, to);
  const bars = readBars(onsets, strokes, path.beats, from, metre);
  if (!bars) return null;
  const moved = shifted(path.beats, bars.shift);
  const firstDownbeat = moved[bars.firstDownbeat]!;
  const fitted = path.steady ? settled(onsets, moved, path.bpm, from, to) : { beats: moved, bpm: path.bpm };
  // Laid anew, the beats may begin with another one: the first to begin a bar is found again.
  const nearest = fitted.beats.reduce(
    (best, time, i) =>
      Math.abs(time - firstDownbeat) < Math.abs(fitted.beats[best]! - firstDownbeat) ? i : best,
    0,
  );
  const place = nearest % bars.beatsPerBar;
  const beats = throughLastBar(fitted.beats, bars.beatsPerBar, place, lastOnset(onsets, fitted.beats));
  return {
    beats: beats.map(kept),
    downbeats: beats.filter((_, i) => i % bars.beatsPerBar === place).map(kept),
    beatsPerBar: bars.beatsPerBar,
    steady: path.steady,
    bpm: fitted.bpm,
    confidence: Math.round(bars.confidence * 1000) / 1000,
    otherBarStarts: bars.others.slice(0, mostOthers).map(({ beatsLater, confidence }) => {
      const period = 60 / fitted.bpm;
      const at = beats[place]! + beatsLater * period;
      return {
        beatsLater: Math.round(beatsLater * 100) / 100,
        barOneAt: kept(at < from - barBefore ? at + bars.beatsPerBar * period : at),
        confidence: Math.round(confidence * 1000) / 1000,
      };
    }),
    swing: estimateSwing(attacks, onsets, beats, bars.beatsPerBar),
  };
}

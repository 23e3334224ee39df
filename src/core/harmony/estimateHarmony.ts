/** Key and chords of a track on its grid. */
import type { Grid } from "../grid/grid";
import type { Seconds } from "../units";
import { beatChroma, meanChroma, type BeatChroma } from "./beatChroma";
import { chordLikelihoods, noChord } from "./chordModel";
import { chordPath } from "./chordSequence";
import { chordWeights } from "./chordWeights";
import type { HarmonyEstimate, PlacedChord } from "./harmonyEstimate";
import { chooseKey, keyFeatures, type HeardChords } from "./keyChoice";
import { keyModel } from "./keyModel";
import type { PitchSalience } from "./pitches";
import { wholeChord } from "./quality";

const { ceil } = Math;

/** Without a grid the key is found over steps of this length. */
const stepSeconds: Seconds = 0.5;

/** What is heard of the harmony, beat by beat. */
export interface HeardHarmony {
  chroma: BeatChroma;
  chords: HeardChords;
  confidences: Float32Array;
}

/** Listens beat by beat; without a grid in steps of half a second. */
export function heardHarmony(
  pitches: PitchSalience,
  grid: Grid | null,
  durationSeconds: Seconds,
): HeardHarmony {
  const beats =
    grid?.beats ?? Array.from({ length: ceil(durationSeconds / stepSeconds) + 1 }, (_, i) => i * stepSeconds);
  const chroma = beatChroma(pitches, beats);
  const beatsPerBar = grid?.beatsPerBar ?? 4;
  const barOne = grid?.barOne ?? 0;
  const places = Array.from({ length: chroma.count }, (_, i) =>
    grid ? (((i - barOne) % beatsPerBar) + beatsPerBar) % beatsPerBar : -1,
  );
  const { states, confidences } = chordPath(chordLikelihoods(chordWeights, chroma), places, beatsPerBar);
  return { chroma, chords: { states, places, phraseBeats: 4 * beatsPerBar, barOne }, confidences };
}

/** The chords of a path, each with its whole name. */
function placedChords({ chroma, chords, confidences }: HeardHarmony): PlacedChord[] {
  const { states, barOne } = chords;
  const placed: PlacedChord[] = [];
  for (let from = 0; from < states.length;) {
    let to = from + 1;
    while (to < states.length && states[to] === states[from]) to++;
    const state = states[from]!;
    let confidence = 0;
    for (let beat = from; beat < to; beat++) confidence += confidences[beat]! / (to - from);
    placed.push({
      startBeat: from - barOne,
      endBeat: to - barOne,
      chord: state === noChord ? null : wholeChord(chroma, from, to, state % 12, state >= 12),
      confidence,
    });
    from = to;
  }
  return placed;
}

/** How strongly each pitch class sounds in each bar, from the first bar that has beats on. */
function barChroma({ chroma, chords }: HeardHarmony, beatsPerBar: number): HarmonyEstimate["bars"] {
  const { barOne } = chords;
  const first = -Math.ceil(barOne / beatsPerBar);
  const values: number[][] = [];
  for (let bar = first; bar * beatsPerBar + barOne < chroma.count; bar++) {
    const from = Math.max(0, bar * beatsPerBar + barOne);
    const to = Math.min(chroma.count, (bar + 1) * beatsPerBar + barOne);
    values.push(Array.from(meanChroma(chroma, from, to), (value) => Math.round(100 * value) / 100));
  }
  return { firstBar: first + 1, beatsPerBar, chroma: values };
}

/** Key and chords of a whole track. */
export function estimateHarmony(
  pitches: PitchSalience,
  grid: Grid | null,
  durationSeconds: Seconds,
): HarmonyEstimate {
  const heard = heardHarmony(pitches, grid, durationSeconds);
  const { chroma, chords } = heard;
  return {
    key: chooseKey(keyModel, keyFeatures(meanChroma(chroma, 0, chroma.count), chords, 0, chroma.count)),
    chords: grid ? placedChords(heard) : [],
    bars: grid ? barChroma(heard, grid.beatsPerBar) : { firstBar: 1, beatsPerBar: 4, chroma: [] },
  };
}

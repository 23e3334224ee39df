/** The key of a part of a track, from its plan as it counts: corrected chords and sections included. */
import { majorOrMinor } from "./chords";
import { noChord } from "./chordModel";
import type { HarmonyEstimate, PlacedChord } from "./harmonyEstimate";
import { chooseKey, keyFeatures, type KeyChoice } from "./keyChoice";
import { keyModel } from "./keyModel";

const { max } = Math;

/**
 * @param firstBar first of the bars, `lastBar` included.
 * @returns null where nothing in them is pitched.
 */
export function keyOfBars(
  { bars }: Pick<HarmonyEstimate, "bars">,
  chords: readonly PlacedChord[],
  firstBar: number,
  lastBar: number,
): KeyChoice | null {
  const { beatsPerBar } = bars;
  const sounding = new Float32Array(12);
  for (let bar = firstBar; bar <= lastBar; bar++) {
    bars.chroma[bar - bars.firstBar]?.forEach((value, i) => (sounding[i]! += value));
  }
  const largest = max(...sounding);
  if (largest > 0) for (let i = 0; i < 12; i++) sounding[i]! /= largest;
  const count = (lastBar - firstBar + 1) * beatsPerBar;
  const firstBeat = (firstBar - 1) * beatsPerBar;
  const states = Int8Array.from({ length: count }, (_, i) => {
    const middle = firstBeat + i + 0.5;
    const own = chords.find(({ startBeat, endBeat }) => middle >= startBeat && middle < endBeat)?.chord;
    const kind = own ? majorOrMinor(own) : null;
    return kind ? kind.root + (kind.minor ? 12 : 0) : noChord;
  });
  const places = Array.from({ length: count }, (_, i) => i % beatsPerBar);
  const heard = { states, places, phraseBeats: 4 * beatsPerBar, barOne: 0 };
  return chooseKey(keyModel, keyFeatures(sounding, heard, 0, count));
}

import type { ComparedElement, TrackMeasures } from "@/core/match";
import type { LensPart } from "@/core/lens/parts";
import type { FullComparison } from "@/core/study";
import { comparedSpectra, type ComparedSpectra } from "./spectra";

/** What each part of the lens is, for people. */
export const lensTitles: Record<LensPart, string> = {
  kick: "the lens: kick",
  snare: "the lens: snare and clap",
  hats: "the lens: hats",
  percussion: "the lens: other percussion",
  bass: "the lens: bass",
  music: "the lens: all that is pitched, in its range",
};

/** What the elements view shows of a comparison. */
export interface ElementsModel {
  /** By element id. */
  elements: Record<string, ComparedElement>;
  spectra: ComparedSpectra;
}

export const elementsModel = (
  reference: TrackMeasures,
  version: TrackMeasures,
  { mix, elements }: FullComparison,
): ElementsModel => ({
  elements: Object.fromEntries(elements.map(({ element, compared }) => [element.id, compared])),
  spectra: comparedSpectra(reference, version, mix.gainToReference),
});

/** Below this what the lens lifts out is mixed with others; above, it is as good as alone. */
const hardlyFree = 3;
const wellFree = 10;

/** How free a part stands, in words. */
export function standing(freeDb: number): { words: string; sentence: string; isFree: boolean } {
  const size = `${Math.round(freeDb)} dB`;
  if (freeDb >= wellFree)
    return { words: `free by ${size}`, sentence: `stands free of the others by ${size}`, isFree: true };
  if (freeDb >= hardlyFree)
    return {
      words: `free by ${size}`,
      sentence: `stands fairly free, by ${size}, and counts less`,
      isFree: true,
    };
  return {
    words: "hardly free",
    sentence: "hardly stands free of the others, so it counts little",
    isFree: false,
  };
}

import type { ComparedElement, TrackMeasures } from "@/core/match";
import type { FullComparison } from "@/core/study";
import { comparedSpectra, type ComparedSpectra } from "./spectra";

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

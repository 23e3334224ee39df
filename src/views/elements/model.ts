import type { ComparedElement, TrackMeasures } from "@/core/match";
import type { FullComparison } from "@/core/study";
import { spectrumCurves, type SpectrumCurves } from "../overview/model";

/** What the elements view shows of a comparison. */
export interface ElementsModel {
  /** By element id. */
  elements: Record<string, ComparedElement>;
  curves: SpectrumCurves;
  /** dB added to the version in the curves. */
  gainToReference: number;
}

export const elementsModel = (
  reference: TrackMeasures,
  version: TrackMeasures,
  { mix, elements }: FullComparison,
): ElementsModel => ({
  elements: Object.fromEntries(elements.map(({ element, compared }) => [element.id, compared])),
  curves: spectrumCurves(reference.spectrum, version.spectrum, mix.gainToReference),
  gainToReference: mix.gainToReference,
});

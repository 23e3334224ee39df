/** How near a lifted part comes to the part itself. */
import type { LensPart, LiftedPart } from "@/core/lens";
import { powerToDecibels } from "@/core/units";
import type { StereoTrack } from "@/demo/render";
import type { PartedPiece } from "./parts";
import { energyOf, sumOfTracks } from "./tracks";

/** What counts for a part that was not lifted out at all. */
const nothing = -30;

/** Scale-invariant signal-to-distortion ratio (Le Roux and others 2019, "SDR: half-baked or well done?"). */
export function signalToDistortion(truth: StereoTrack, estimate: StereoTrack): number {
  let common = 0;
  truth.forEach((samples, side) => samples.forEach((x, i) => (common += x * estimate[side]![i]!)));
  const wanted = (common * common) / energyOf(truth);
  // Nothing lifted out is as bad as it can be.
  return Math.max(nothing, powerToDecibels(wanted / (energyOf(estimate) - wanted + 1e-12)));
}

/** Where the bass of a piece is not known it counts as music. */
export function asKnown(
  piece: PartedPiece,
  lifted: Record<LensPart, LiftedPart>,
  part: LensPart,
): StereoTrack {
  const own = lifted[part].samples;
  return part === "music" && piece.source === "tracker" ? sumOfTracks([own, lifted.bass.samples]) : own;
}

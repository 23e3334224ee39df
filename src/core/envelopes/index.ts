export { type BandEnvelopes } from "./levels";
export { envelopeMeasuresSchema, measureEnvelopes, type EnvelopeMeasures } from "./measures";
export { positionOf, sustainedRanges, type Positions } from "./positions";
export {
  framesBefore,
  pumpingBands,
  pumpingGap,
  typicalCurve,
  type Ducking,
  type Pumping,
  type PumpingBand,
  type PumpingGap,
} from "./pumping";
export { type Punch } from "./punch";
export { spaceGaps, spaceRanges, type Space } from "./space";
export { type Texture } from "./texture";

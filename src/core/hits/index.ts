/** Hits close up: the typical hit of every drum of a track, and what a hit is like. */
export { beforeHit, hitBands, hitMeasuresSchema, type HitMeasures } from "./hitMeasures";
export { measureHit } from "./measures";
export { measuredHits, type MeasuredHit } from "./measuredHits";
export { typicalHits, type TypicalHit } from "./typicalHits";
export {
  adjusted,
  gainToMatch,
  oneShot,
  rankCandidates,
  trimmed,
  type OneShot,
  type Ranked,
  type Suggestion,
} from "./candidates";
export { closenessAspects, closenessRules, type Closeness, type ClosenessAspect } from "./closeness";
export { bestLayers, layered, levelled, type LayerSetting, type RankedLayer } from "./layers";
export { lacking, type Lack } from "./lacks";
export { loopFit, type LoopFit, type LoopSide } from "./loopFit";
export { waveformLikeness } from "./waveform";

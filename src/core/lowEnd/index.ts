/**
 * The low end: kicks and bass told apart, the bass line as notes, and what both do to each other.
 */
export { bassLineSchema, type BassNote } from "./notes";
export {
  bassCorrectionSchema,
  countedBass,
  withChangedNote,
  withNote,
  withoutNote,
  type BassCorrection,
  type CountedNote,
} from "./correction";
export {
  bassSummarySchema,
  compareBass,
  noteOverlap,
  pairBass,
  type BassSide,
  type BassSummary,
  type NoteAnswer,
  type PairedNote,
  type PlacedNote,
} from "./compareBass";
export { belowCutOff, lowEnvelope, lowFramesPerSecond, type LowEnd } from "./lowBand";
export {
  belowHearing,
  defaultCutOff,
  lowEndBand,
  lowEndSchema,
  measureLowEnd,
  type LowEndBand,
  type LowEndMeasures,
} from "./measures";

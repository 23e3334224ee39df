/** The stems of a track held against it. */
export { restOfTrack, type Passage, type StemRest } from "./stemFit";
export { isWhollyMissing, stemSum, type MissingPart, type StemSum } from "./stemSum";

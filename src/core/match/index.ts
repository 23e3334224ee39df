/** The match: scores from gaps, by one published formula and one table. */
export * from "./compare";
export * from "./compareElements";
export type { DrumGaps } from "./drumGaps";
export type { ComparedAspect, ComparedMeasure } from "./compared";
export type { LowFigures, LowGaps } from "./lowGaps";
export * from "./measures";
export * from "./scale";
export * from "./score";
export { styleAspects, type StyleAspect, type StyleTarget } from "./style";
export { besideVocal, type BesideVocal } from "./besideVocal";

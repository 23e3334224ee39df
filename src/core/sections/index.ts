/** Sections of a track, what happens in them, and moments worth noting. */
export * from "./formEstimate";
export { measuresOfSection } from "./sectionMeasures";
export { sectionNames } from "./names";
export { letterAt } from "./letters";

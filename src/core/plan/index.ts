/** The plan of a track: key, chords and sections, measured, corrected and compared. */
export * from "./comparePlans";
export * from "./edits";
export * from "./loops";
export * from "./onGrid";
export * from "./trackPlan";

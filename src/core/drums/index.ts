/** Drum hits: heard, put right, placed on the grid, described and compared. */
export * from "./compareDrums";
export * from "./correction";
export * from "./drumReports";
export * from "./groove";
export * from "./hits";
export * from "./patterns";
export * from "./stems";
export * from "./steps";
export * from "./voices";

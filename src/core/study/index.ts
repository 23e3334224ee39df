/** A study as plain data, and what can be said of it: standings, spans, comparisons. */
export * from "./lineUp";
export * from "./records";
export * from "./spans";
export * from "./standing";

/** A study as plain data, and what can be said of it: standings, spans, comparisons. */
export * from "./alignVersion";
export * from "./archive";
export * from "./compareVersion";
export * from "./document";
export * from "./foundElements";
export * from "./lens";
export * from "./records";
export * from "./spans";
export * from "./standIn";
export * from "./results";
export { leastChange, type Cause } from "./causes";
export * from "./scores";
export { elementOfStem } from "./stemElements";
export * from "./stemPairs";
export * from "./stemSums";
export * from "./summary";

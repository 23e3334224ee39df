/** A yardstick: what several tracks of a style have in common, to hold one track against. */
export { countedAlike, type CountedAs } from "./countedAlike";
export * from "./figures";
export * from "./ranges";

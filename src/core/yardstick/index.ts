/** A yardstick: what several tracks of a style have in common, to hold one track against. */
export * from "./figures";
export * from "./ranges";

/** Equaliser moves: the filters, and the shortest list of them that brings a version near its reference. */
export * from "./filters";
export * from "./equalised";
export * from "./fitMoves";
export * from "./wrongCure";
export * from "./keptMoves";
export * from "./filterMovement";

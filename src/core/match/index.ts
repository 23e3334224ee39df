/** The match: scores from gaps, by one published formula and one table. */
export * from "./compare";
export * from "./measures";
export * from "./score";

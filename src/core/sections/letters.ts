/** Letters of sections: A … Z, then A2 and so on. */
export const letterAt = (place: number): string =>
  String.fromCharCode(65 + (place % 26)) + (place < 26 ? "" : String(1 + Math.floor(place / 26)));

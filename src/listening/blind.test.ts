import { chanceOfGuessing, verdict } from "./blind";

describe("a blind test", () => {
  // Binomial distribution with ten tries and even odds, by hand: (1 + 10 + 45) / 1024 for eight or more.
  it.each([
    [10, 10, 1 / 1024],
    [9, 10, 11 / 1024],
    [8, 10, 56 / 1024],
    [5, 10, 638 / 1024],
    [0, 10, 1],
    [1, 1, 0.5],
  ])("%i of %i by guessing alone", (right, rounds, expected) => {
    expect(chanceOfGuessing(right, rounds)).toBeCloseTo(expected, 12);
  });

  it("says what the score means", () => {
    expect(verdict(9, 10)).toMatch(/^You hear the difference/);
    expect(verdict(8, 10)).toMatch(/^Perhaps/);
    expect(verdict(5, 10)).toMatch(/^You cannot tell/);
  });
});

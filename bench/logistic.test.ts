import { probabilities } from "@/core/grid/choice";
import { fit, type Example } from "./logistic";

/** Two candidates; the right one has the greater first feature, the second says nothing. */
const example = (source: string, greater: 0 | 1, right: 0 | 1, noise: number): Example => ({
  source,
  group: source,
  name: source,
  candidates: [
    [greater === 0 ? 1 : 0, noise],
    [greater === 1 ? 1 : 0, -noise],
  ],
  right,
});

const shareOf = (examples: Example[], evenly: boolean, greater: 0 | 1) =>
  probabilities(fit({ examples, penalty: 0.01, evenly }), [
    [greater === 0 ? 1 : 0, 0],
    [greater === 1 ? 1 : 0, 0],
  ])[greater]!;

describe("a choice that is fitted", () => {
  it("goes by what tells, not by what does not", () => {
    const examples = [0, 1, 0, 1].map((right, i) =>
      example("a", right as 0 | 1, right as 0 | 1, i < 2 ? 1 : -1),
    );
    const model = fit({ examples, penalty: 0.01 });
    expect(Math.abs(model.weights[1]!)).toBeLessThan(0.1 * Math.abs(model.weights[0]!));
    expect(shareOf(examples, false, 1)).toBeGreaterThan(0.9);
  });

  it("counts every source as much where it is to, though one has many more examples", () => {
    // Nine examples of one source say the greater, one of another the smaller.
    const many = Array.from({ length: 9 }, (_, i) => example("many", (i % 2) as 0 | 1, (i % 2) as 0 | 1, 0));
    const few = example("few", 0, 1, 0);
    expect(shareOf([...many, few], false, 0)).toBeGreaterThan(0.8);
    expect(shareOf([...many, few], true, 0)).toBeCloseTo(0.5, 1);
  });
});

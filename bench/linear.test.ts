/** The algebra that models are fitted with, against worked examples. */
import { discriminants, symmetricEigen } from "./linear";

it("finds the axes of a symmetric matrix, the longest first", () => {
  // Worked by hand: 2x² + 2y² + 2xy has 3 along (1, 1), 1 along (1, −1); z stands by itself.
  const axes = symmetricEigen([
    [2, 1, 0],
    [1, 2, 0],
    [0, 0, 7],
  ]);
  expect(axes.map(({ value }) => Number(value.toFixed(9)))).toEqual([7, 3, 1]);
  expect(Math.abs(axes[0]!.vector[2]!)).toBeCloseTo(1, 9);
  const [, { vector: second }, { vector: third }] = axes as [unknown, (typeof axes)[0], (typeof axes)[0]];
  expect(second[0]! / second[1]!).toBeCloseTo(1, 9);
  expect(third[0]! / third[1]!).toBeCloseTo(-1, 9);
});

it("tells classes by what their members differ in least, not by what differs most", () => {
  // Two classes that lie 1 apart on the second number, and vary by 10 on the first whichever they are of.
  const members = (at: number) =>
    Array.from({ length: 40 }, (_, i) =>
      Float64Array.from([10 * Math.sin(i), at + 0.1 * Math.cos(3 * i), 10 * Math.sin(i) + 0.1 * Math.cos(i)]),
    );
  const [axis] = discriminants([members(0), members(1)], 1, 1e-6);
  const places = [0, 1].map((at) =>
    members(at).map((row) => axis!.reduce((sum, x, i) => sum + x * row[i]!, 0)),
  );
  const means = places.map((own) => own.reduce((a, b) => a + b, 0) / own.length);
  for (const [k, own] of places.entries()) {
    const deviation = Math.sqrt(own.reduce((sum, x) => sum + (x - means[k]!) ** 2, 0) / own.length);
    expect(deviation).toBeCloseTo(1, 1);
  }
  expect(Math.abs(means[1]! - means[0]!)).toBeGreaterThan(10);
});

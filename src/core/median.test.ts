/** Places in order against sorting. */
import { placeInOrder } from "./median";
import { seeded } from "./testing/signals";

it.each([
  ["scattered", (random: () => number) => random()],
  ["many alike", (random: () => number) => Math.floor(4 * random())],
  ["all alike", () => 0],
])("finds what stands at a place, of values that are %s", (_name, value) => {
  const random = seeded(5);
  for (const length of [1, 2, 3, 10, 997]) {
    const values = Float32Array.from({ length }, () => value(random));
    const sorted = values.slice().sort();
    for (const share of [0, 0.25, 0.5, 0.97, 1]) {
      const place = Math.min(length - 1, Math.floor(share * (length - 1)));
      expect(placeInOrder(values.slice(), place)).toBe(sorted[place]);
    }
  }
});

it("takes what is in order already, and the other way round", () => {
  const up = Float32Array.from({ length: 1000 }, (_, i) => i);
  expect(placeInOrder(up.slice(), 970)).toBe(970);
  expect(placeInOrder(up.slice().reverse(), 970)).toBe(970);
});

/** Looking closer, wider and along. */
import { moved, zoomed } from "./viewport";

const whole = 100;
const shareOf = (time: number, { from, to }: { from: number; to: number }) => (time - from) / (to - from);

describe("a view", () => {
  it("keeps the moment under the pointer where it is", () => {
    const once = zoomed(null, whole, 0.5, 30)!;
    expect(once.to - once.from).toBeCloseTo(50, 9);
    expect(shareOf(30, once)).toBeCloseTo(0.3, 9);
    const twice = zoomed(once, whole, 0.5, 40)!;
    expect(shareOf(40, twice)).toBeCloseTo(shareOf(40, once), 9);
  });

  it("goes no closer than two seconds, and all the way out is the whole", () => {
    let view = zoomed(null, whole, 0.5, 50);
    for (let i = 0; i < 20; i++) view = zoomed(view, whole, 0.5, 50);
    expect(view!.to - view!.from).toBeCloseTo(2, 9);
    for (let i = 0; i < 5; i++) view = zoomed(view, whole, 2, 50);
    expect(view).not.toBeNull();
    for (let i = 0; i < 5; i++) view = zoomed(view, whole, 2, 50);
    expect(view).toBeNull();
  });

  it.each([0, 3, 97, 100, 140])("stays inside the track, around %i s", (pivot) => {
    const view = zoomed({ from: 80, to: 100 }, whole, 0.7, pivot)!;
    expect(view.from).toBeGreaterThanOrEqual(0);
    expect(view.to).toBeLessThanOrEqual(whole);
  });

  it("of a track shorter than the closest view is the whole", () => {
    expect(zoomed(null, 1.5, 0.5, 1)).toBeNull();
  });

  it("moves by a share of itself and stops at the ends", () => {
    expect(moved({ from: 20, to: 40 }, whole, 0.1)).toEqual({ from: 22, to: 42 });
    expect(moved({ from: 1, to: 21 }, whole, -0.1)).toEqual({ from: 0, to: 20 });
    expect(moved({ from: 79, to: 99 }, whole, 0.1)).toEqual({ from: 80, to: 100 });
    expect(moved(null, whole, 0.1)).toBeNull();
  });
});

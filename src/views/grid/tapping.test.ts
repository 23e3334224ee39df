import { tappedBpm, tapsKept } from "./tapping";

describe("tapping", () => {
  it("says nothing before the fourth tap, then the tempo that fits them best", () => {
    expect(tappedBpm([0, 0.5, 1])).toBeNull();
    expect(tappedBpm([0, 0.5, 1, 1.5])).toBeCloseTo(120, 6);
    expect(tappedBpm([0, 0.52, 0.98, 1.51, 2.0, 2.49])).toBeCloseTo(120, -1);
  });

  it("begins anew after a pause, and forgets what is long ago", () => {
    expect(tapsKept([1, 1.5, 2], 5)).toEqual([5]);
    let taps: number[] = [];
    for (let i = 0; i < 40; i++) taps = tapsKept(taps, i * 0.5);
    expect(taps).toHaveLength(24);
  });
});

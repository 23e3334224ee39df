import { filterMovements, type BrightBar } from ".";

/** Bars of 1 kHz on both sides, changed by what is given. */
const bars = (change: (bar: number) => Partial<BrightBar> = () => ({})): BrightBar[] =>
  Array.from({ length: 24 }, (_, i) => ({ bar: i + 1, reference: 1000, version: 1000, ...change(i + 1) }));
/** Opens by two octaves over bars 9 to 16. */
const opening = (bar: number) => (bar < 9 || bar > 16 ? 2000 : 500 * 4 ** ((bar - 9) / 7));

describe("filter movements", () => {
  it("are found where only the reference opens", () => {
    const [own, ...others] = filterMovements(bars((bar) => ({ reference: opening(bar), version: 2000 })));
    expect(others).toEqual([]);
    expect(own).toMatchObject({ side: "reference", firstBar: 9, otherOctaves: 0 });
    // The bar after it is as bright as its last one.
    expect([16, 17]).toContain(own!.lastBar);
    expect(Math.abs(own!.octaves - 2)).toBeLessThan(0.25);
  });

  it("are none where both sides open, or where brightness only jumps or wavers", () => {
    expect(filterMovements(bars((bar) => ({ reference: opening(bar), version: opening(bar) })))).toEqual([]);
    expect(filterMovements(bars((bar) => ({ version: bar % 2 ? 1000 : 1500 })))).toEqual([]);
    expect(filterMovements(bars((bar) => ({ version: 1000 * 1.02 ** bar })))).toEqual([]);
  });

  it("do not reach over bars that are not recreated", () => {
    const apart = bars((bar) => ({ reference: opening(bar), version: 2000 })).filter(({ bar }) => bar !== 13);
    expect(filterMovements(apart).every(({ firstBar, lastBar }) => lastBar < 13 || firstBar > 13)).toBe(true);
  });
});

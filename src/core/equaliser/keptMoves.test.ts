import { asType, equaliserCorrectionSchema, mostMoves, spanOfMove, type EqualiserMove } from ".";

const peak: EqualiserMove = { type: "peak", hz: 1000, gainDb: 4, q: Math.SQRT2 };

describe("moves that are kept", () => {
  it("span the octaves that their Q says, and shelves and cuts the side that they work on", () => {
    // Q 1.414 is one octave (Audio EQ Cookbook).
    const { fromHz, toHz } = spanOfMove(peak);
    expect(Math.log2(toHz / fromHz)).toBeCloseTo(1, 1);
    expect(Math.sqrt(fromHz * toHz)).toBeCloseTo(1000, 6);
    expect(spanOfMove({ ...peak, type: "lowShelf" })).toMatchObject({ fromHz: 20 });
    expect(spanOfMove({ ...peak, type: "highCut" })).toMatchObject({ toHz: 20000 });
    expect(spanOfMove({ ...peak, hz: 20000, q: 0.3 }).toHz).toBe(20000);
  });

  it("keep what another type has, and lose what it has not", () => {
    expect(asType(peak, "highShelf")).toEqual({ type: "highShelf", hz: 1000, gainDb: 4, q: Math.SQRT1_2 });
    expect(asType(peak, "lowCut")).toMatchObject({ gainDb: 0, q: Math.SQRT1_2 });
    expect(asType(asType(peak, "lowCut"), "peak")).toMatchObject({ type: "peak", gainDb: 0 });
  });

  it("are read only as far as a filter can be made of them", () => {
    const read = (move: object) =>
      equaliserCorrectionSchema.safeParse({ moves: [{ ...peak, on: true, ...move }] });
    expect(read({}).success).toBe(true);
    expect(equaliserCorrectionSchema.safeParse({}).success).toBe(true);
    for (const wrong of [
      { hz: 19 },
      { hz: NaN },
      { gainDb: 15.1 },
      { gainDb: Infinity },
      { q: 17 },
      { on: "yes" },
    ])
      expect(read(wrong).success).toBe(false);
    const many = new Array(mostMoves + 1).fill({ ...peak, on: true });
    expect(equaliserCorrectionSchema.safeParse({ moves: many }).success).toBe(false);
  });
});

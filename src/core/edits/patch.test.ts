/** Patches against what they must do: lead from one value to another, back again, and notice conflicts. */
import { applyPatch, diff, inverted, patchSchema, sameValue, type Json } from "./patch";

/** A small repeatable source of random plain values. */
function source(seed: number) {
  let state = seed;
  const next = () => (state = (state * 1103515245 + 12345) % 2147483648) / 2147483648;
  const pick = (count: number) => Math.floor(next() * count);
  const value = (depth: number): Json => {
    const kind = pick(depth > 0 ? 5 : 3);
    if (kind === 0) return pick(4);
    if (kind === 1) return ["a", "b", "c"][pick(3)]!;
    if (kind === 2) return pick(2) === 0;
    if (kind === 3) return Array.from({ length: pick(5) }, () => value(depth - 1));
    return Object.fromEntries(
      ["x", "y", "z"].filter(() => next() < 0.6).map((key) => [key, value(depth - 1)]),
    );
  };
  return { document: () => ({ a: value(3), b: value(3), list: value(2) }) };
}

describe("patches", () => {
  it("lead from any value to any other and back, also as JSON", () => {
    const random = source(7);
    for (let i = 0; i < 500; i++) {
      const before = random.document();
      const after = random.document();
      const patch = patchSchema.parse(JSON.parse(JSON.stringify(diff(before, after))));
      const there = applyPatch(before, patch);
      expect(there).toEqual({ ok: true, value: after });
      const back = applyPatch(after, inverted(patch));
      expect(back.ok && sameValue(back.value, before)).toBe(true);
    }
  });

  it("are empty for equal values and small for small changes of long lists", () => {
    const hits = Array.from({ length: 5000 }, (_, i) => ({ time: i / 10, voice: "hat" }));
    expect(diff({ hits }, { hits: hits.map((hit) => ({ ...hit })) })).toEqual([]);
    const [operation, ...rest] = diff({ hits }, { hits: hits.toSpliced(2500, 1) });
    expect(rest).toEqual([]);
    expect(operation).toEqual({ path: ["hits"], at: 2500, from: [hits[2500]], to: [] });
  });

  it("leave the value that they are applied to alone, and share what they do not touch", () => {
    const before = { grid: { bpm: 120 }, drums: { added: [1, 2] } };
    const outcome = applyPatch(before, diff(before, { ...before, grid: { bpm: 60 } }));
    expect(before.grid.bpm).toBe(120);
    expect(outcome.ok && outcome.value.drums).toBe(before.drums);
  });

  it("are taken back out of order where nothing else touched the same place", () => {
    const first = { added: [1], note: "a" };
    const second = { added: [0, 1], note: "a" };
    const third = { added: [0, 1, 2], note: "b" };
    const undone = applyPatch(third, inverted(diff(first, second)));
    expect(undone).toEqual({ ok: true, value: { added: [1, 2], note: "b" } });
  });

  it("are refused where something else did", () => {
    const patch = diff({ bpm: 120 }, { bpm: 60 });
    expect(applyPatch({ bpm: 90 }, patch)).toMatchObject({ ok: false, refusal: { code: "already-here" } });
    expect(applyPatch({ list: [9] }, diff({ list: [1, 2] }, { list: [2] })).ok).toBe(false);
    expect(applyPatch({}, diff({ list: [1] }, { list: [] })).ok).toBe(false);
  });

  it("never reach into a prototype", () => {
    expect(patchSchema.safeParse([{ path: ["__proto__", "x"], to: 1 }]).success).toBe(false);
    const outcome = applyPatch({} as Record<string, unknown>, [{ path: ["toString"], to: 1 }]);
    expect(outcome.ok && Object.hasOwn(outcome.value, "toString")).toBe(true);
  });
});

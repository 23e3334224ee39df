/** Which elements are found in a track, by what was heard of it. */
import { asColumns } from "../drums";
import { drumsAsWritten, steadyGrid, type Written } from "../testing/drums";
import { madeUpAnalysis } from "../testing/study";
import { countedPlan } from "../plan";
import { foundElements, heardElements, isFound } from "./foundElements";

const bars = 16;
const written = steadyGrid(120, bars);
// The beat after the last bar begins another.
const grid = { ...written, beats: written.beats.slice(0, -1) };
const heard = (drums: Written, { notes = 0, chords = true, effects = [] as number[] } = {}) => {
  const analysis = madeUpAnalysis({ bars });
  const plan = countedPlan(analysis.plan);
  const form = plan.measured.form!;
  const presence = {
    ...form.bars.presence,
    effects: Array.from({ length: bars }, (_, i) => Number(effects.includes(i + 1))),
  };
  return heardElements(
    {
      drums: asColumns(drumsAsWritten(drums, written).hits, []),
      bass: Array.from({ length: notes }, (_, i) => ({
        ...analysis.bass[0]!,
        start: grid.beats[2 * i]!,
        end: grid.beats[2 * i + 1]!,
      })),
    },
    {
      chords: chords ? plan.chords : [],
      measured: { ...plan.measured, form: { ...form, bars: { ...form.bars, presence } } },
    },
    grid,
  );
};
const names = (...all: Parameters<typeof heard>) => foundElements(heard(...all)).map(({ name }) => name);

describe("what is heard of a track", () => {
  it("is counted by part, with the bars that have it", () => {
    const { parts, bars: all } = heard(
      { kick: ["X...X...X...X...", "................"], hat: ["x.x.x.x.x.x.x.x."] },
      { notes: 8 },
    );
    expect(all).toBe(bars);
    expect(parts.kick).toEqual({ count: 32, bars: 8 });
    expect(parts.hats).toEqual({ count: 128, bars: 16 });
    // Eight notes, two a bar.
    expect(parts.bass).toEqual({ count: 8, bars: 4 });
    expect(parts.music).toEqual({ count: 16, bars: 16 });
    expect(parts.percussion).toEqual({ count: 0, bars: 0 });
  });
});

describe("elements that a study begins with", () => {
  const kick = ["X...X...X...X..."];

  it("are those that were heard, in the order of work", () => {
    expect(names({ kick, snare: ["....X.......X..."] }, { notes: 8 })).toEqual([
      "Kick",
      "Bass",
      "Snare",
      "Chords",
      "Lead or vocal",
    ]);
    expect(names({ kick }, { chords: false })).toEqual(["Kick"]);
    expect(names({}, { effects: [8] })).toEqual(["Chords", "Lead or vocal", "Effects"]);
  });

  it("call the back-beat what it is", () => {
    const clap = ["....X.......X..."];
    expect(names({ kick, clap })).toContain("Clap");
    expect(names({ kick, clap, snare: ["......X.......X."] })).toContain("Snare and clap");
    expect(names({ kick, rim: clap })).toContain("Snare");
  });

  it("leave out what is heard once or twice", () => {
    const few = heard({
      kick,
      tom: ["X...............", ...Array.from({ length: 15 }, () => "................")],
    });
    expect(few.parts.percussion.count).toBe(1);
    expect(isFound(few, "percussion")).toBe(false);
    expect(isFound(few, "kick")).toBe(true);
  });
});

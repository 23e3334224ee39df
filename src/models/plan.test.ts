/** What the views Harmony and Sections make of plans: where things stand, and what answers what. */
import type { Grid } from "@/core/grid/grid";
import type { FormEstimate } from "@/core/sections";
import { chartRows } from "./chartRows";
import { answeringBars, hasMoment, playsIn, presenceAnswering } from "./sections";
import { answeredItems, type PlanTrack } from "./plan";

const grid = (bpm: number, start: number, bars: number): Grid => ({
  beats: Array.from({ length: 4 * bars + 1 }, (_, k) => start + (k * 60) / bpm),
  barOne: 0,
  beatsPerBar: 4,
  steady: true,
  bpm,
});
const section = (firstBar: number, lastBar: number, name = "verse") => ({
  firstBar,
  lastBar,
  name,
  letter: "A",
});

describe("rows of a chart", () => {
  const rows = (
    sections: ReturnType<typeof section>[],
    only: { first: number; last: number } | null = null,
  ) =>
    chartRows(grid(120, 0, 24), sections, only).map(({ firstBar, bars, section: own }) => [
      firstBar,
      bars,
      own?.name,
    ]);

  it("begin anew with a section and hold eight bars at most", () => {
    expect(rows([section(1, 4, "intro"), section(5, 24, "verse")])).toEqual([
      [1, 4, "intro"],
      [5, 8, "verse"],
      [13, 8, undefined],
      [21, 4, undefined],
    ]);
  });

  it("are those of the selected bars", () => {
    expect(rows([section(1, 4, "intro"), section(5, 24, "verse")], { first: 3, last: 14 })).toEqual([
      [3, 2, undefined],
      [5, 8, "verse"],
      [13, 2, undefined],
    ]);
  });
});

const form = (drums: number[], moments: FormEstimate["moments"] = []): FormEstimate => ({
  sections: [],
  moments,
  bars: {
    firstBar: 1,
    loudness: drums.map(() => -14),
    brightness: drums.map(() => 300),
    width: drums.map(() => -12),
    density: drums.map(() => 8),
    presence: {
      drums,
      bass: drums.map(() => 1),
      chords: drums.map(() => 0),
      lead: drums.map(() => 0),
      effects: drums.map((_, i) => (i === 1 ? 1 : 0)),
    },
  },
});

/** A version at 100 BPM, read at half its tempo: its plan is counted on the faster grid. */
const version = (measured: FormEstimate, planGrid = grid(100, 1, 8)): PlanTrack => ({
  itemId: "v",
  kind: "version",
  name: "Version 1",
  choice: null,
  tuningCents: 0,
  plan: {
    measured: {
      harmony: { key: null, chords: [], bars: { firstBar: 1, beatsPerBar: 4, chroma: [] } },
      form: measured,
    },
    key: null,
    chords: [],
    sections: [],
  },
  planGrid,
  grid: grid(100, 1, 8),
  corrections: { harmony: {}, form: {} },
  current: true,
});
const spans = [{ referenceFirst: 5, versionFirst: 1, bars: 4 }];

describe("what answers what", () => {
  it("places a version's items along the reference, clipped to what is answered", () => {
    const items = [
      { from: 0, to: 8 },
      { from: 8, to: 32 },
    ];
    expect(
      answeredItems(items, ({ from, to }) => [from, to] as const, version(form([])), spans, 4).map(
        ({ place, startBeat, endBeat }) => [place, Math.round(startBeat), Math.round(endBeat)],
      ),
    ).toEqual([
      [0, 16, 24],
      [1, 24, 32],
    ]);
  });

  it("names the version's own bars, on whatever grid its plan is counted", () => {
    expect(answeringBars(version(form([])), spans, 6, 7)).toEqual([2, 3]);
    expect(answeringBars(version(form([])), spans, 1, 4)).toEqual([]);
    // Twice as many bars on its own grid: bar 2 of coverage is bars 3 and 4, its middle in bar 4.
    const double = version(form([]), grid(200, 1, 16));
    expect(answeringBars(double, spans, 6, 6)).toEqual([4]);
  });

  it("says who plays in the bars that answer a section", () => {
    const own = version(form([1, 1, 0, 0, 0, 0, 0, 0]));
    expect(presenceAnswering(own, spans, section(5, 6))).toMatchObject({ drums: 1, bass: 1, effects: 1 });
    expect(presenceAnswering(own, spans, section(5, 8))!.drums).toBeCloseTo(0.5);
    expect(presenceAnswering(own, spans, section(20, 22))).toBeNull();
  });

  it("takes what was said by hand over what was measured", () => {
    const measures = {
      loudness: 0,
      brightness: 0,
      width: 0,
      density: 0,
      presence: { drums: 0.9, bass: 0.2, chords: 0, lead: 0, effects: 0 },
    };
    expect(playsIn("drums", section(1, 4), measures)).toBe(true);
    expect(playsIn("bass", section(1, 4), measures)).toBe(false);
    expect(playsIn("drums", { ...section(1, 4), presence: { drums: false } }, measures)).toBe(false);
    expect(playsIn("drums", section(1, 4), null)).toBe(false);
  });

  it("finds a moment of the same kind at the same place, or says that the place is not recreated", () => {
    const own = version(form([1, 1, 1, 1, 1, 1, 1, 1], [{ kind: "stop", startBeat: 6, endBeat: 8 }]));
    const at = (kind: "stop" | "crash", startBeat: number) =>
      hasMoment(own, spans, { kind, startBeat, endBeat: startBeat + 2 }, 4);
    // Beat 22 is bar 6 beat 3 of the reference, bar 2 beat 3 of the version.
    expect(at("stop", 22)).toBe(true);
    expect(at("crash", 22)).toBe(false);
    expect(at("stop", 30)).toBe(false);
    expect(at("stop", 60)).toBeNull();
  });
});

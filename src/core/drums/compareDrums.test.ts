import { drumsAsWritten, steadyGrid, type Written } from "../testing/drums";
import { compareDrums, drumGaps, type DrumSide, type IntendedDifference } from "./compareDrums";
import { drumReports } from "./drumReports";
import type { CountedDrums, CountedHit } from "./correction";
import { straight, type MainSwing } from "./steps";

const grid = steadyGrid(120, 8);
const written: Written = {
  kick: ["X...X...X...X..."],
  snare: ["....X.......X..."],
  hat: ["X,o,X,o,X,o,X,o,"],
};
const side = (drums: CountedDrums, swing: MainSwing = straight, own = grid): DrumSide => ({
  drums,
  grid: own,
  swing,
});
const spans = [{ referenceFirst: 1, versionFirst: 1, bars: 8 }];
const reference = drumsAsWritten(written, grid);
const changed = (alter: (hit: CountedHit, beat: number) => CountedHit | null) =>
  drumsAsWritten(written, grid, { alter });
const compared = (version: CountedDrums, intended: IntendedDifference[] = []) =>
  compareDrums(side(reference), side(version), spans, intended);

describe("drums against drums", () => {
  it("agree with themselves in everything", () => {
    const own = compared(reference);
    expect(own).toMatchObject({ pattern: 1, timing: 0, accents: 0, bars: 8 });
    expect(own.swing!.reference).toBe(own.swing!.version);
    expect(own.hits.every(({ kind }) => kind === "agrees")).toBe(true);
    expect(drumReports(own, 4)).toEqual([]);
  });

  it("name what is missing and what is too much, with its place", () => {
    const version = changed((hit, beat) =>
      hit.voice === "kick" && (beat === 4 || beat === 31) ? null : hit,
    );
    version.hits.push({
      time: 0.5 + 10.25 / 2,
      voice: "snare",
      velocity: 0.8,
      confidence: 0.9,
      origin: "heard",
    });
    version.hits.sort((a, b) => a.time - b.time);
    const own = compared(version);
    expect(drumReports(own, 4)).toEqual([
      { kind: "missing", voice: "kick", places: [4, 31], amount: null },
      { kind: "extra", voice: "snare", places: [10.25], amount: null },
    ]);
    // 32 kicks, 16 snares, 128 hats: weighed by velocity, 2 · 0.9 missing and 0.8 too much.
    const whole = 32 * 0.9 + 16 * 0.9 + 32 * 0.9 + 32 * 0.5 + 64 * 0.3;
    expect(own.pattern).toBeCloseTo((2 * (whole - 1.8)) / (2 * (whole - 1.8) + 1.8 + 0.8), 6);
    expect(own.timing).toBeCloseTo(0, 9);
    expect(own.accents).toBeCloseTo(0, 9);
  });

  it("pair a drum that the version has under another name, and say so", () => {
    const asRim = compared(changed((hit) => (hit.voice === "hat" ? { ...hit, voice: "rim" } : hit)));
    expect(asRim.pattern).toBe(1);
    expect(drumReports(asRim, 4)).toMatchObject([{ kind: "otherVoice", voice: "hat", otherVoice: "rim" }]);
    // One kind of two: the other keeps its name.
    const two = (voice: "snare" | "perc") =>
      changed((hit, beat) => (hit.voice === "snare" && beat % 4 === 3 ? { ...hit, voice, kind: 1 } : hit));
    const own = compareDrums(side(two("snare")), side(two("perc")), spans);
    expect(own.pattern).toBe(1);
    expect(own.hits.filter(({ otherVoice }) => otherVoice === "perc")).toHaveLength(8);
  });

  it("do not pair drums that only share some places, nor low ones with high ones", () => {
    // A rim on half of the hats' places and others beside them.
    const partly = compared(
      changed((hit, beat) =>
        hit.voice !== "hat"
          ? hit
          : beat % 1 === 0.5
            ? { ...hit, voice: "rim", time: hit.time + 0.1 }
            : { ...hit, voice: "rim" },
      ),
    );
    expect(drumReports(partly, 4).map(({ kind }) => kind)).toEqual(
      expect.arrayContaining(["missing", "extra"]),
    );
    const high = compared(changed((hit) => (hit.voice === "kick" ? { ...hit, voice: "rim" } : hit)));
    expect(drumReports(high, 4)).toMatchObject([
      { kind: "missing", voice: "kick" },
      { kind: "extra", voice: "rim" },
    ]);
  });

  it("say by how much a step is late, and nothing else", () => {
    const version = changed((hit, beat) =>
      hit.voice === "snare" && beat % 4 === 3 ? { ...hit, time: hit.time + 0.015 } : hit,
    );
    const own = compared(version);
    const [report, ...others] = drumReports(own, 4);
    expect(others).toEqual([]);
    expect(report).toMatchObject({ kind: "late", voice: "snare" });
    expect(report!.amount).toBeCloseTo(0.015, 6);
    expect(report!.places).toEqual([3, 7, 11, 15, 19, 23, 27, 31]);
    expect(own.pattern).toBe(1);
    // Half of the snares by 15 ms.
    expect(own.voices.find(({ voice }) => voice === "snare")!.timing).toBeCloseTo(0.015 / Math.SQRT2, 6);
  });

  it("hold one voice against most others where it has pulled the grid along", () => {
    // As a beat tracker does it: late snares are the grid's business too, and all the rest seems early.
    const version = changed((hit) => ({ ...hit, time: hit.time + (hit.voice === "snare" ? 0.01 : -0.005) }));
    const [report, ...others] = drumReports(compared(version), 4);
    expect(others).toEqual([]);
    expect(report).toMatchObject({ kind: "late", voice: "snare" });
    expect(report!.amount).toBeCloseTo(0.015, 6);
    expect(report!.offsets!.reference).toBeCloseTo(0, 6);
    expect(report!.offsets!.version).toBeCloseTo(0.015, 6);
  });

  it("do not call early what an earlier voice draws along", () => {
    const version = changed((hit, beat) => {
      if (beat % 4 !== 3) return hit;
      const by = hit.voice === "snare" ? -0.014 : hit.voice === "hat" ? -0.007 : 0;
      return { ...hit, time: hit.time + by };
    });
    expect(drumReports(compared(version), 4)).toMatchObject([{ kind: "early", voice: "snare" }]);
    // On its own it is.
    const hats = changed((hit, beat) =>
      beat % 4 === 3 && hit.voice === "hat" ? { ...hit, time: hit.time - 0.007 } : hit,
    );
    expect(drumReports(compared(hats), 4)).toMatchObject([{ kind: "early", voice: "hat" }]);
  });

  it("hold all other voices against the kick where only two are struck", () => {
    const two = (drums: CountedDrums) => ({
      ...drums,
      hits: drums.hits.filter(({ voice }) => voice !== "hat"),
    });
    const version = two(
      changed((hit) => ({ ...hit, time: hit.time + (hit.voice === "snare" ? -0.008 : 0.004) })),
    );
    const own = compareDrums(side(two(reference)), side(version), spans);
    expect(drumReports(own, 4)).toMatchObject([{ kind: "early", voice: "snare" }]);
    expect(drumReports(own, 4)[0]!.amount).toBeCloseTo(-0.012, 6);
  });

  it("say that accents are gone, and nothing else", () => {
    const own = compared(changed((hit) => (hit.voice === "hat" ? { ...hit, velocity: 0.55 } : hit)));
    expect(drumReports(own, 4).map(({ kind, voice }) => [kind, voice])).toEqual([["even", "hat"]]);
    expect(own.pattern).toBe(1);
    expect(own.timing).toBeCloseTo(0, 9);
    expect(own.accents).toBeGreaterThan(2);
  });

  it("say nothing of accents where another voice of the kind covers them", () => {
    const open: Written = { ...written, openHat: ["..X...X...X...X."] };
    const both = drumsAsWritten(open, grid);
    // Closed hats under the open ones, heard much louder in another mix.
    const louder = drumsAsWritten(open, grid, {
      alter: (hit, beat) => (hit.voice === "hat" && beat % 1 === 0.5 ? { ...hit, velocity: 1 } : hit),
    });
    expect(drumReports(compareDrums(side(both), side(louder), spans), 4)).toEqual([]);
    const alone = changed((hit, beat) =>
      hit.voice === "hat" && beat % 1 === 0.5 ? { ...hit, velocity: 1 } : hit,
    );
    expect(drumReports(compared(alone), 4)).toMatchObject([{ kind: "loud", voice: "hat" }]);
  });

  it("do not take a voice that is struck softer throughout for other accents", () => {
    const own = compared(
      changed((hit) => (hit.voice === "hat" ? { ...hit, velocity: hit.velocity * 0.7 } : hit)),
    );
    expect(own.accents).toBeCloseTo(0, 6);
  });

  it("tell swing from timing", () => {
    const swing: MainSwing = { of: 16, percent: 58 };
    const swung = drumsAsWritten(written, grid, { swing });
    const own = compareDrums(side(swung, swing), side(reference), spans);
    expect(own.swing!.reference).toBeCloseTo(58, 3);
    expect(own.swing!.version).toBeCloseTo(50, 3);
    expect(own.pattern).toBe(1);
    expect(own.timing).toBeCloseTo(0, 6);
  });

  it("change their sign but not their size when exchanged", () => {
    const version = changed((hit, beat) =>
      hit.voice === "kick" && beat === 8
        ? null
        : hit.voice === "hat"
          ? { ...hit, time: hit.time + 0.011 }
          : hit,
    );
    const one = compareDrums(side(reference), side(version), spans);
    const other = compareDrums(side(version), side(reference), spans);
    expect(other.pattern).toBeCloseTo(one.pattern!, 9);
    expect(other.timing).toBeCloseTo(one.timing!, 9);
    const late = (all: typeof one) => all.voices.find(({ voice }) => voice === "hat")!.meanTimingDeviation!;
    expect(late(other)).toBeCloseTo(-late(one), 9);
  });

  it("never match better when more is changed", () => {
    const worse = [5, 10, 20, 40].map(
      (ms) =>
        compared(changed((hit) => (hit.voice === "snare" ? { ...hit, time: hit.time + ms / 1000 } : hit)))
          .timing!,
    );
    expect(worse).toEqual([...worse].sort((a, b) => a - b));
    const fewer = [1, 3, 5, 7].map(
      (count) =>
        compared(changed((hit, beat) => (hit.voice === "kick" && beat < count ? null : hit))).pattern!,
    );
    expect(fewer).toEqual([...fewer].sort((a, b) => b - a));
  });

  it("are compared over coverage, at another tempo, in another place", () => {
    const faster = steadyGrid(132, 4, 0.2);
    const loop = drumsAsWritten(written, faster);
    const own = compareDrums(side(reference), side(loop, straight, faster), [
      { referenceFirst: 5, versionFirst: 1, bars: 4 },
    ]);
    expect(own.pattern).toBe(1);
    expect(own.timing).toBeCloseTo(0, 6);
    expect(own.hits.every((hit) => hit.version!.bar >= 5)).toBe(true);
  });

  it("leave out what is intended", () => {
    const version = changed((hit) => (hit.voice === "hat" ? null : hit));
    expect(compared(version).pattern).toBeLessThan(0.8);
    const own = compared(version, [{ voice: "hat", kind: "missing" }]);
    expect(own.pattern).toBe(1);
    expect(drumReports(own, 4)).toEqual([]);
  });

  it("leave out of the pattern what one side rests in, where that is known", () => {
    // Snares rest in bars 3 and 4; a kick is missing in bar 6.
    const own = compared(
      changed((hit, beat) =>
        (hit.voice === "snare" && beat >= 8 && beat < 16) || (hit.voice === "kick" && beat === 20)
          ? null
          : hit,
      ),
    );
    const patternOf = (voice: string, silent: number[] = []) =>
      drumGaps({ ...own, voices: own.voices.filter((each) => each.voice === voice) }, [], silent).pattern;
    // 12 of 16 snares agree.
    expect(patternOf("snare")).toBeCloseTo(24 / 28, 6);
    expect(patternOf("snare", [3])).toBeCloseTo(24 / 26, 6);
    expect(patternOf("snare", [3, 4])).toBe(1);
    expect(patternOf("kick", [3, 4])).toBeCloseTo(62 / 63, 6);
  });

  it("do not call a hit missing that was heard faintly, unless it is heard clearly in other bars", () => {
    const without = (voice: "kick" | "hat") => {
      const version = changed((hit, beat) => (hit.voice === voice && beat === 12 ? null : hit));
      version.subThreshold.push({ time: 0.5 + 6 + 0.004, voice, velocity: 0.6, confidence: 0.2 });
      return compared(version).pattern;
    };
    // A hat may be covered; a kick that stands out everywhere else is not there.
    expect(without("hat")).toBe(1);
    expect(without("kick")).toBeLessThan(1);
  });

  it("name a soft voice that is left out throughout, not one that is heard now and then", () => {
    const hats = (goes: (beat: number) => boolean) =>
      drumReports(compared(changed((hit, beat) => (hit.voice === "hat" && goes(beat) ? null : hit))), 4);
    expect(hats((beat) => beat % 1 === 0.25)).toMatchObject([{ kind: "missing", voice: "hat" }]);
    // Half of the bars lack it, in no order.
    expect(hats((beat) => beat % 1 === 0.25 && [0, 3, 4, 6].includes(Math.floor(beat / 4)))).toEqual([]);
  });

  it("do not name a closed hat under an open one", () => {
    const version = drumsAsWritten({ ...written, openHat: ["..x...x...x...x."] }, grid);
    const both = drumsAsWritten(
      { kick: written.kick!, snare: written.snare!, openHat: ["..x...x...x...x."] },
      grid,
    );
    // The closed hats on the off-beats are under the open ones.
    const own = compareDrums(side(both), side(version), spans);
    const extra = own.hits.filter(({ kind }) => kind === "extra");
    expect(extra.some(({ reliable }) => reliable)).toBe(true);
    expect(
      extra.filter(({ version: hit }) => hit!.quantised % 1 === 0.5).every(({ reliable }) => !reliable),
    ).toBe(true);
  });

  it("name ghost notes of one side only where they are heard clearly", () => {
    const ghosts = (confidence: number) =>
      changed((hit, beat) => (hit.voice === "hat" && beat % 1 === 0.25 ? { ...hit, confidence } : hit));
    const without = changed((hit, beat) => (hit.voice === "hat" && beat % 1 === 0.25 ? null : hit));
    const said = (confidence: number) =>
      drumReports(compareDrums(side(without), side(ghosts(confidence)), spans), 4);
    expect(said(0.85)).toEqual([]);
    expect(said(0.95)).toMatchObject([{ kind: "extra", voice: "hat" }]);
  });

  it("do not name hits on a step that the other side hears faintly in many bars", () => {
    const bare = changed((hit, beat) => (hit.voice === "hat" && beat % 4 === 1.5 ? null : hit));
    const faintly = (bars: number) => {
      const subThreshold = Array.from({ length: bars }, (_, bar) => ({
        time: 0.5 + (4 * bar + 1.5) / 2,
        voice: "hat" as const,
        velocity: 0.4,
        confidence: 0.2,
      }));
      return drumReports(compareDrums(side({ ...bare, subThreshold }), side(reference), spans), 4);
    };
    expect(faintly(0)).toMatchObject([{ kind: "extra", voice: "hat" }]);
    expect(faintly(3)).toEqual([]);
  });

  it("take such a step for played in the bars too where the other side does not hear it at all", () => {
    const isStep = (voice: string, beat: number) => voice === "hat" && beat % 4 === 1.5;
    const bare = changed((hit, beat) => (isStep(hit.voice, beat) ? null : hit));
    // One side lets it through in the first four bars, the other hints at it in the last four.
    const first = changed((hit, beat) => (isStep(hit.voice, beat) && beat >= 16 ? null : hit));
    const said = (barsHinted: readonly number[]) => {
      const subThreshold = barsHinted.map((bar) => ({
        time: 0.5 + (4 * bar + 1.5) / 2,
        voice: "hat" as const,
        velocity: 0.4,
        confidence: 0.2,
      }));
      return drumReports(compareDrums(side({ ...bare, subThreshold }), side(first), spans), 4);
    };
    expect(said([4])).toMatchObject([{ kind: "extra", voice: "hat" }]);
    expect(said([4, 5, 7])).toEqual([]);
  });

  it("take a clap for a snare as the same hit, and say so", () => {
    const own = compared(changed((hit) => (hit.voice === "snare" ? { ...hit, voice: "clap" } : hit)));
    expect(own.pattern).toBe(1);
    expect(drumReports(own, 4)).toMatchObject([{ kind: "otherVoice", voice: "snare", otherVoice: "clap" }]);
  });

  it("have no number where one side has no drums", () => {
    const own = compared({ hits: [], subThreshold: [], bassNotes: [] });
    expect(own).toMatchObject({ pattern: null, timing: null, accents: null, swing: null });
  });
});

import { bands } from "@/core/tone";
import { madeUpStudy } from "@/core/testing/study";
import { compareAll, measuresOfWhole } from "@/core/study";
import { responseOf, type EqualiserMove, type KeptMove } from "@/core/equaliser";
import { moveDetail, movesTable, moveTitle, movesWorth, regionsInWords, suggestedMoves } from "./equaliser";
import { spectrumCurve, type ComparedSpectra } from "./spectra";
import { noteOf, toneModel } from "./tone";

const rate = 44100;
const peak = (hz: number, gainDb: number, q = 1): EqualiserMove => ({ type: "peak", hz, gainDb, q });
const kept = (move: EqualiserMove, on = true): KeptMove => ({ ...move, on });

/** A reference whose spectrum falls by 3 dB an octave, and a version of it through some filters. */
function filteredSpectra(filters: readonly EqualiserMove[]): ComparedSpectra {
  const middles = bands(12).map(({ centre }) => centre);
  const response = responseOf(filters, middles, rate);
  const reference = middles.map((hz) => 0.01 / hz);
  const version = reference.map((power, i) => power * 10 ** (response[i]! / 10));
  const none = reference.map(() => 0);
  const spectra = {
    reference: { whole: reference, mid: reference, side: none },
    version: { whole: version, mid: version, side: none },
    shift: 0,
  };
  // By as much as undoing the filters changes the loudness the two differ.
  const undone = filters.map((move) => kept({ ...move, gainDb: -move.gainDb }));
  return { ...spectra, shift: -movesWorth(spectra, undone, rate).gainDb };
}

describe("regions in words", () => {
  it("call what is too much and too little by the names of the trade, and the rest a match", () => {
    const curve = spectrumCurve(filteredSpectra([peak(350, 5), peak(11000, -6, 0.8)]), "whole", 6);
    const words = regionsInWords(curve, 1);
    const at = (from: number) => words.find(({ fromHz }) => fromHz === from)!;
    expect(at(250)).toMatchObject({ words: "muddy", isHeard: true, range: "250 Hz – 500 Hz" });
    expect(at(250).gap).toBeGreaterThan(3);
    expect(at(8000)).toMatchObject({ words: "closed, without air", isHeard: true });
    expect(at(1000)).toMatchObject({ words: "matches", isHeard: false });
  });
});

describe("moves in words and numbers", () => {
  const spectra = filteredSpectra([peak(350, 5), peak(3000, -4, 1.5)]);
  const moves = suggestedMoves(spectra, rate);

  it("are suggested against what was done, and say what each is worth", () => {
    expect(moves.map((move) => moveTitle(move))).toEqual([
      expect.stringMatching(/^Cut [45]\.\d dB at 3[2-8]\d Hz$/),
      expect.stringMatching(/^Add [34]\.\d dB at (2\.9|3|3\.1) kHz$/),
    ]);
    expect(moveDetail(moves[0]!)).toMatch(/yours is muddy here$/);
    const worth = movesWorth(spectra, moves, rate);
    expect(worth.before).toBeGreaterThan(1.2);
    expect(worth.after).toBeLessThan(0.4);
    expect(worth.scoreAfter).toBe(100);
    expect(worth.each.every((db) => db > 0.4)).toBe(true);
  });

  it("count only as far as they are on", () => {
    const off = moves.map((move) => ({ ...move, on: false }));
    const worth = movesWorth(spectra, off, rate);
    expect(worth).toMatchObject({ after: worth.before, each: [0, 0], gainDb: 0 });
    const one = movesWorth(spectra, [moves[0]!, off[1]!], rate);
    expect(one.after).toBeLessThan(worth.before);
    expect(one.after).toBeGreaterThan(movesWorth(spectra, moves, rate).after);
  });

  it("are written as a table for programs and as text for people", () => {
    const list = [
      kept({ type: "lowCut", hz: 40, gainDb: 0, q: Math.SQRT1_2 }),
      kept(peak(310, -2.9, 0.9)),
      kept(peak(5000, 2), false),
      kept({ type: "highShelf", hz: 9000, gainDb: 2.1, q: Math.SQRT1_2 }),
    ];
    expect(movesTable(list, "csv")).toBe(
      "type,frequency Hz,gain dB,Q\r\nlow cut,40,,\r\npeak,310,-2.9,0.9\r\nhigh shelf,9000,2.1,\r\n",
    );
    expect(movesTable(list, "text").split("\n")).toEqual([
      "1. Low cut at 40 Hz (low cut)",
      "2. Cut 2.9 dB at 310 Hz (peak, Q 0.90)",
      "3. Add 2.1 dB above 9 kHz (high shelf)",
      "",
    ]);
  });
});

it("names the note of a frequency", () => {
  expect([440, 27.5, 261.6, 3140, 466.2].map(noteOf)).toEqual(["A4", "A0", "C4", "G7", "A♯4"]);
});

describe("the model of the Tone view", () => {
  const results = madeUpStudy();
  const [version] = results.study.versions.slice(-1);
  const measuresOf = ({ file }: { file: { hash: string } }) =>
    measuresOfWhole(results.analyses.get(file.hash)!);
  const [reference, measured] = [measuresOf(results.study.reference!), measuresOf(version!)];
  const modelOf = (own = results) =>
    toneModel(own, {
      version: version!,
      reference,
      measured,
      nothingRecreated: false,
      outdated: false,
      compared: compareAll(reference, measured, own.study),
    });

  it("says in words where a filter is no cure, by the names of the sections", () => {
    const comparisons = new Map(results.comparisons);
    const own = comparisons.get(version!.id)!;
    comparisons.set(version!.id, {
      ...own,
      value: {
        ...own.value,
        wrongCures: [
          {
            fromHz: 1585,
            toHz: 3162,
            kind: "sections",
            spreadDb: 2,
            most: { section: 0, gapDb: 2.1 },
            least: { section: 1, gapDb: -1.9 },
            likeness: null,
          },
          {
            fromHz: 3000,
            toHz: 17000,
            kind: "strokes",
            spreadDb: 0,
            most: null,
            least: null,
            likeness: 0.41,
          },
          { fromHz: 50, toHz: 100, kind: "bars", spreadDb: 1, most: null, least: null, likeness: null },
        ],
      },
    });
    const [strokes, sections, ...others] = modelOf({ ...results, comparisons }).wrongCures;
    const names = results.plans
      .get(results.study.reference!.id)!
      .value.form!.sections.map(({ name }) => name);
    expect(sections!.detail.toLowerCase()).toContain(`${names[0]} +2.1 db, ${names[1]} −1.9 db`);
    expect(strokes!.detail).toContain("41 %");
    // A decibel from bar to bar is nothing to go after.
    expect(others).toEqual([]);
  });

  it("says whose a resonance is", () => {
    const analyses = new Map(results.analyses);
    const own = analyses.get(version!.file.hash)!;
    const excess = own.narrowPeaks.excess.map((db, b) => (b === 100 ? 6 : b === 99 || b === 101 ? 3 : db));
    analyses.set(version!.file.hash, { ...own, narrowPeaks: { excess, resonances: [] } });
    const [only] = modelOf({ ...results, analyses }).resonances;
    expect(only).toMatchObject({ side: "version", heightDb: 6 });
    expect(only!.title).toMatch(/rings, yours only$/);
  });
});

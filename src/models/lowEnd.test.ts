import { madeUpLens } from "@/core/testing/lens";
import { madeUpLowEnd } from "@/core/testing/lowEnd";
import { madeUpBpm, madeUpStudy } from "@/core/testing/study";
import type { BassNote } from "@/core/lowEnd";
import { lowEndFindings, lowEndModel, notesBelow, smallSpeakerWords } from "./lowEnd";

const note = (midi: number, levelDb = -18): BassNote => ({
  start: 0,
  end: 0.2,
  midi,
  cents: 0,
  levelDb,
  sure: 1,
});
const none = { reference: [], version: [] };
const plain = madeUpLowEnd();
const titles = (
  changes: Parameters<typeof madeUpLowEnd>[0],
  notes: Parameters<typeof lowEndFindings>[2] = none,
) => lowEndFindings(plain, madeUpLowEnd(changes), notes).map(({ title }) => title);

describe("the low end in words", () => {
  it("is silent where both are alike", () => {
    expect(titles({})).toEqual([]);
  });

  it("says that a kick is too long, too short, or leaves no room", () => {
    const [long] = lowEndFindings(plain, madeUpLowEnd({ kickLengthBeats: 0.93, roomBeats: 0.07 }), none);
    expect(long).toMatchObject({
      title: "Your kick leaves no room for the bass",
      detail: expect.stringMatching(/^It rings for 0\.93 of a beat, the reference's for 0\.36\./),
    });
    expect(titles({ kickLengthBeats: 0.5 })).toEqual(["Your kick rings too long"]);
    expect(titles({ kickLengthBeats: 0.2 })).toEqual(["Your kick is too short"]);
  });

  it("says which of kick and bass is too loud, by how much", () => {
    const [found] = lowEndFindings(plain, madeUpLowEnd({ kickToBassDb: 1.1 }), none);
    expect(found).toMatchObject({
      title: "The bass is too loud against the kick",
      detail: expect.stringContaining("Turn the bass down by about 3.0 dB."),
    });
    expect(titles({ kickToBassDb: 7.1 })).toEqual(["The kick is too loud against the bass"]);
  });

  it("says what moving the bass would give", () => {
    const moved = { ms: -3.3, inverted: true, gainDb: 2.4 };
    const [found] = lowEndFindings(plain, madeUpLowEnd({ moved }), none);
    expect(found).toMatchObject({
      title: "Kick and bass could add up better",
      detail: expect.stringMatching(
        /^With the bass 3\.3 ms earlier and inverted they would be 2\.4 dB louder/,
      ),
    });
    // Where inverting alone does as much, that is said instead.
    expect(titles({ moved, invertedGainDb: 2 })).toEqual(["Kick and bass work against each other"]);
  });

  it("names the note that is softest where they are uneven", () => {
    const version = [33, 33, 33, 35, 35, 35].map((midi) => note(midi, midi === 35 ? -24 : -18));
    const [found] = lowEndFindings(plain, madeUpLowEnd({ bassEvennessDb: 5.9 }), { reference: [], version });
    expect(found!.detail).toBe("They differ by 5.9 dB, the reference's by 1.2. B1 is 6.0 dB below A1.");
  });

  it("warns of notes below 30 Hz, of polarity, and of a low end that is not mono", () => {
    expect(titles({}, { reference: [note(35)], version: [note(22), note(22), note(35)] })).toEqual([
      "A♯0 lies below 30 Hz",
    ]);
    expect(titles({ invertedGainDb: 2.5 })).toEqual(["Kick and bass work against each other"]);
    expect(titles({ monoCorrelation: 0.6 })).toEqual(["The low end is not mono"]);
    expect(titles({ below30Db: -20 })).toEqual(["Too much below 30 Hz"]);
  });

  it("tells ducking that one side lacks", () => {
    const ducking = { depthDb: 6, recoveryMs: 140, beats: 0.28 };
    const [missing] = lowEndFindings(madeUpLowEnd({ ducking }), plain, none);
    expect(missing).toMatchObject({
      title: "No ducking",
      detail: "In the reference the bass dips 6.0 dB at each kick and is back after 140 ms.",
    });
    expect(titles({ ducking })).toEqual(["The bass ducks too deep"]);
  });
});

it("counts notes that few speakers play", () => {
  expect(notesBelow([note(23), note(23), note(21), note(28)], 31)).toEqual([
    { name: "A0", hertz: expect.closeTo(27.5, 3), count: 1 },
    { name: "B0", hertz: expect.closeTo(30.868, 3), count: 2 },
  ]);
});

it("sends kicks, notes and the beat of both sides, and nothing while one is missing", () => {
  const model = lowEndModel(madeUpStudy(), null)!;
  expect(model.reference.kicks.length).toBeGreaterThan(10);
  expect(model.version.bass.starts.length).toBeGreaterThan(10);
  expect(model.reference.beat).toBeCloseTo(60 / madeUpBpm, 9);
  expect(lowEndModel(madeUpStudy({ empty: true }), null)).toBeNull();
});

describe("the bass on small speakers", () => {
  it("is told where it was lifted out of both sides", () => {
    expect(lowEndModel(madeUpStudy({ lens: madeUpLens(24, { kick: {} }) }), null)!.lost).toBeNull();
    const { lost } = lowEndModel(madeUpStudy({ lens: madeUpLens(24, { bass: {} }) }), null)!;
    // The same spectrum on both sides, in the octave of the made-up lens.
    expect(lost!.reference).toBe(lost!.version);
    expect(
      lowEndModel(madeUpStudy({ lens: madeUpLens(24, { bass: { freeDb: -8 } }) }), null)!.lost,
    ).toBeNull();
  });

  it.each([
    [{ reference: 6, version: 14 }, /your bass is 14\.0 dB softer.*carry it less/],
    [{ reference: 15, version: 16 }, /hardly show either/],
    [{ reference: 9, version: 6 }, /its harmonics carry it\.$/],
  ])("is said in words: %j", (lost, words) => {
    expect(smallSpeakerWords({ lost })).toMatch(words);
  });

  it("is not said where it is not known", () => {
    expect(smallSpeakerWords({ lost: null })).toBeNull();
  });
});

import { drumsAsWritten, steadyGrid } from "../testing/drums";
import { grooveOf, interlockOf, sharpenedSwing, swingOfHits, velocityLevel } from "./groove";
import { placeHits, straight } from "./steps";

const shape = { beatsPerBar: 4, stepsPerBeat: 4 };
const grid = steadyGrid(120, 8);

describe("feel", () => {
  it("says how far behind, how loose and how accented a voice is", () => {
    const drums = drumsAsWritten({ hat: ["X.o.X.o.X.o.X.o."], snare: ["....x.......x..."] }, grid, {
      // The snare drags by 12 ms, on one bar 6 ms more, on the next 6 ms less.
      alter: (hit, beat) =>
        hit.voice === "snare"
          ? { ...hit, time: hit.time + 0.012 + (Math.floor(beat / 4) % 2 === 0 ? 0.006 : -0.006) }
          : hit,
    });
    const [snare, hat] = grooveOf(placeHits(drums.hits, grid), 8, shape);
    expect(snare).toMatchObject({ voice: "snare", hits: 16, hitsPerBar: 2 });
    expect(1000 * snare!.offset).toBeCloseTo(12, 3);
    // 16 hits over two steps: 14 degrees of freedom.
    expect(1000 * snare!.jitter).toBeCloseTo(6 * Math.sqrt(16 / 14), 3);
    expect(hat!.accented).toEqual([0, 4, 8, 12]);
    // 40 dB a decade: from 0.9 to 0.5.
    expect(hat!.accents).toBeCloseTo(40 * Math.log10(0.9 / 0.5), 3);
    expect(hat!.jitter).toBeCloseTo(0, 6);
  });

  it("full velocity is 0 dB, half of it 12 dB less", () => {
    expect(velocityLevel(1)).toBeCloseTo(0, 9);
    expect(velocityLevel(0.5)).toBeCloseTo(-12.04, 2);
  });

  it.each([50, 54.5, 58, 66])("finds the swing of sixteenths that was played: %f %%", (percent) => {
    const drums = drumsAsWritten({ hat: ["xxxxxxxxxxxxxxxx"] }, grid, { swing: { of: 16, percent } });
    // Placed as if nothing were known of the swing.
    expect(swingOfHits(placeHits(drums.hits, grid, straight), 16)).toBeCloseTo(percent, 3);
  });

  it("says nothing of swing without second notes", () => {
    const drums = drumsAsWritten({ kick: ["X...X...X...X..."] }, grid);
    expect(swingOfHits(placeHits(drums.hits, grid), 16)).toBeNull();
  });
});

describe("swing that was read of the sound, with the hits", () => {
  const read = { eighths: { percent: 51.8, presence: 0.5 }, sixteenths: { percent: 61.9, presence: 0.18 } };
  const hats = (line: string, percent = 50) =>
    drumsAsWritten({ hat: [line] }, grid, { swing: { of: 16, percent } }).hits;

  it("is placed where the hits are", () => {
    const found = sharpenedSwing(read, hats("xxxxxxxxxxxxxxxx", 57), grid);
    expect(found.sixteenths!.percent).toBeCloseTo(57, 3);
    expect(found.eighths!.percent).toBeCloseTo(50, 3);
  });

  it("is dropped where it was faint and no drum plays second notes", () => {
    expect(sharpenedSwing(read, hats("x.x.x.x.x.x.x.x."), grid).sixteenths).toBeNull();
    // Heard plainly, it may be another instrument's.
    const plain = { ...read, sixteenths: { percent: 61.9, presence: 0.4 } };
    expect(sharpenedSwing(plain, hats("x.x.x.x.x.x.x.x."), grid).sixteenths!.percent).toBeCloseTo(61.9, 6);
  });

  it("is found in second notes that hardly show in the sound", () => {
    const unseen = { ...read, sixteenths: null };
    expect(sharpenedSwing(unseen, hats("x.x.x.x.x.x.x.xx", 58), grid).sixteenths!.percent).toBeCloseTo(58, 3);
    expect(sharpenedSwing(unseen, hats("x.x.x.x.x.x.x.x.", 58), grid).sixteenths).toBeNull();
  });

  it("stays as it is where eighths are swung, and in 6/8", () => {
    const shuffle = { eighths: { percent: 66, presence: 0.8 }, sixteenths: null };
    expect(sharpenedSwing(shuffle, hats("xxxxxxxxxxxxxxxx"), grid)).toEqual(shuffle);
    const sixEight = { ...grid, beatsPerBar: 2 };
    expect(sharpenedSwing(read, hats("xxxxxxxxxxxxxxxx"), sixEight)).toEqual(read);
  });
});

describe("interlock", () => {
  it("counts what sounds together and what answers", () => {
    const drums = drumsAsWritten(
      { kick: ["X...X...X...X..."], snare: ["....X.......X..."], openHat: ["..x...x...x...x."] },
      grid,
    );
    const bass = Array.from({ length: 16 }, (_, i) => 0.5 + i);
    const pairs = interlockOf(placeHits(drums.hits, grid), bass, 0.5);
    const pair = (a: string, b: string) => pairs.find(({ voice, other }) => voice === a && other === b);
    // Every snare falls on a kick; every kick is answered by the hat an eighth later.
    expect(pair("snare", "kick")).toMatchObject({ together: 1 });
    expect(pair("kick", "openHat")).toMatchObject({ together: 0, answered: 1 });
    // The bass plays every other beat.
    expect(pair("kick", "bass")!.together).toBeCloseTo(0.5, 6);
  });
});

import { drumsAsWritten, steadyGrid } from "../testing/drums";
import { feelOf, interlockOf, swingOfHits, velocityLevel } from "./feel";
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
    const [snare, hat] = feelOf(placeHits(drums.hits, grid), 8, shape);
    expect(snare).toMatchObject({ voice: "snare", hits: 16, hitsPerBar: 2 });
    expect(1000 * snare!.offset).toBeCloseTo(12, 3);
    // 16 hits over two steps: 14 degrees of freedom.
    expect(1000 * snare!.looseness).toBeCloseTo(6 * Math.sqrt(16 / 14), 3);
    expect(hat!.accented).toEqual([0, 4, 8, 12]);
    // 40 dB a decade: from 0.9 to 0.5.
    expect(hat!.accents).toBeCloseTo(40 * Math.log10(0.9 / 0.5), 3);
    expect(hat!.looseness).toBeCloseTo(0, 6);
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

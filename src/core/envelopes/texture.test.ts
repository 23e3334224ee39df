/** Floor, hiss and drive from powers that are written down. */
import { seeded } from "../testing/signals";
import { envelopeBandCount, envelopeBandsIn } from "./levels";
import { measureTexture, textureSchema } from "./texture";

const { log10 } = Math;
const framesPerSecond = 100;
const frames = 2000;
const power = (db: number) => 10 ** (db / 10);
const everywhere = () => true;

/** Powers of each band by frame. */
function powers(of: (frame: number, band: number) => number): Float32Array {
  return Float32Array.from({ length: frames * envelopeBandCount }, (_, i) =>
    of(Math.floor(i / envelopeBandCount), i % envelopeBandCount),
  );
}
const [hissFrom, hissTo] = envelopeBandsIn(5000, 16000);
const [highFrom, highTo] = envelopeBandsIn(2400, 9600);
const [middleFrom, middleTo] = envelopeBandsIn(150, 1200);
/** Loud for three quarters of the time, then only what lies under it. */
const isLoud = (frame: number) => frame % 100 < 75;

describe("what lies under the music", () => {
  it.each([-40, -55, -70])("has its level against the mean, at %d dB", (floor) => {
    const own = powers((frame, band) => (isLoud(frame) && band < hissFrom ? power(-20) : 0) + power(floor));
    const mean = 0.75 * hissFrom * power(-20) + envelopeBandCount * power(floor);
    const { floorDb, hissDb, floorConfidence } = measureTexture(own, framesPerSecond, everywhere, []);
    expect(floorDb).toBeCloseTo(10 * log10((envelopeBandCount * power(floor)) / mean), 0);
    expect(hissDb).toBeCloseTo(10 * log10(((hissTo - hissFrom) * power(floor)) / mean), 0);
    expect(floorConfidence).toBe(1);
  });

  it("does not depend on how loud the whole is", () => {
    const random = seeded(3);
    const base = powers((frame) => (isLoud(frame) ? power(-20) : power(-50)) * (0.8 + 0.4 * random()));
    const { floorDb } = measureTexture(base, framesPerSecond, everywhere, []);
    expect(
      measureTexture(
        base.map((x) => x / 100),
        framesPerSecond,
        everywhere,
        [],
      ).floorDb,
    ).toBe(floorDb);
  });

  it("is less sure where quiet moments are not alike", () => {
    // Music that fades: no two quiet frames are the same.
    const fading = powers((frame) => power(-20 - (frame % 200) / 4));
    expect(measureTexture(fading, framesPerSecond, everywhere, []).floorConfidence).toBeLessThan(0.9);
  });

  it("takes digital silence for no floor", () => {
    const gaps = powers((frame) => (isLoud(frame) ? power(-20) : 0));
    // All that sounds is equally loud.
    expect(measureTexture(gaps, framesPerSecond, everywhere, []).floorDb).toBeCloseTo(0, 1);
    expect(
      measureTexture(
        powers(() => 0),
        framesPerSecond,
        everywhere,
        [],
      ),
    ).toEqual({
      floorDb: null,
      hissDb: null,
      floorConfidence: 0,
      brighteningDb: null,
      brighteningConfidence: 0,
    });
  });

  it("is told of the frames that are asked for", () => {
    const own = powers((frame) => power(frame < 1000 ? -20 : -60));
    expect(measureTexture(own, framesPerSecond, (frame) => frame < 1000, []).floorDb).toBeCloseTo(0, 1);
    expect(measureTexture(own, framesPerSecond, everywhere, []).floorDb).toBeCloseTo(-37, 0);
    expect(measureTexture(own, framesPerSecond, (frame) => frame < 150, []).floorDb).toBeNull();
  });
});

describe("whether it gets brighter as it gets louder", () => {
  /** Middle and highs that rise together, the highs by so many dB more from the softest to the loudest. */
  const swelling = (more: number) =>
    powers((frame, band) => {
      const swell = (frame % 500) / 500;
      const middle = -40 + 20 * swell;
      if (band >= highFrom && band < highTo) return power(middle - 20 + more * swell);
      return band >= middleFrom && band < middleTo ? power(middle) : power(-100);
    });

  it.each([0, 4, 9, -5])("is what the highs gain on the middle: %d dB", (more) => {
    const own = measureTexture(swelling(more), framesPerSecond, everywhere, []);
    // From the middle of the softest fifth to that of the loudest lie four fifths of the swell.
    expect(own.brighteningDb).toBeCloseTo(0.8 * more, 0);
    expect(own.brighteningConfidence).toBe(1);
  });

  it("is deaf to hits", () => {
    const hits = Array.from({ length: 30 }, (_, i) => 0.3 + i * 0.6);
    const struck = swelling(0);
    for (const time of hits)
      for (let frame = Math.round(time * 100); frame < Math.round(time * 100) + 7; frame++)
        for (let band = highFrom; band < highTo; band++)
          struck[frame * envelopeBandCount + band] = power(-25 + (frame % 500) / 40);
    const deaf = measureTexture(struck, framesPerSecond, everywhere, hits);
    expect(deaf.brighteningDb).toBeCloseTo(0, 0);
  });

  it("is less sure the less the level moves, and unknown where too little sounds", () => {
    const flat = powers((frame) => power(-30 + 0.01 * (frame % 100)));
    expect(measureTexture(flat, framesPerSecond, everywhere, []).brighteningConfidence).toBeLessThan(0.2);
    const short = measureTexture(swelling(5), framesPerSecond, (frame) => frame < 190, []);
    expect(short.brighteningDb).toBeNull();
  });

  it("can be stored and read", () => {
    const own = measureTexture(swelling(5), framesPerSecond, everywhere, []);
    expect(textureSchema.parse(JSON.parse(JSON.stringify(own)))).toEqual(own);
  });
});

/** Where the music begins: after silence, after hiss, and where it begins with a quiet hat. */
import { whiteNoise } from "../testing/signals";
import { firstSoundOf, lastSoundOf } from "./silence";

const { exp, PI, sin } = Math;
const rate = 44100;

/** Three seconds whose music lasts from one second to two, on top of a noise floor. */
function music(floorDb: number): [Float32Array, Float32Array] {
  const floor = whiteNoise(floorDb, 3, rate, 3);
  const samples = floor.map((noise, i) =>
    i >= rate && i < 2 * rate ? noise + 0.3 * sin((2 * PI * 220 * i) / rate) : noise,
  );
  return [samples, samples];
}

/** Hats every half second, the first of them at once, and a loud tone from two seconds on. */
function hatsThenTone(): [Float32Array, Float32Array] {
  const noise = whiteNoise(-26, 4, rate, 5);
  const samples = noise.map((value, i) => {
    const since = (i % (rate / 2)) / rate;
    return value * exp(-since / 0.03) + (i > 2 * rate ? 0.5 * sin((2 * PI * 110 * i) / rate) : 0);
  });
  return [samples, samples];
}

describe("the first and last sound", () => {
  it.each([-120, -70, -50])("stand out of a noise floor of %i dB", (floorDb) => {
    const channels = music(floorDb);
    expect(firstSoundOf(channels, rate)).toBeCloseTo(1, 2);
    expect(lastSoundOf(channels, rate)).toBeCloseTo(2, 2);
  });

  it("is a hat that dies away, and not the tone after it", () => {
    expect(firstSoundOf(hatsThenTone(), rate)).toBeLessThan(0.001);
  });

  it("is none in silence", () => {
    const silence = new Float32Array(rate);
    expect(firstSoundOf([silence, silence], rate)).toBeNull();
    expect(lastSoundOf([silence, silence], rate)).toBe(0);
  });
});

/** One exact tempo through onsets whose tempo is known. */
import { whiteNoise } from "../testing/signals";
import { fitLine } from "./steadyLine";

const fps = 100;
const { exp } = Math;

/** Onset strength with a bump at each time, each moved at random, some left out, over noise. */
function strengthOf(
  period: number,
  anchor: number,
  { seconds = 180, loose = 0, every = 1, noise = 0, between = 0 } = {},
): Float32Array {
  const strength = new Float32Array(seconds * fps);
  const random = whiteNoise(0, 20, 1000, 9);
  let next = 0;
  const chance = () => random[next++ % random.length]!;
  const bump = (time: number, height: number) => {
    const centre = time * fps;
    for (let i = Math.max(0, Math.floor(centre) - 4); i <= centre + 4 && i < strength.length; i++)
      strength[i]! += height * exp(-0.5 * ((i - centre) / 1.1) ** 2);
  };
  for (let k = 0; anchor + k * period < seconds - 0.1; k++) {
    if (k % every === 0) bump(anchor + k * period + loose * chance(), 1);
    if (between > 0) bump(anchor + (k + 0.5) * period, between);
  }
  for (let i = 0; i < strength.length; i++) strength[i]! += noise * Math.abs(chance());
  return strength;
}
const fitted = (strength: Float32Array, bpm: number, anchor: number, free = true) => {
  const line = fitLine(strength, fps, { period: (60 / bpm) * fps, anchor: anchor * fps }, free);
  return { bpm: (60 * fps) / line.period, anchor: line.anchor / fps };
};

describe("one line through all beats", () => {
  it.each([87.37, 93.78, 128.25, 174.61])("finds %f BPM to two thousandths from a rough start", (bpm) => {
    const found = fitted(strengthOf(60 / bpm, 0.3), bpm * 1.0004, 0.305);
    expect(Math.abs(found.bpm - bpm)).toBeLessThan(0.002);
    expect(Math.abs(found.anchor - 0.3)).toBeLessThan(0.001);
  });

  it("takes a whole number of BPM where nothing speaks against it, and only there", () => {
    const loose = { loose: 0.004 };
    expect(fitted(strengthOf(60 / 120, 0.2, loose), 120.02, 0.2).bpm).toBe(120);
    // Over three minutes 120.03 is half a beat's sixteenth off: no chance.
    const other = fitted(strengthOf(60 / 120.03, 0.2), 120.02, 0.2).bpm;
    expect(other).not.toBe(120);
    expect(Math.abs(other - 120.03)).toBeLessThan(0.003);
  });

  it("holds with beats left out, off-beats as strong, and noise", () => {
    const hard = { every: 3, between: 0.9, noise: 0.15, loose: 0.003 };
    const found = fitted(strengthOf(60 / 101.6, 0.4, hard), 101.62, 0.4);
    expect(Math.abs(found.bpm - 101.6)).toBeLessThan(0.02);
    expect(Math.abs(found.anchor - 0.4)).toBeLessThan(0.004);
  });

  it("leaves the tempo where it is not to be changed, and everything where there is nothing", () => {
    const strength = strengthOf(60 / 110, 0.25);
    const held = fitted(strength, 110.01, 0.25, false);
    expect(held.bpm).toBeCloseTo(110.01, 6);
    const start = { period: 54.5, anchor: 25 };
    expect(fitLine(new Float32Array(6000), fps, start, true)).toEqual(start);
  });
});

import { applyBiquad, designBiquad } from "../dsp/biquad";
import { loadFft } from "../dsp/fft";
import { onsetStrength } from "../grid/onset";
import { fractionalOctaveSpectrogram } from "../tone/fractionalOctaveSpectrogram";
import { wrongCures, type AnsweringSpan, type ToneSide } from ".";

// Looked up once: a global costs many times more where tests run.
const { exp, floor, imul, PI, sin } = Math;
const rate = 22050;
const seconds = 32;
const barSeconds = 2;
beforeAll(loadFft);

/** A bass note on every beat, and hats on eighths, each at a level of its own for every bar. */
function music({ hum, hats }: { hum: (bar: number) => number; hats: (bar: number) => number }): Float32Array {
  let state = 3;
  const past = [0, 0];
  return Float32Array.from({ length: seconds * rate }, (_, i) => {
    state = (imul(state, 1664525) + 1013904223) >>> 0;
    const white = state / 2 ** 31 - 1;
    // The second difference leaves next to nothing of the noise where the hum is.
    const noise = (white - 2 * past[0]! + past[1]!) / 2;
    past[1] = past[0]!;
    past[0] = white;
    const time = i / rate;
    const bar = floor(time / barSeconds);
    const sinceHat = time % 0.25;
    let tone = 0;
    for (let k = 1; k <= 12; k++) tone += sin(2 * PI * 110 * k * time) / k;
    return (
      0.05 * hum(bar) * tone * exp(-4 * (time % 0.5)) +
      0.1 * hats(bar) * noise * exp(-sinceHat * 60) +
      1e-4 * noise
    );
  });
}
const plain = () => 1;
const sideOf = (samples: Float32Array): ToneSide => ({
  bands: fractionalOctaveSpectrogram([samples, samples], rate),
  onsets: onsetStrength([samples, samples], rate),
});
/** Two sections of eight bars in twos. */
const passages = Array.from({ length: 8 }, (_, i): AnsweringSpan => {
  const span = { from: 4 * i, to: 4 * (i + 1) };
  return { reference: span, version: span, section: i < 4 ? 0 : 1 };
});

describe("whether an equaliser is the wrong cure", () => {
  const reference = music({ hum: plain, hats: plain });
  const found = (version: Float32Array) => wrongCures(sideOf(reference), sideOf(version), passages);

  it("is not said of what is only filtered and turned down", () => {
    const filtered = Float32Array.from(reference, (value) => 0.4 * value);
    for (const filter of [
      designBiquad("highPass", rate, 100, 0.707),
      designBiquad("peak", rate, 900, 1.5, 6),
      designBiquad("highShelf", rate, 4000, 0.707, -5),
    ])
      applyBiquad(filter, filtered);
    expect(found(filtered)).toEqual([]);
  });

  it("is said of a level that changes from section to section, with the sections and the range", () => {
    const [first] = found(music({ hum: (bar) => (bar < 8 ? 1 : 0.5), hats: plain }));
    expect(first).toMatchObject({ kind: "sections", most: { section: 0 }, least: { section: 1 } });
    expect(first!.most!.gapDb - first!.least!.gapDb).toBeGreaterThan(4);
    expect(first!.most!.gapDb - first!.least!.gapDb).toBeLessThan(6.5);
  });

  it("is said of a level that changes from bar to bar", () => {
    const cures = found(music({ hum: (bar) => (bar % 4 < 2 ? 1 : 0.5), hats: plain }));
    expect(cures.map(({ kind }) => kind)).toContain("bars");
  });

  it("is said of strokes that are missing", () => {
    const cures = found(music({ hum: plain, hats: () => 0 }));
    expect(cures.some(({ kind, toHz }) => kind === "strokes" && toHz > 10000)).toBe(true);
  });
});

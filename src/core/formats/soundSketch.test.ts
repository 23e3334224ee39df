import { knownMix } from "../testing/knownMix";
import { guessRoles } from "./sortFiles";
import { isPartOf, sketchPower, soundSketcher, type SoundSketch } from "./soundSketch";

const rate = 11025;
const sketch = (samples: Float32Array, piece = 5000): SoundSketch => {
  const sketcher = soundSketcher(samples.length, rate);
  for (let from = 0; from < samples.length; from += piece)
    sketcher.add([samples.subarray(from, from + piece)]);
  return sketcher.finish();
};
const { parts, samples } = knownMix({ rate, beats: 24 });
const scaled = (by: number) => samples.map((x) => by * x);
const mix = sketch(samples);

describe("a sketch of a file", () => {
  it("has the power of the file, however it comes in pieces", () => {
    const power = samples.reduce((sum, x) => sum + x * x, 0) / samples.length;
    // Bands overlap a little, and what lies in two of them counts once in neither.
    expect(sketchPower(mix) / power).toBeGreaterThan(0.6);
    expect(sketchPower(mix) / power).toBeLessThan(1.4);
    expect(sketch(samples, 777).powers).toEqual(mix.powers);
  });

  it("puts a tone into its band", () => {
    const tone = (hz: number) =>
      sketch(Float32Array.from({ length: rate }, (_, i) => Math.sin((2 * Math.PI * hz * i) / rate)));
    [60, 300, 1200, 4800].forEach((hz, band) => {
      const row = [...tone(hz).powers.subarray(20, 24)];
      expect(row.indexOf(Math.max(...row))).toBe(band);
    });
  });
});

describe("a part of a mix", () => {
  it.each(Object.keys(parts) as (keyof typeof parts)[])("%s is told from its sound", (name) => {
    expect(isPartOf(sketch(parts[name]), mix)).toBe(true);
    expect(isPartOf(mix, sketch(parts[name]))).toBe(false);
  });

  it("is neither the same mix at another level, nor other music, nor of another length, nor silence", () => {
    for (const gain of [0.3, 1, 2]) expect(isPartOf(sketch(scaled(gain)), mix)).toBe(false);
    const late = new Float32Array(samples.length);
    late.set(parts.kick.subarray(0, -2500), 2500);
    expect(isPartOf(sketch(late), sketch(samples.map((x, i) => x - parts.kick[i]!)))).toBe(false);
    expect(isPartOf(sketch(parts.kick.subarray(0, -5 * rate)), mix)).toBe(false);
    expect(isPartOf(sketch(new Float32Array(samples.length)), mix)).toBe(false);
  });

  it("is a stem where its name says nothing, and the louder of two mixes is the reference", () => {
    const names = ["01.wav", "02.wav", "03.wav", "04.wav"];
    const sketches = [sketch(scaled(0.5)), mix, sketch(parts.kick), sketch(parts.hat)];
    expect(guessRoles(names, false, sketches)).toEqual(["version", "reference", "stem", "stem"]);
    expect(guessRoles(names, true, sketches)).toEqual(["version", "version", "stem", "stem"]);
    // What a name says counts more.
    expect(guessRoles(["ref.wav", "02.wav", "mix 3.wav", "04.wav"], false, sketches)).toEqual([
      "reference",
      "version",
      "version",
      "stem",
    ]);
    // As before where nothing was heard.
    expect(guessRoles(names, false, [null, null, null, null])).toEqual(guessRoles(names, false));
  });
});

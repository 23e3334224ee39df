/** Slides of bass notes, against notes whose pitch is known at every moment. */
import { loadFft } from "../dsp/fft";
import { seeded } from "../testing/signals";
import { bassSlideSchema } from "./notes";
import { pitchTrack } from "./pitchTrack";
import { slideOf as slideOfTrack } from "./slides";

beforeAll(loadFft);

const rate = 4800;
const seconds = 1;
const hertzOf = (pitch: number) => 440 * 2 ** ((pitch - 69) / 12);

/** A second of a note whose pitch goes as it says, with some harmonics, over a little noise. */
function noteOf(pitchAt: (t: number) => number, harmonics: readonly number[] = [1, 0.5, 0.3], noise = 0.01) {
  const random = seeded(7);
  let phase = 0;
  return Float32Array.from({ length: 1.2 * rate }, (_, i) => {
    const t = i / rate;
    phase += (2 * Math.PI * hertzOf(pitchAt(Math.min(t, seconds)))) / rate;
    const level = 0.3 * Math.exp(-t) * Math.min(1, t / 0.005);
    const tone = harmonics.reduce((sum, gain, k) => sum + gain * Math.sin((k + 1) * phase), 0);
    return (t < seconds ? level * tone : 0) + noise * (random() - 0.5);
  });
}
const slideOf = (samples: Float32Array, pitch: number, end = seconds) =>
  slideOfTrack(pitchTrack(samples, rate), 0.02, end, pitch);
/** From one pitch to another, evenly between two times. */
const ramp = (a: number, b: number, from: number, to: number) => (t: number) =>
  a + (b - a) * Math.min(1, Math.max(0, (t - from) / (to - from)));

describe("a slide", () => {
  it.each([
    [28, 35, 0.4, 0.6],
    [33, 45, 0.5, 0.65],
    [40, 35, 0.3, 0.55],
    [45, 43, 0.5, 0.6],
    [36, 48, 0.3, 0.7],
    [31, 30, 0.4, 0.7],
  ])("from %d to %d is found with its size and when it is", (a, b, from, to) => {
    const slide = slideOf(noteOf(ramp(a, b, from, to)), a)!;
    expect(slide.before).toBeCloseTo(0, 0);
    expect(Math.abs(slide.after - (b - a))).toBeLessThan(0.35);
    // The less it moves the less is known of when.
    const near = 0.08 + 0.05 / Math.abs(b - a);
    expect(Math.abs(slide.from - from)).toBeLessThan(near);
    expect(Math.abs(slide.to - to)).toBeLessThan(near);
  });

  it("is found of a pure tone, and where the note was read at its end", () => {
    const slide = slideOf(noteOf(ramp(33, 40, 0.15, 0.3), [1]), 40)!;
    expect(slide.before).toBeCloseTo(-7, 0);
    expect(slide.after).toBeCloseTo(0, 0);
  });

  it("is none where the note stays, bends a little or sways", () => {
    for (const pitch of [28, 33, 38, 43, 50]) {
      expect(
        slideOf(
          noteOf(() => pitch),
          pitch,
        ),
      ).toBeNull();
      expect(slideOf(noteOf(ramp(pitch + 0.3, pitch, 0, 0.5)), pitch)).toBeNull();
      expect(
        slideOf(
          noteOf((t) => pitch + 0.4 * Math.sin(2 * Math.PI * 5 * t)),
          pitch,
        ),
      ).toBeNull();
    }
  });

  it("is none where it jumps, or falls as it is struck", () => {
    for (const pitch of [28, 33, 40]) {
      for (const by of [3, 5, 7, 12])
        expect(
          slideOf(
            noteOf((t) => (t < 0.5 ? pitch : pitch + by)),
            pitch,
          ),
        ).toBeNull();
      expect(
        slideOf(
          noteOf((t) => pitch + 12 * Math.exp(-t / 0.02)),
          pitch,
        ),
      ).toBeNull();
    }
  });

  it("is never further than notes can be kept with", () => {
    for (const [a, b] of [
      [24, 52],
      [57, 24],
      [30, 58],
      [26, 39],
    ] as const)
      for (const read of [a, b, a + 12, b - 12]) {
        const slide = slideOf(noteOf(ramp(a, b, 0.4, 0.7)), read);
        if (Math.abs(b - a) > 14) expect(slide).toBeNull();
        else expect(bassSlideSchema.parse(slide).after - slide!.before).toBeCloseTo(b - a, 0);
      }
  });

  it("is none in noise or silence, or in a short note", () => {
    const random = seeded(3);
    const noise = Float32Array.from({ length: 1.2 * rate }, () => random() - 0.5);
    expect(slideOf(noise, 33)).toBeNull();
    expect(slideOf(new Float32Array(1.2 * rate), 33)).toBeNull();
    expect(slideOf(noteOf(ramp(33, 40, 0.05, 0.15)), 33, 0.19)).toBeNull();
  });
});

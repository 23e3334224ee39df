/** Notes that nobody is told of, in lines that are known. */
import { loadFft } from "../dsp/fft";
import { withFollowedStarts } from "./followedStarts";
import { lowEnvelope } from "./lowBand";
import { pitchTrack } from "./pitchTrack";

beforeAll(loadFft);

const rate = 4800;
const lasts = 0.4;
const hertzOf = (pitch: number) => 440 * 2 ** ((pitch - 69) / 12);

/** Notes of so long each, one after another without a gap, each as loud as it says. */
function lineOf(pitches: readonly number[], levels: readonly number[] = [0.3]) {
  let phase = 0;
  return Float32Array.from({ length: pitches.length * lasts * rate }, (_, i) => {
    const note = Math.floor(i / (lasts * rate));
    phase += (2 * Math.PI * hertzOf(pitches[note]!)) / rate;
    return levels[note % levels.length]! * (Math.sin(phase) + 0.4 * Math.sin(2 * phase));
  });
}
const startsOf = (samples: Float32Array, known: number[] = []) =>
  withFollowedStarts(known, pitchTrack(samples, rate), lowEnvelope(samples, rate));

describe("the beginnings of a legato line", () => {
  it("are where its pitch steps, near enough to be the note's own", () => {
    const found = startsOf(lineOf([33, 36, 38, 31, 31, 40, 45, 43]), [0]);
    // Two at one pitch are one note for whoever hears only that; the first is known.
    const wanted = [0, 1, 2, 3, 5, 6, 7].map((note) => note * lasts);
    expect(found).toHaveLength(wanted.length);
    found.forEach((time, i) => expect(Math.abs(time - wanted[i]!)).toBeLessThan(0.05));
  });

  it("are not doubled where they are known", () => {
    const known = [0, 0.42, 0.8, 1.17];
    expect(startsOf(lineOf([33, 36, 38, 31]), known)).toEqual(known);
  });

  it("are none at an octave, at what is much softer, or where the pitch slides or sways", () => {
    expect(startsOf(lineOf([33, 45, 33, 45]))).toEqual([]);
    expect(startsOf(lineOf([33, 40, 33, 40], [0.3, 0.03]))).toEqual([]);
    let phase = 0;
    const moving = (pitchAt: (t: number) => number) =>
      Float32Array.from({ length: 3 * rate }, (_, i) => {
        phase += (2 * Math.PI * hertzOf(pitchAt(i / rate))) / rate;
        return 0.3 * Math.sin(phase);
      });
    expect(startsOf(moving((t) => 33 + 7 * Math.min(1, Math.max(0, (t - 1) / 0.4))))).toEqual([]);
    expect(startsOf(moving((t) => 36 + 0.4 * Math.sin(2 * Math.PI * 5 * t)))).toEqual([]);
  });
});

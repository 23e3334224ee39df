/**
 * The arithmetic that people do by hand. Numbers: equal temperament; a 45 rpm record at 33⅓ rpm
 * sounds 5.2 semitones lower (common practice, no source).
 */
import { noteSeconds, ratioOfSemitones, semitonesOfRatio } from "./units";

describe("speed and pitch", () => {
  it.each([
    [2, 12],
    [0.5, -12],
    [100 / 3 / 45, -5.2],
    [124 / 118, 0.86],
  ])("a ratio of %f is %f semitones", (ratio, semitones) => {
    expect(semitonesOfRatio(ratio)).toBeCloseTo(semitones, 1);
    expect(ratioOfSemitones(semitonesOfRatio(ratio))).toBeCloseTo(ratio, 12);
  });
});

describe("note lengths", () => {
  it.each([
    [120, 1 / 4, 0.5],
    [120, 1 / 8, 0.25],
    [100, (1 / 8) * 1.5, 0.45],
    [90, ((1 / 4) * 2) / 3, 0.4444],
  ])("at %i BPM the value %f lasts %f s", (bpm, value, seconds) => {
    expect(noteSeconds(bpm, value)).toBeCloseTo(seconds, 4);
  });
});

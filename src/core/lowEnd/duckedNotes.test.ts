/** Notes of the bass that make way for the kick, and those that do not. */
import { duckedBy } from "./duckedNotes";
import { lowFramesPerSecond } from "./lowBand";

const seconds = 4;
/** A held bass that a kick every second turns down by some decibels, and that is back after some time. */
const bass = (depthDb: number, backAfter = 0.12, alive = (time: number): boolean => time >= 0) =>
  Float32Array.from({ length: seconds * lowFramesPerSecond }, (_, k) => {
    const time = k / lowFramesPerSecond;
    const since = time % 1;
    const down = since < backAfter ? depthDb * Math.min(1, (backAfter - since) / (backAfter / 2)) : 0;
    return alive(time) ? 0.01 * 10 ** (-down / 10) : 0;
  });
const kicks = [0, 1, 2, 3];

describe("a note under a kick", () => {
  it("is ducked by as much as it dips and comes back", () => {
    const dip = duckedBy({ start: 0.5, end: 1.6 }, kicks, bass(8));
    expect(dip).toBeGreaterThan(5);
    expect(dip).toBeLessThan(8.1);
    expect(duckedBy({ start: 0.5, end: 1.6 }, kicks, bass(4))!).toBeLessThan(dip!);
  });

  it("is ducked, too, where it begins on it", () => {
    expect(duckedBy({ start: 1.01, end: 1.9 }, kicks, bass(8))).toBeGreaterThan(4);
  });

  it("is not where it is held through, lies between two, or ends with the kick", () => {
    expect(duckedBy({ start: 0.5, end: 1.6 }, kicks, bass(0))).toBeNull();
    expect(duckedBy({ start: 1.2, end: 1.9 }, kicks, bass(8))).toBeNull();
    expect(duckedBy({ start: 0.5, end: 1.1 }, kicks, bass(8))).toBeNull();
    const fades = bass(0, 0.12, (time) => time < 1.02 || time > 2);
    expect(duckedBy({ start: 0.5, end: 1.6 }, kicks, fades)).toBeNull();
    expect(duckedBy({ start: 0.5, end: 1.6 }, [], bass(8))).toBeNull();
  });
});

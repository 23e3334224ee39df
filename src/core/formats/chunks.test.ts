import { bytesPerFrame, packFrames, unpackFrames } from "./chunks";

describe("pieces of samples", () => {
  it("come back to 24 bits, also above full scale", () => {
    const left = Float32Array.from([0, 0.5, -0.5, 1.6, -1.6, 1e-6]);
    const right = left.map((x) => -x);
    const bytes = packFrames([left, right], 0, left.length);
    expect(bytes.length).toBe(left.length * bytesPerFrame);
    const [a, b] = unpackFrames(bytes);
    left.forEach((x, i) => {
      expect(Math.abs(a[i]! - x)).toBeLessThan(2 ** -22);
      expect(Math.abs(b[i]! + x)).toBeLessThan(2 ** -22);
    });
  });

  it("are the same bytes frame by frame, however many there are", () => {
    const left = Float32Array.from([0.1, -0.7, 1.2, -1.9, 0.3]);
    const right = left.map((x) => 0.5 - x);
    for (const count of [1, 2, 3, 5]) {
      const singly = Array.from({ length: count }, (_, i) => [...packFrames([left, right], i, i + 1)]);
      expect([...packFrames([left, right], 0, count)]).toEqual(singly.flat());
    }
    expect([...packFrames([left.fill(0.5), left], 4, 5)]).toEqual([0, 0, 32, 0, 0, 32]);
  });

  it("clip only beyond twice full scale, and leave out half a frame", () => {
    const loud = Float32Array.from([3, -3]);
    const bytes = packFrames([loud, loud], 0, 2);
    const [a] = unpackFrames(bytes.subarray(0, bytes.length - 1));
    expect(a.length).toBe(1);
    expect(a[0]).toBeCloseTo(2, 5);
  });
});

/** Hits come out as they were put in. */
import { asColumns } from "./hits";
import { packDrums, unpackDrums } from "./packedHits";
import { drumVoices } from "./voices";

describe("packed drums", () => {
  it("keep every column, before time 0 and late in a long file too", () => {
    const estimate = asColumns(
      [
        { time: -0.0312, voice: "perc", velocity: 1, confidence: 0, kind: 63 },
        ...Array.from({ length: 5000 }, (_, i) => ({
          time: Math.round(1e4 * (0.5 + 0.12345 * i)) / 1e4,
          voice: drumVoices[i % drumVoices.length]!,
          velocity: (i % 1001) / 1000,
          confidence: ((7 * i) % 1001) / 1000,
          kind: i % 12,
        })),
        { time: 1199.9999, voice: "kick", velocity: 0, confidence: 1, kind: 0 },
      ],
      [0.5, 1100.25],
    );
    expect(unpackDrums(packDrums(estimate))).toEqual(estimate);
  });

  it("keep nothing as nothing", () => {
    const nothing = asColumns([], []);
    expect(unpackDrums(packDrums(nothing))).toEqual(nothing);
  });

  it("take less room than numbers as text", () => {
    const hits = Array.from({ length: 2000 }, (_, i) => ({
      time: 0.1237 * i,
      voice: "hat" as const,
      velocity: 0.615,
      confidence: 0.981,
      kind: 1,
    }));
    const estimate = asColumns(hits, []);
    expect(JSON.stringify(packDrums(estimate)).length).toBeLessThan(JSON.stringify(estimate).length * 0.7);
  });
});

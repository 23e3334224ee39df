/** Moves as filters, against the transfer function worked out from their coefficients. */
import { loadFft } from "../dsp/fft";
import {
  addResponse,
  filterOf,
  impulseResponse,
  moveTypes,
  plainQ,
  responseGrid,
  responseOf,
  type EqualiserMove,
} from "./filters";

beforeAll(loadFft);

const { abs, cos, hypot, log10, PI, sin } = Math;
const rate = 48000;
const move = (own: Partial<EqualiserMove>): EqualiserMove => ({
  type: "peak",
  hz: 1000,
  gainDb: 6,
  q: 1,
  ...own,
});

/** |H(e^jω)| of a biquad by complex arithmetic, dB. */
function transfer(own: EqualiserMove, hz: number, sampleRate = rate): number {
  const { b0, b1, b2, a1, a2 } = filterOf(own, sampleRate);
  const w = (2 * PI * hz) / sampleRate;
  const size = (c0: number, c1: number, c2: number) =>
    hypot(c0 + c1 * cos(w) + c2 * cos(2 * w), c1 * sin(w) + c2 * sin(2 * w));
  return 20 * log10(size(b0, b1, b2) / size(1, a1, a2));
}

/** The same of what comes out of an impulse, by a discrete Fourier transform at one frequency. */
function heard(samples: Float32Array, hz: number, sampleRate = rate): number {
  let re = 0;
  let im = 0;
  for (let i = 0; i < samples.length; i++) {
    const w = (2 * PI * hz * i) / sampleRate;
    re += samples[i]! * cos(w);
    im -= samples[i]! * sin(w);
  }
  return 20 * log10(hypot(re, im));
}

const places = [25, 60, 130, 400, 1000, 2500, 7000, 15000, 20000];

describe("the response of a move", () => {
  it.each(moveTypes)("is that of its coefficients, for a %s", (type) => {
    for (const hz of [30, 120, 900, 8000]) {
      const own = move({ type, hz, gainDb: -4.5, q: 2.2 });
      responseOf([own], places, rate).forEach((db, i) =>
        expect(db).toBeCloseTo(transfer(own, places[i]!), 5),
      );
    }
  });

  it.each(["lowCut", "highCut"] as const)(
    "of a %s is −3 dB at its corner and falls by 12 dB an octave",
    (type) => {
      const hz = 500;
      const away = type === "lowCut" ? 0.5 : 2;
      const at = (place: number) => responseOf([move({ type, hz })], [place], 192000)[0]!;
      expect(at(hz)).toBeCloseTo(-3.01, 2);
      expect(at(hz * away ** 4) - at(hz * away ** 3)).toBeCloseTo(-12, 0);
      expect(abs(at(hz / away ** 4))).toBeLessThan(0.01);
    },
  );

  it.each(["lowShelf", "highShelf"] as const)(
    "of a %s is half its gain in the middle of its slope",
    (type) => {
      const side = type === "lowShelf" ? 1 : -1;
      const [middle, within, beyond] = responseOf(
        [move({ type, hz: 1000, gainDb: 8 })],
        [1000, 1000 * 0.02 ** side, 1000 * 18 ** side].map((hz) => Math.min(hz, 21000)),
        rate,
      );
      expect(middle).toBeCloseTo(4, 2);
      expect(within).toBeCloseTo(8, 1);
      expect(abs(beyond!)).toBeLessThan(0.1);
    },
  );

  it("of a peak has its gain in the middle, and half of it where its width says", () => {
    // Half the gain in dB at frequencies whose distance is f0 / Q (cookbook: bandwidth at midpoint gain).
    const own = move({ hz: 1000, gainDb: 12, q: 4 });
    const half = 1 / (2 * own.q);
    const [upper, lower] = [
      1000 * (Math.sqrt(1 + half ** 2) + half),
      1000 * (Math.sqrt(1 + half ** 2) - half),
    ];
    const [peak, above, below] = responseOf([own], [1000, upper, lower], 192000);
    expect(peak).toBeCloseTo(12, 6);
    expect(above).toBeCloseTo(6, 1);
    expect(below).toBeCloseTo(6, 1);
  });

  it("is undone by the same move with the gain turned round", () => {
    for (const type of ["peak", "lowShelf", "highShelf"] as const) {
      const both = [move({ type, gainDb: 7 }), move({ type, gainDb: -7 })];
      for (const db of responseOf(both, places, rate)) expect(abs(db)).toBeLessThan(1e-6);
    }
  });

  it("adds up over moves, and is taken away with the sign", () => {
    const moves = [
      move({ type: "lowCut", hz: 40 }),
      move({ hz: 300, gainDb: -3 }),
      move({ type: "highShelf" }),
    ];
    const sum = places.map((hz) => moves.reduce((all, own) => all + transfer(own, hz), 0));
    responseOf(moves, places, rate).forEach((db, i) => expect(db).toBeCloseTo(sum[i]!, 5));
    const grid = responseGrid(places, rate);
    const left = responseOf(moves, places, rate);
    for (const own of moves) addResponse(own, grid, left, -1);
    for (const db of left) expect(abs(db)).toBeLessThan(1e-9);
  });

  it("does not depend on the width of what has none of its own", () => {
    for (const type of ["lowShelf", "highShelf", "lowCut", "highCut"] as const) {
      const wide = responseOf([move({ type, q: 0.4 })], places, rate);
      expect([...responseOf([move({ type, q: 12 })], places, rate)]).toEqual([...wide]);
      expect([...responseOf([move({ type, q: plainQ })], places, rate)]).toEqual([...wide]);
    }
  });

  it("stays finite where a corner lies above half of the sample rate", () => {
    for (const type of moveTypes) {
      const own = responseOf([move({ type, hz: 20000 })], places, 22050);
      expect([...own].every(Number.isFinite)).toBe(true);
    }
    // A cut up there leaves what lies below.
    expect(abs(responseOf([move({ type: "highCut", hz: 20000 })], [1000], 22050)[0]!)).toBeLessThan(0.05);
  });
});

describe("the impulse response of moves", () => {
  const moves = [move({ type: "lowShelf", hz: 150, gainDb: -5 }), move({ hz: 2500, gainDb: 4, q: 3 })];

  it.each([44100, 48000, 96000])("has their response, at %d Hz", (sampleRate) => {
    const samples = impulseResponse(moves, sampleRate);
    expect(samples).toHaveLength(sampleRate);
    for (const hz of [50, 150, 1000, 2500, 9000]) {
      const [wanted] = responseOf(moves, [hz], sampleRate);
      expect(heard(samples, hz, sampleRate)).toBeCloseTo(wanted!, 2);
    }
  });

  it("carries the gain over all, and is the bare impulse without moves", () => {
    const louder = impulseResponse(moves, rate, 6);
    const plain = impulseResponse(moves, rate);
    expect(20 * log10(louder[0]! / plain[0]!)).toBeCloseTo(6, 4);
    const bare = impulseResponse([], rate);
    expect(bare[0]).toBe(1);
    expect(bare.subarray(1).every((x) => x === 0)).toBe(true);
  });

  it("has died away when it ends, also at the lowest and narrowest", () => {
    const own = impulseResponse([move({ hz: 20, gainDb: 15, q: 3 })], rate);
    const tail = own.subarray(-480).reduce((most, x) => Math.max(most, abs(x)), 0);
    expect(tail).toBeLessThan(1e-4);
  });
});

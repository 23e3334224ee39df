/** The pieces that lifting is made of, each against what it must equal. */
import { loadFft } from "../dsp/fft";
import { seeded, whiteNoise } from "../testing/signals";
import { background, backgroundReach } from "./background";
import { liftBass } from "./liftBass";
import { addMidOrSide, midOrSide, type Stereo } from "./midSide";
import { shortTime } from "./shortTime";
import { addStrokes, fitTemplates, spansOf, updateGains, type StrokeTrain } from "./strokeTemplates";

beforeAll(loadFft);

const energy = (samples: Float32Array) => samples.reduce((sum, x) => sum + x * x, 0);

describe("a background", () => {
  it("is the median of nine frames, two apart, in every band", () => {
    const [frames, bands] = [40, 7];
    const random = seeded(4);
    const values = Float32Array.from({ length: frames * bands }, () => random());
    const found = new Float32Array(values.length);
    background(values, bands, found);
    for (let frame = backgroundReach; frame < frames - backgroundReach; frame++) {
      for (let band = 0; band < bands; band++) {
        const near = Array.from({ length: 9 }, (_, k) => values[(frame + 2 * k - 8) * bands + band]!);
        expect(found[frame * bands + band]).toBe(near.sort((a, b) => a - b)[4]);
      }
    }
  });

  it("keeps what sounds on and loses a stroke", () => {
    const values = Float32Array.from({ length: 60 }, (_, frame) => (frame >= 20 && frame < 26 ? 9 : 2));
    const found = new Float32Array(60);
    background(values, 1, found);
    expect([...found].every((x) => x === 2)).toBe(true);
  });

  it("takes the first and last frame for what lies beyond them", () => {
    const found = new Float32Array(5);
    background(Float32Array.from([1, 5, 5, 5, 7]), 1, found);
    expect([...found]).toEqual([1, 5, 5, 5, 7]);
  });
});

describe("frames over a signal", () => {
  const rate = 44100;
  const noise = whiteNoise(-12, 1.3, rate);

  it.each([44100, 96000])("put together whole are the signal again, at %d Hz", (own) => {
    const track = shortTime(noise, own);
    const again = new Float32Array(noise.length);
    const all = new Float32Array(track.bands).fill(1);
    for (let frame = 0; frame < track.frames; frame++) track.add(frame, all, again);
    // The lowest bin belongs to no band: what is slower than a frame is lost.
    const lost = energy(noise.map((x, i) => x - again[i]!)) / energy(noise);
    expect(lost).toBeLessThan(0.003);
  });

  it("have bands that rise, each bin by itself at the bottom", () => {
    const { bands, hertz } = shortTime(noise, rate);
    expect(hertz).toHaveLength(bands);
    for (let band = 1; band < bands; band++) expect(hertz[band]!).toBeGreaterThan(hertz[band - 1]!);
    expect(hertz[0]).toBeCloseTo(rate / 2048, 3);
    expect(hertz[10]! - hertz[9]!).toBeCloseTo(rate / 2048, 3);
    expect(hertz.at(-1)!).toBeGreaterThan(21_000);
    expect(bands).toBeLessThan(300);
  });

  it("find a tone where it is, and its energy in all frames", () => {
    const tone = Float32Array.from({ length: rate }, (_, i) => Math.sin((2 * Math.PI * 1000 * i) / rate));
    const track = shortTime(tone, rate);
    const magnitudes = new Float32Array(track.bands);
    track.magnitudes(20, magnitudes);
    const loudest = magnitudes.indexOf(magnitudes.reduce((a, b) => Math.max(a, b)));
    expect(Math.abs(track.hertz[loudest]! - 1000)).toBeLessThan(rate / 2048);
    let sum = 0;
    for (let frame = 0; frame < track.frames; frame++) {
      track.magnitudes(frame, magnitudes);
      sum += energy(magnitudes);
    }
    expect(sum * track.energyScale).toBeCloseTo(energy(tone), -3);
  });

  it("give a band alone where only it is asked for", () => {
    const two = Float32Array.from(
      { length: rate },
      (_, i) => Math.sin((2 * Math.PI * 300 * i) / rate) + Math.sin((2 * Math.PI * 5000 * i) / rate),
    );
    const track = shortTime(two, rate);
    const high = track.hertz.map((hz) => (hz > 2000 ? 1 : 0));
    const out = new Float32Array(two.length);
    for (let frame = 0; frame < track.frames; frame++) track.add(frame, high, out);
    const wanted = two.map((_, i) => Math.sin((2 * Math.PI * 5000 * i) / rate));
    const inside = (samples: Float32Array) => samples.subarray(4096, rate - 4096);
    expect(energy(inside(out.map((x, i) => x - wanted[i]!)))).toBeLessThan(1e-3 * energy(inside(wanted)));
  });

  it("see a time first in the newest quarter of a frame", () => {
    const click = new Float32Array(rate);
    click[20_000] = 1;
    const track = shortTime(click, rate);
    const first = track.frameOf(20_000 / rate);
    const level = (frame: number) => {
      const magnitudes = new Float32Array(track.bands);
      track.magnitudes(frame, magnitudes);
      return energy(magnitudes);
    };
    expect(level(first - 1)).toBe(0);
    expect(level(first)).toBeGreaterThan(0);
    expect(level(first + 3)).toBeGreaterThan(0);
    expect(level(first + 4)).toBe(0);
  });
});

describe("templates of strokes", () => {
  const bands = 6;
  const length = 4;
  const allowed = () => new Float32Array(length * bands).fill(1);
  const truth = [
    Float32Array.from({ length: length * bands }, (_, i) =>
      i % bands < 3 ? 8 - Math.floor(i / bands) : 0.01,
    ),
    Float32Array.from({ length: length * bands }, (_, i) =>
      i % bands >= 2 ? 5 - Math.floor(i / bands) : 0.01,
    ),
  ];
  const starts = [
    [4, 14, 24, 34, 44, 54],
    [4, 9, 19, 24, 39, 49, 54],
  ];
  const gains = [
    [1, 0.8, 1.2, 1, 0.9, 1.1],
    [1, 1, 0.9, 1.1, 1, 1, 1],
  ];
  const train = (k: number, own = gains[k]!): StrokeTrain => ({
    starts: Int32Array.from(starts[k]!),
    gains: Float32Array.from(own),
    length,
    allowed: allowed(),
    spans: spansOf(allowed(), bands),
    ceilings: new Float32Array(length).fill(1),
  });
  const mixed = () => {
    const sum = new Float32Array(64 * bands).fill(0.5);
    truth.forEach((template, k) => addStrokes(sum, bands, train(k), template));
    return sum;
  };
  const flat = new Float32Array(64 * bands).fill(0.5);
  const off = (found: Float32Array, wanted: Float32Array) =>
    Math.sqrt(energy(found.map((x, i) => x - wanted[i]!)) / energy(wanted));

  it("are found for drums that are struck together and alone", () => {
    const found = fitTemplates(mixed(), flat, bands, [train(0), train(1)]);
    expect(off(found[0]!, truth[0]!)).toBeLessThan(0.15);
    expect(off(found[1]!, truth[1]!)).toBeLessThan(0.15);
  });

  it("are nothing where the drum cannot sound", () => {
    const own = train(0);
    own.allowed.fill(0, 0, bands);
    const [found] = fitTemplates(mixed(), flat, bands, [own]);
    expect([...found!.subarray(0, bands)].every((x) => x === 0)).toBe(true);
    expect(found!.subarray(bands).some((x) => x > 1)).toBe(true);
  });

  it("die away, whatever begins with the strokes and sounds on", () => {
    const level = 4;
    const held = Float32Array.from({ length: length * bands }, (_, i) => (i % bands === 1 ? level : 0));
    const sum = mixed();
    addStrokes(sum, bands, train(0), held);
    const ceilings = Float32Array.from([1, 1, 0.3, 0.1]);
    const [found] = fitTemplates(sum, flat, bands, [{ ...train(0), ceilings }, train(1)]);
    const [loudest, then, last] = [1, 2, 3].map((frame) => found![frame * bands + 1]!);
    expect(loudest).toBeGreaterThan(level);
    const peak = Math.max(found![1]!, loudest!);
    expect(then).toBeLessThanOrEqual(0.301 * peak);
    expect(last).toBeLessThanOrEqual(0.101 * peak);
  });

  it("have gains of single strokes fitted to what is there", () => {
    const own = train(0, [1, 1, 1, 1, 1, 1]);
    const only = new Float32Array(64 * bands).fill(0.01);
    addStrokes(only, bands, train(0), truth[0]!);
    for (let round = 0; round < 12; round++) {
      const model = new Float32Array(64 * bands).fill(0.01);
      addStrokes(model, bands, own, truth[0]!);
      updateGains(
        only.map((x, i) => x / model[i]!),
        bands,
        own,
        truth[0]!,
      );
    }
    own.gains.forEach((gain, i) => expect(gain).toBeCloseTo(gains[0]![i]!, 2));
  });

  it("have spans that leave out nothing but where the drum cannot sound", () => {
    const some = Float32Array.from([0, 0.5, 0, 1, 0, 0, 0, 0, 0, 0, 0, 0, 1, 1, 1, 1, 1, 1]);
    expect([...spansOf(some, bands)].slice(0, 2)).toEqual([1, 4]);
    const [first, end] = spansOf(some, bands).subarray(2, 4);
    expect(end! - first!).toBe(0);
    expect([...spansOf(some, bands)].slice(4)).toEqual([0, 6]);
  });

  it("are added as far as they lie inside", () => {
    const sum = new Float32Array(3 * bands);
    const edge: StrokeTrain = {
      starts: Int32Array.from([-2, 2]),
      gains: Float32Array.from([1, 2]),
      length,
      allowed: allowed(),
      spans: spansOf(allowed(), bands),
      ceilings: new Float32Array(length).fill(1),
    };
    addStrokes(
      sum,
      bands,
      edge,
      Float32Array.from({ length: length * bands }, (_, i) => Math.floor(i / bands)),
    );
    // Frames 2 and 3 of the first, frame 0 of the second.
    expect([sum[0], sum[bands], sum[2 * bands]]).toEqual([2, 3, 0]);
  });
});

describe("mid and side", () => {
  it("are left and right again", () => {
    const stereo: Stereo = [whiteNoise(-10, 0.1, 8000, 1), whiteNoise(-10, 0.1, 8000, 2)];
    const again: Stereo = [new Float32Array(800), new Float32Array(800)];
    for (const sign of [1, -1] as const) addMidOrSide(again, midOrSide(stereo, sign), sign);
    again.forEach((channel, side) =>
      channel.forEach((x, i) => expect(x).toBeCloseTo(stereo[side as 0 | 1][i]!, 6)),
    );
  });
});

describe("a bass lifted out", () => {
  const rate = 22050;
  const seconds = 8;
  const tone = (hz: number, gain: number) =>
    Float32Array.from({ length: seconds * rate }, (_, i) => gain * Math.sin((2 * Math.PI * hz * i) / rate));
  const plus = (...all: Float32Array[]) => all[0]!.map((_, i) => all.reduce((sum, own) => sum + own[i]!, 0));
  // A1, a fifth of its level an octave higher; over it a chord of which no note is a harmonic.
  const line = plus(tone(55, 0.3), tone(110, 0.06));
  const held = plus(tone(261.6, 0.1), tone(311.1, 0.1), tone(392, 0.1));
  // In three seconds of eight: what is there throughout would be taken for the bass's own.
  const chord = held.map((x, i) => ([2, 4, 6].includes(Math.floor(i / rate)) ? x : 0));
  const notes = Array.from({ length: 8 }, (_, i) => ({
    start: i,
    end: i + 1,
    midi: 33,
    cents: 0,
    levelDb: -12,
    sure: 1,
  }));

  it("is the line, without the chord above it", () => {
    const mix = plus(line, chord);
    const { bass } = liftBass([mix, mix], rate, notes);
    const inside = (samples: Float32Array) => samples.subarray(rate, 7 * rate);
    expect(
      energy(
        inside(
          plus(
            bass[0],
            line.map((x) => -x),
          ),
        ),
      ),
    ).toBeLessThan(0.01 * energy(inside(line)));
  });

  it("without notes is what lies below the others", () => {
    const mix = plus(line, chord);
    const { bass, unsure } = liftBass([mix, mix], rate, []);
    expect(energy(bass[0])).toBeLessThan(1.05 * energy(line));
    expect(energy(bass[0])).toBeGreaterThan(0.8 * energy(tone(55, 0.3)));
    expect(unsure).toBe(0);
  });
});

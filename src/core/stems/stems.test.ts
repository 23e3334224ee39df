/** Stems held against their track: what each was turned up by, what is left, and what of it is missing. */
import { applyBiquad, designBiquad } from "../dsp/biquad";
import { loadFft } from "../dsp/fft";
import { partSpectrogram, type LiftedTrack } from "../lens";
import { partLevels } from "../lens/presence";
import { lensParts, ofDrumParts, ofLensParts, type LensPart } from "../lens/parts";
import { whiteNoise } from "../testing/signals";
import { decibelsToAmplitude } from "../units";
import { isWhollyMissing, restOfTrack, stemSum, type Passage } from ".";

beforeAll(loadFft);

const rate = 22050;
const bars = 10;
const starts = Array.from({ length: bars + 1 }, (_, i) => 2 * i);
const length = 2 * bars * rate;
const none = new Float32Array(length);

type Sound = readonly [Float32Array, Float32Array];
const mono = (samples: Float32Array): Sound => [samples, samples];

/** Noise of one octave, struck every half second or held. */
function sound(
  seed: number,
  hertz: number,
  { struck = false, plays = (bar: number): boolean => bar > 0 } = {},
): Sound {
  const samples = whiteNoise(-12, 2 * bars, rate, seed);
  applyBiquad(designBiquad("highPass", rate, hertz / 1.4, 0.7), samples);
  applyBiquad(designBiquad("lowPass", rate, hertz * 1.4, 0.7), samples);
  return mono(
    samples.map((x, i) => {
      const envelope = struck ? Math.exp(-((i % (rate / 2)) / (0.06 * rate))) : 1;
      return plays(Math.floor(i / (2 * rate)) + 1) ? x * envelope : 0;
    }),
  );
}
const turned = ([left, right]: Sound, decibels: number): Sound => {
  const gain = decibelsToAmplitude(decibels);
  return [left.map((x) => gain * x), right.map((x) => gain * x)];
};
const kick = turned(sound(1, 80, { struck: true }), 6);
const bass = sound(2, 220);
const hats = sound(3, 7000, { struck: true });
const music = sound(4, 1200);
const parts: Partial<Record<LensPart, Sound>> = { kick, bass, hats, music };

const sumOf = (...all: Sound[]): Sound =>
  mono(none.map((_, i) => all.reduce((sum, [left]) => sum + left[i]!, 0)));
/** What is done to a whole mix: a shelf, and a limiter that is slow to let go. */
function mastered([left]: Sound): Sound {
  const samples = left.slice();
  applyBiquad(designBiquad("highShelf", rate, 3000, 0.7, 4), samples);
  let over = 1;
  return mono(
    samples.map((x) => {
      over = Math.max(1, Math.abs(x) / 0.5, 1 + (over - 1) * 0.9997);
      return x / over;
    }),
  );
}

const passage =
  ([left, right]: Sound, later = 0): Passage =>
  (from, to) => {
    const read = (samples: Float32Array) => {
      const own = new Float32Array(to - from);
      const begin = Math.max(0, from - later);
      own.set(samples.subarray(begin, Math.max(begin, to - later)), begin + later - from);
      return own;
    };
    return Promise.resolve([read(left), read(right)]);
  };
const restOf = (mix: Sound, stems: readonly Sound[]) =>
  restOfTrack(
    length,
    rate,
    passage(mix),
    stems.map((own) => passage(own)),
  );

/** The parts themselves, as if a lens had lifted them out without fault. */
let known: LiftedTrack | null = null;
const lifted = (): LiftedTrack =>
  (known ??= {
    free: ofLensParts((part) => (parts[part] ? 20 : null)),
    levels: ofLensParts((part) => partLevels(parts[part] ?? mono(none), rate)),
    spectrograms: ofLensParts((part) => partSpectrogram(parts[part] ?? mono(none), rate)),
    strokeLengths: ofDrumParts(() => null),
    strokes: ofDrumParts(() => ({ times: new Float32Array(0), powers: new Float32Array(0) })),
    durationSeconds: 2 * bars,
  });
async function sumUp(mix: Sound, stems: readonly Sound[], held: readonly LensPart[] = [], isLifted = true) {
  const { rest } = await restOf(mix, stems);
  const whole = partSpectrogram(mix, rate);
  return stemSum(partSpectrogram(rest, rate), whole, isLifted ? lifted() : null, starts, held);
}

describe("how stems make up their track", () => {
  it("is found: each as loud as it is there, whatever its polarity", async () => {
    const [ours, theirs] = [turned(kick, 6), turned(bass, -9)];
    const inverted: Sound = [theirs[0].map((x) => -x), theirs[1].map((x) => -x)];
    const { rest, gainsDb } = await restOf(sumOf(ours, inverted, hats), [kick, bass, hats]);
    [6, -9, 0].forEach((gain, k) => expect(gainsDb[k]).toBeCloseTo(gain, 0));
    const [left] = rest;
    const powerOf = (samples: Float32Array) => samples.reduce((sum, x) => sum + x * x, 0);
    expect(powerOf(left) / powerOf(kick[0])).toBeLessThan(1e-4);
  });

  it("leaves what none of them is", async () => {
    const { rest } = await restOf(sumOf(kick, bass, music), [kick, bass]);
    let [error, power] = [0, 0];
    rest[0].forEach((x, i) => {
      error += (x - music[0][i]!) ** 2;
      power += music[0][i]! ** 2;
    });
    expect(error / power).toBeLessThan(0.01);
  });

  it("has no place for a stem of another song, or one that lies elsewhere", async () => {
    const stranger = sound(9, 400);
    expect((await restOf(sumOf(kick, music), [kick, music, stranger])).gainsDb[2]).toBeNull();
    const late = await restOfTrack(length, rate, passage(sumOf(kick, music)), [
      passage(kick),
      passage(music, Math.round(0.05 * rate)),
    ]);
    expect(late.gainsDb[1]).toBeNull();
  });
});

describe("the sum of stems", () => {
  const mix = mastered(sumOf(kick, bass, hats, music));

  it("is the track, mastered or not", async () => {
    const { restDb, missing } = await sumUp(mix, [kick, bass, hats, music]);
    expect(missing).toEqual([]);
    expect(restDb).toBeLessThan(-15);
  });

  it.each(Object.keys(parts) as LensPart[])("without the %s lacks that, throughout", async (left) => {
    const names = lensParts.filter((part) => parts[part] && part !== left);
    const { missing } = await sumUp(
      mix,
      names.map((part) => parts[part]!),
      names,
    );
    expect(missing.map(({ part }) => part)).toEqual([left]);
    expect(isWhollyMissing(missing[0]!)).toBe(true);
    const middle = { kick: 80, bass: 220, hats: 7000, music: 1200 }[left as "kick"];
    expect(missing[0]!.fromHz).toBeLessThan(middle);
    expect(missing[0]!.toHz).toBeGreaterThan(middle);
  });

  it("lacks a part in some bars where a stem of it breaks off", async () => {
    const half = sound(4, 1200, { plays: (bar) => bar <= 5 });
    const { missing } = await sumUp(mix, [kick, bass, hats, half], ["kick", "bass", "hats"]);
    expect(missing).toHaveLength(1);
    expect(missing[0]).toMatchObject({ part: "music", throughout: false });
    expect(missing[0]!.bars.slice(-4)).toEqual([7, 8, 9, 10]);
    expect(missing[0]!.bars[0]).toBeGreaterThan(4);
  });

  it("says where something is missing that nobody knows", async () => {
    const { missing } = await sumUp(mix, [kick, bass, hats], [], false);
    expect(missing).toMatchObject([{ part: null, throughout: true }]);
    expect(missing[0]!.fromHz).toBeGreaterThan(400);
  });
});

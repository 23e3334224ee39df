/** Strokes that sound alike find one another, however hard they are struck and whatever their order. */
import { loadFft } from "../dsp/fft";
import { onsetStrength } from "../grid/onset";
import { whiteNoise } from "../testing/signals";
import { drumBandGatherer } from "./bands";
import { practiceKit, stroke } from "./kit";
import { kindredCount, kindredStrokes } from "./kindredSounds";

beforeAll(loadFft);

const rate = 32000;
const order = ["kick", "hat", "snare", "hat", "kick", "hat", "snare", "openHat", "perc"] as const;
let times: number[];
let voices: (typeof order)[number][];
let kin: ReturnType<typeof kindredStrokes>;

beforeAll(() => {
  times = Array.from({ length: 45 }, (_, i) => 0.3 + 0.25 * i);
  voices = times.map((_, i) => order[i % order.length]!);
  const samples = whiteNoise(-60, 12.5, rate, 5);
  let state = 1;
  const random = () => (state = (state * 16807) % 2147483647) / 2147483647;
  times.forEach((time, i) => {
    const sound = stroke(practiceKit[voices[i]!], rate, random);
    // Between pianissimo and forte.
    const gain = 0.15 + 0.75 * ((7 * i) % 10) * 0.1;
    const start = Math.round(time * rate);
    for (let k = 0; k < sound.length && start + k < samples.length; k++)
      samples[start + k]! += gain * sound[k]!;
  });
  const gatherer = drumBandGatherer(samples.length, rate);
  onsetStrength([samples, samples], rate, undefined, gatherer.add);
  kin = kindredStrokes(times, gatherer.finish());
});

const kinOf = (i: number) =>
  Array.from(kin.places.subarray(i * kindredCount, (i + 1) * kindredCount)).filter((place) => place >= 0);

it.each(["kick", "snare", "hat", "openHat", "perc"] as const)("of a %s are others of it", (voice) => {
  let right = 0;
  let all = 0;
  voices.forEach((own, i) => {
    if (own !== voice) return;
    // There are at least four others of each.
    for (const other of kinOf(i).slice(0, 4)) {
      all++;
      right += Number(voices[other] === voice);
    }
  });
  expect(all).toBeGreaterThan(10);
  expect(right / all).toBeGreaterThan(0.9);
});

it("never hold the stroke itself, and the most alike come first", () => {
  for (let i = 0; i < times.length; i++) {
    expect(kinOf(i)).not.toContain(i);
    const likeness = Array.from(kin.likeness.subarray(i * kindredCount, (i + 1) * kindredCount));
    expect(likeness).toEqual([...likeness].sort((a, b) => b - a));
  }
});

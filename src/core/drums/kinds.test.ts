/** Two drums of one voice are two kinds, however hard they are struck and whatever sounds with them. */
import { loadFft } from "../dsp/fft";
import { onsetStrength } from "../grid/onset";
import { whiteNoise } from "../testing/signals";
import { drumBandGatherer } from "./bands";
import { practiceKit, stroke, type Drum } from "./kit";
import { withKinds } from "./kinds";
import type { DrumHit } from "./hits";

beforeAll(loadFft);

const rate = 32000;
const high = (drum: Drum): Drum => ({
  ...drum,
  tone: { ...drum.tone, pitch: drum.tone.pitch * 1.9, decaySeconds: drum.tone.decaySeconds * 0.4 },
  noise: { ...drum.noise, from: drum.noise.from * 2.2, decaySeconds: drum.noise.decaySeconds * 0.4 },
});

/** Forty strokes of a voice, of two makes every third of the other, with a hat on every second. */
function heard(voice: "kick" | "snare", makes: 1 | 2 = 2): { hits: DrumHit[]; isOther: boolean[] } {
  const samples = whiteNoise(-62, 11, rate, 3);
  let state = 7;
  const random = () => (state = (state * 16807) % 2147483647) / 2147483647;
  const put = (drum: Drum, time: number, gain: number) => {
    const sound = stroke(drum, rate, random);
    const start = Math.round(time * rate);
    for (let k = 0; k < sound.length && start + k < samples.length; k++)
      samples[start + k]! += gain * sound[k]!;
  };
  const times = Array.from({ length: 40 }, (_, i) => 0.3 + 0.26 * i);
  const isOther = times.map((_, i) => makes === 2 && i % 3 === 2);
  times.forEach((time, i) => {
    put(isOther[i] ? high(practiceKit[voice]) : practiceKit[voice], time, 0.2 + 0.07 * ((5 * i) % 9));
    if (i % 2 === 0) put(practiceKit.hat, time, 0.3);
  });
  const gatherer = drumBandGatherer(samples.length, rate);
  onsetStrength([samples, samples], rate, undefined, gatherer.add);
  const hits = times.map((time): DrumHit => ({ time, voice, velocity: 0.5, confidence: 0.9 }));
  return { hits: withKinds(hits, gatherer.finish()), isOther };
}

it.each(["kick", "snare"] as const)("of the %s are two, the one with most strokes first", (voice) => {
  const { hits, isOther } = heard(voice);
  const right = hits.filter(({ kind }, i) => kind === (isOther[i] ? 1 : 0)).length;
  expect(right / hits.length).toBeGreaterThan(0.9);
});

it.each(["kick", "snare"] as const)("of one %s are one, with a hat and without, loud and soft", (voice) => {
  const { hits } = heard(voice, 1);
  expect(hits.filter(({ kind }) => kind === 0)).toHaveLength(hits.length);
});

it("are one where a voice has few strokes", () => {
  const { hits } = heard("snare");
  const gatherer = drumBandGatherer(rate, rate);
  const silent = whiteNoise(-60, 1, rate, 3);
  onsetStrength([silent, silent], rate, undefined, gatherer.add);
  const few = withKinds(hits.slice(0, 3), gatherer.finish());
  expect(few.map(({ kind }) => kind)).toEqual([0, 0, 0]);
});

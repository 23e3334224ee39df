/** What small speakers leave of a bass: nothing of a pure fundamental, most of one with strong harmonics. */
import { loadFft } from "../dsp/fft";
import { averageSpectrum, type Spectrum } from "../tone";
import { fractionalOctaveSpectrogram } from "../tone/fractionalOctaveSpectrogram";
import { lostOnSmallSpeakers } from "./smallSpeakers";

beforeAll(loadFft);

const rate = 22050;
/** Four seconds of a note of 50 Hz, with harmonics that each have a share of its amplitude. */
function bass(harmonics: Record<number, number>): Spectrum {
  const samples = Float32Array.from({ length: 4 * rate }, (_, i) => {
    const phase = (2 * Math.PI * 50 * i) / rate;
    let x = Math.sin(phase);
    for (const [number, share] of Object.entries(harmonics)) x += share * Math.sin(Number(number) * phase);
    return 0.1 * x;
  });
  return averageSpectrum(fractionalOctaveSpectrogram([samples, samples], rate));
}

test("a pure fundamental is lost, and harmonics carry it by what they are", () => {
  expect(lostOnSmallSpeakers(bass({}))!).toBeGreaterThan(25);
  // The fourth at −20 dB: 20 dB less than the fundamental, which K-weighting has 2.6 dB lower yet.
  const some = lostOnSmallSpeakers(bass({ 4: 0.1 }))!;
  expect(some).toBeGreaterThan(15.5);
  expect(some).toBeLessThan(20);
  expect(lostOnSmallSpeakers(bass({ 4: 0.8, 6: 0.8 }))!).toBeLessThan(3);
  const none = new Float32Array(124);
  expect(lostOnSmallSpeakers({ mid: none, side: none, cross: none })).toBeNull();
});

/** K-weighting of the twelfth-octave bands, as factors of power (ITU-R BS.1770-5, as `kWeighting`). */
import { biquadMagnitude } from "../dsp/biquad";
import { bands } from "../tone/bands";
import { kWeighting } from "./kWeighting";

const rate = 48_000;

export const kWeightOfBands: Float64Array = (() => {
  const { shelf, highPass } = kWeighting(rate);
  const magnitudeAt = (hertz: number) =>
    biquadMagnitude(shelf, rate, hertz) * biquadMagnitude(highPass, rate, hertz);
  return Float64Array.from(bands(12), ({ centre }) => magnitudeAt(centre) ** 2);
})();

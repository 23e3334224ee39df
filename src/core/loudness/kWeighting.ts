import type { Speaker } from "../audio/signal";
import type { Biquad } from "../dsp/biquad";
import type { Hertz } from "../units";

const { tan, PI } = Math;

/**
 * The two filters of K-weighting (ITU-R BS.1770-5, annex 1) for any sample rate. The standard
 * tabulates them at 48 kHz only; the analogue prototypes behind that table are transformed
 * bilinearly, which gives back the tabulated values at 48 kHz (checked to 1e-8 in the test).
 */
export function kWeighting(sampleRate: Hertz): { shelf: Biquad; highPass: Biquad } {
  const shelfK = tan((PI * 1681.974450955533) / sampleRate);
  const shelfQ = 0.7071752369554196;
  const high = 10 ** (3.999843853973347 / 20);
  const band = high ** 0.4996667741545416;
  const shelfA0 = 1 + shelfK / shelfQ + shelfK * shelfK;
  const shelf: Biquad = {
    b0: (high + (band * shelfK) / shelfQ + shelfK * shelfK) / shelfA0,
    b1: (2 * (shelfK * shelfK - high)) / shelfA0,
    b2: (high - (band * shelfK) / shelfQ + shelfK * shelfK) / shelfA0,
    a1: (2 * (shelfK * shelfK - 1)) / shelfA0,
    a2: (1 - shelfK / shelfQ + shelfK * shelfK) / shelfA0,
  };
  const passK = tan((PI * 38.13547087602444) / sampleRate);
  const passQ = 0.5003270373238773;
  const passA0 = 1 + passK / passQ + passK * passK;
  const highPass: Biquad = {
    b0: 1,
    b1: -2,
    b2: 1,
    a1: (2 * (passK * passK - 1)) / passA0,
    a2: (1 - passK / passQ + passK * passK) / passA0,
  };
  return { shelf, highPass };
}

/** Channel weight of ITU-R BS.1770-5, table 3: surrounds +1.5 dB, the low-frequency channel none. */
export function channelWeight(speaker: Speaker): number {
  if (speaker === "lfe") return 0;
  return speaker === "leftSurround" || speaker === "rightSurround" ? 1.41 : 1;
}

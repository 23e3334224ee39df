/** Fitted by `npm run fit:velocities`: for each voice weights of the features of strokes. Not edited by hand. */
import type { DrumVoice } from "./voices";

// prettier-ignore
export const velocityModel: Partial<Record<DrumVoice, readonly number[]>> = {
  kick: [0.874, 0.183, 0.388, 0.084, -0.071, -0.085, 0.202, 0.000, 0.000, 0.000],
  snare: [0.122, -0.001, -0.011, 0.108, 0.063, 0.120, 0.038, 0.103, 0.493, -0.090],
  hat: [0.058, 0.009, 0.026, -0.057, 0.001, -0.015, 0.017, -0.023, 0.014, 0.757],
  openHat: [0.659, -0.013, 0.094, 0.076, -0.263, 0.295, -0.263, 0.251, 0.963, -0.282],
  cymbal: [0.520, 0.026, -0.014, 0.018, -0.024, 0.049, -0.054, -0.060, 0.363, 0.187],
  perc: [0.700, -0.006, 0.012, 0.084, -0.226, 0.042, 0.271, -0.267, 0.501, 0.052],
};

/** Fitted by `npm run fit:velocities`: for each voice weights of the features of strokes. Not edited by hand. */
import type { DrumVoice } from "./voices";

// prettier-ignore
export const velocityModel: Partial<Record<DrumVoice, readonly number[]>> = {
  kick: [0.729, 0.181, 0.329, -0.008, -0.084, -0.051, 0.307, 0.000, 0.000, 0.000],
  snare: [0.211, 0.005, -0.028, 0.148, 0.112, 0.209, 0.035, -0.050, 0.343, -0.066],
  rim: [0.379, -0.027, -0.017, 0.015, -0.005, 0.271, 0.094, 0.357, 0.208, -0.115],
  hat: [0.449, 0.021, -0.018, -0.003, -0.017, 0.011, 0.008, 0.037, -0.137, 0.726],
  openHat: [1.002, -0.005, 0.053, -0.072, -0.008, 0.055, -0.018, -0.086, 0.603, 0.004],
  cymbal: [0.128, 0.026, -0.003, -0.040, -0.010, -0.018, -0.008, -0.012, 0.090, 0.861],
  perc: [0.964, 0.054, -0.016, -0.157, -0.030, -0.060, 0.190, -0.243, 0.726, -0.009],
};

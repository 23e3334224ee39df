/** Fitted by `npm run fit:freedom`: for each part weights of `distortionTerms`. Not edited by hand. */
import type { LensPart } from "./parts";

// oxfmt-ignore
export const freedomModel: Record<LensPart, readonly number[]> = {
  kick: [0.0000, 3.8093, 4.4982, 0.0000],
  snare: [0.0000, 1.9900, 10.7675, 0.0000],
  hats: [0.0000, 4.7687, 0.0346, 0.0000],
  percussion: [0.0000, 6.8357, 0.0000, 20.6610],
  bass: [0.0000, 6.7461, 9.9923, 0.0000],
  music: [0.0870, 1.6045, 0.0000, 0.0000],
};

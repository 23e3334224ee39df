/** What sounds on in a spectrogram while drums are struck: medians over time. */
import { medianOf, mediansOverRows } from "../dsp/vector/median";

/** So many frames lie between the values that are compared: what is shorter than half of all is struck. */
const apart = 2;
/** Frames on either side that a median reaches. */
export const backgroundReach = (apart * (medianOf - 1)) / 2;

/**
 * @param magnitudes `frames × bands`, frame by frame.
 * @param result as long, is overwritten.
 */
export const background = (magnitudes: Float32Array, bands: number, result: Float32Array): void =>
  mediansOverRows(magnitudes, bands, apart, result);

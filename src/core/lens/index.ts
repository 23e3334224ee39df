/** The lens: parts of a mix lifted out of it, so that each can be heard, seen and measured by itself. */
import { addScaled } from "../dsp/vector/sums";
import type { StereoSamples } from "../hits/strokes";
import type { Decibels, Hertz } from "../units";
import { evidenceOf, freeDbOf, type Evidence } from "./freedom";
import type { HeardParts } from "./heardParts";
import { energyOf } from "./energy";
import { LensKeeper } from "./keep";
import { liftBass } from "./liftBass";
import { liftDrums } from "./liftDrums";
import type { Stereo } from "./midSide";
import type { LiftedTrack } from "./lensMeasures";
import { drumParts, ofLensParts, type LensPart } from "./parts";

export { energyOf } from "./energy";
export { LensKeeper } from "./keep";
export { distortionTerms, type Evidence } from "./freedom";
export { heardIn, strokesOf, type HeardParts } from "./heardParts";
export {
  lensMeasures,
  lensVersion,
  type LensMeasures,
  type LiftedTrack,
  type PartMeasures,
  type PartSpectrogram,
} from "./lensMeasures";
export { strokeLength } from "./strokeLength";
export { strokeLevels, strokesIn, type Stroke } from "./strokes";
export { partSpectrogram } from "./partSpectrogram";
export { answeredBars, comparePresence, type ComparedPresence, type PartInBars } from "./answeredBars";
export { barLevels, partLevels, playingBars, type PartBars } from "./presence";
export {
  drumParts,
  lensParts,
  ofDrumParts,
  ofLensParts,
  partOfVoice,
  type DrumPart,
  type LensPart,
} from "./parts";

/** A part of a mix. */
export interface LiftedPart {
  samples: Stereo;
  /** How far it stands free of the others, as told by the lifting itself; null where there is none of it. */
  freeDb: Decibels | null;
  /** What tells so; null where there is none of it. */
  evidence: Evidence | null;
}

/**
 * @param channels left and right; the same array twice for mono.
 * @returns parts that add up to the mix.
 */
export function lift(channels: StereoSamples, rate: Hertz, heard: HeardParts): Record<LensPart, LiftedPart> {
  const drums = liftDrums(channels, rate, heard.hits, heard.bassStarts);
  const music = channels.map((samples, side) => {
    const left = samples.slice();
    for (const part of drumParts) addScaled(left, drums.parts[part][side as 0 | 1], -1);
    return left;
  }) as Stereo;
  const { bass, unsure: unsureBass } = liftBass(music, rate, heard.bass);
  music.forEach((samples, side) => addScaled(samples, bass[side as 0 | 1], -1));
  const variance: Record<LensPart, number> = {
    ...drums.unsure,
    bass: unsureBass,
    // Whatever was taken from it may be its own.
    music: drumParts.reduce((sum, part) => sum + drums.unsure[part], unsureBass),
  };
  return ofLensParts((part): LiftedPart => {
    const samples = part === "music" ? music : part === "bass" ? bass : drums.parts[part];
    const energy = energyOf(samples);
    if (energy <= leastMeanSquare * samples[0].length) return { samples, freeDb: null, evidence: null };
    const evidence = evidenceOf(part, samples, rate, heard, { energy, variance: variance[part] });
    return { samples, freeDb: freeDbOf(part, evidence), evidence };
  });
}

/** What is kept of lifted parts. */
export function keptOf(lifted: Record<LensPart, LiftedPart>, rate: Hertz, heard: HeardParts): LiftedTrack {
  const keeper = new LensKeeper(rate, heard);
  keeper.add({ parts: lifted, begin: 0, frames: null });
  return keeper.result(lifted.music.samples[0].length / rate);
}

/** Below this a part is not there: −90 dBFS on average. */
const leastMeanSquare = 1e-9;

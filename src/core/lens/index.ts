/** The lens: parts of a mix lifted out of it, so that each can be heard, seen and measured by itself. */
import type { TrackAnalysis } from "../analysis/result";
import { asHits, leastConfidence, type DrumHit } from "../drums/hits";
import type { StereoSamples } from "../hits/strokes";
import type { BassNote } from "../lowEnd";
import { powerToDecibels, type Decibels, type Hertz, type Seconds } from "../units";
import { liftBass } from "./liftBass";
import { liftDrums } from "./liftDrums";
import type { Stereo } from "./midSide";
import type { LiftedTrack } from "./lensMeasures";
import { drumParts, ofDrumParts, ofLensParts, partOfVoice, type DrumPart, type LensPart } from "./parts";
import { partSpectrogram } from "./partSpectrogram";
import { partLevels } from "./presence";
import { strokeLength } from "./strokeLength";
import { strokeLevels, strokesIn } from "./strokes";

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
export {
  barLevels,
  comparePresence,
  partLevels,
  playingBars,
  type ComparedPresence,
  type PartBars,
} from "./presence";
export {
  drumParts,
  lensParts,
  ofDrumParts,
  ofLensParts,
  partOfVoice,
  type DrumPart,
  type LensPart,
} from "./parts";

const { max, min } = Math;

/** What is known of a track, by which its parts are told. */
export interface HeardParts {
  /** In order of time; those below the confidence that counts are left out. */
  hits: readonly DrumHit[];
  /** When bass notes begin, in order. */
  bassStarts: readonly Seconds[];
  bass: readonly BassNote[];
}

/** What an analysis heard. */
export const heardIn = ({ drums, bass }: Pick<TrackAnalysis, "drums" | "bass">): HeardParts => ({
  hits: asHits(drums),
  bassStarts: drums.bassNotes,
  bass,
});

/** A part of a mix. */
export interface LiftedPart {
  samples: Stereo;
  /** How far it stands free of the others, as told by the lifting itself; null where there is none of it. */
  freeDb: Decibels | null;
}

/**
 * @param channels left and right; the same array twice for mono.
 * @returns parts that add up to the mix.
 */
export function lift(channels: StereoSamples, rate: Hertz, heard: HeardParts): Record<LensPart, LiftedPart> {
  const drums = liftDrums(channels, rate, heard.hits, heard.bassStarts);
  const music = channels.map((samples, side) => {
    const left = samples.slice();
    for (const part of drumParts) subtract(left, drums.parts[part][side as 0 | 1]);
    return left;
  }) as Stereo;
  const { bass, unsure: unsureBass } = liftBass(music, rate, heard.bass);
  music.forEach((samples, side) => subtract(samples, bass[side as 0 | 1]));
  const unsure = drumParts.reduce((sum, part) => sum + drums.unsure[part], unsureBass);
  const lifted = (samples: Stereo, own: number): LiftedPart => {
    const energy = energyOf(samples);
    const isThere = energy > leastMeanSquare * samples[0].length;
    return {
      samples,
      freeDb: isThere ? min(mostFree, powerToDecibels(energy / max(own, 1e-9 * energy))) : null,
    };
  };
  return {
    kick: lifted(drums.parts.kick, drums.unsure.kick),
    snare: lifted(drums.parts.snare, drums.unsure.snare),
    hats: lifted(drums.parts.hats, drums.unsure.hats),
    percussion: lifted(drums.parts.percussion, drums.unsure.percussion),
    bass: lifted(bass, unsureBass),
    music: lifted(music, unsure),
  };
}

/** When the drums of a part are struck, in order. */
export const strokesOf = ({ hits }: HeardParts, part: DrumPart): Seconds[] =>
  hits
    .filter(({ voice, confidence }) => partOfVoice[voice] === part && confidence >= leastConfidence)
    .map(({ time }) => time);

/** What is kept of lifted parts. */
export function keptOf(lifted: Record<LensPart, LiftedPart>, rate: Hertz, heard: HeardParts): LiftedTrack {
  const each = <T>(of: (part: LiftedPart) => T) => ofLensParts((part) => of(lifted[part]));
  const strokes = ofDrumParts((part) => strokesIn(part, lifted[part].samples, rate, strokesOf(heard, part)));
  return {
    free: each(({ freeDb }) => freeDb),
    levels: each(({ samples }) => partLevels(samples, rate)),
    spectrograms: each(({ samples }) => partSpectrogram(samples, rate)),
    strokeLengths: ofDrumParts((part) => strokeLength(strokes[part])),
    strokes: ofDrumParts((part) => strokeLevels(strokes[part])),
    durationSeconds: lifted.music.samples[0].length / rate,
  };
}

/** No part is known to stand freer than that: what was heard wrongly is not in the variance. */
const mostFree: Decibels = 20;

/** Below this a part is not there: −90 dBFS on average. */
const leastMeanSquare = 1e-9;

/** Sum of the squares of both channels. */
export function energyOf([left, right]: StereoSamples): number {
  let sum = 0;
  for (let i = 0; i < left.length; i++) sum += left[i]! * left[i]! + right[i]! * right[i]!;
  return sum;
}

function subtract(from: Float32Array, samples: Float32Array): void {
  for (let i = 0; i < from.length; i++) from[i]! -= samples[i]!;
}

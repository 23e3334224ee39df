/**
 * Music without a kit has notes that sound a little like a drum: where none of the voices of a kit is
 * heard surely, those that are never heard surely are not there.
 */
import { leastConfidence, type DrumHit } from "./hits";
import { byVoice, type DrumVoice } from "./voices";
import type { Fraction } from "../units";

/** A voice with fewer clear hits than this is not taken to be there, unless one of them is certain. */
const leastHits = 4;
const certain: Fraction = 0.97;
/** Voices that may well be struck once or twice in a whole track. */
const rareVoices: readonly DrumVoice[] = ["tom", "cymbal"];
const hatVoices: readonly DrumVoice[] = ["hat", "openHat"];

/** Voices of which one at least is heard surely, in so many hits and so sure in the mean, where there is a kit. */
const kitVoices: readonly DrumVoice[] = ["kick", "snare", "clap", "rim", "hat", "openHat"];
const kitHits = 8;
const kitSure: Fraction = 0.82;

/**
 * How sure a voice's hits are at least in the mean where it plays without a kit. In 36 MIDI pieces of
 * the fitting half, without their drums, means of eight hits and more reached .83 for the kick (one
 * piece, else .77), .77 for the snare, .58 for hats, .62 for toms, .77 for cymbals and .79 for
 * percussion; with them the faintest were .77, .81, .83 (two with few hits less), .65, .77 and .81.
 */
const leastSure: Record<DrumVoice, Fraction> = {
  kick: 0.78,
  snare: 0.8,
  clap: 0.8,
  rim: 0.8,
  hat: 0.66,
  openHat: 0.7,
  tom: 0.7,
  cymbal: 0.78,
  perc: 0.8,
};
/** A voice whose surest tenth is as sure as this is there all the same. */
const surest: Fraction = 0.97;

/**
 * Beside a kit a voice is not there that is as unsure as this in the mean and in its surest tenth: other
 * sounds resemble it here and there. Of 23 such voices in 176 own songs 16 were not played at all; of the
 * others at most a fifth of the strokes was found, or hits by chance only. Percussion and toms that are
 * as faint are often there.
 */
const faint = { mean: 0.68, surest: 0.81 };
const faintVoices: readonly DrumVoice[] = [...kitVoices, "cymbal"];

const meanOf = (sorted: readonly number[]): number => sorted.reduce((a, b) => a + b, 0) / sorted.length;

/** Hits of voices that are not there become too unsure to count. */
export function withoutStrays(hits: readonly DrumHit[]): DrumHit[] {
  const isAmongMany = hits.length > leastHits * 10;
  // How sure the hits of each voice are that count, the surest first.
  const sure = byVoice(
    hits.filter(({ confidence }) => confidence >= leastConfidence),
    ({ voice }) => voice,
  ).map(([voice, own]) => ({
    voice,
    confidences: own.map(({ confidence }) => confidence).sort((a, b) => b - a),
  }));
  const hasKit = sure.some(
    ({ voice, confidences }) =>
      kitVoices.includes(voice) && confidences.length >= kitHits && meanOf(confidences) >= kitSure,
  );
  const surestTenth = (confidences: readonly number[]) =>
    confidences[Math.floor(0.1 * (confidences.length - 1))]!;
  // Hats that are open now and then are one voice with those that are closed.
  const hats = sure.flatMap(({ voice, confidences }) => (hatVoices.includes(voice) ? confidences : []));
  hats.sort((a, b) => b - a);
  const isFaint = (voice: DrumVoice, confidences: readonly number[]) => {
    const own = hatVoices.includes(voice) ? hats : confidences;
    return faintVoices.includes(voice) && meanOf(own) < faint.mean && surestTenth(own) < faint.surest;
  };
  const isStray = (voice: DrumVoice, confidences: readonly number[]) =>
    confidences.length < leastHits && isAmongMany
      ? !rareVoices.includes(voice) && confidences[0]! < certain
      : hasKit
        ? isFaint(voice, confidences)
        : meanOf(confidences) < leastSure[voice] && surestTenth(confidences) < surest;
  const strays = sure.flatMap(({ voice, confidences }) => (isStray(voice, confidences) ? [voice] : []));
  return hits.map((hit) =>
    strays.includes(hit.voice) ? { ...hit, confidence: hit.confidence * leastConfidence } : hit,
  );
}

/**
 * Voices that are heard now and then but never surely are not there: music without a kit has notes
 * that sound a little like a drum, and no drum is heard badly in all of its strokes.
 */
import { leastConfidence, type DrumHit } from "./hits";
import { drumVoices, type DrumVoice } from "./voices";
import type { Fraction } from "../units";

/** A voice with fewer clear hits than this is not taken to be there, unless one of them is certain. */
const leastHits = 4;
const certain: Fraction = 0.97;
/** Voices that may well be struck once or twice in a whole track. */
const rareVoices: readonly DrumVoice[] = ["tom", "cymbal"];

/**
 * How sure a voice's hits are at least in the mean, and its surest tenth, where the voice is there:
 * between what is heard in pieces with it and in the same pieces without their drums (fitting half of
 * the MIDI pieces; means of .76 and more against .74 and less for the kick, .86 against .79 for the
 * snare, .82 against .72 for hats). Voices that are left out here are faint even where they play.
 */
const leastSure: Partial<Record<DrumVoice, { mean: Fraction; surest: Fraction }>> = {
  kick: { mean: 0.74, surest: 0.93 },
  snare: { mean: 0.8, surest: 0.95 },
  clap: { mean: 0.75, surest: 0.93 },
  rim: { mean: 0.75, surest: 0.93 },
  hat: { mean: 0.74, surest: 0.91 },
  perc: { mean: 0.75, surest: 0.93 },
};

function isStray(voice: DrumVoice, clear: readonly DrumHit[], isAmongMany: boolean): boolean {
  const sure = clear.map(({ confidence }) => confidence).sort((a, b) => b - a);
  if (sure.length === 0) return false;
  if (sure.length < leastHits) return isAmongMany && !rareVoices.includes(voice) && sure[0]! < certain;
  const least = leastSure[voice];
  if (!least) return false;
  const mean = sure.reduce((a, b) => a + b, 0) / sure.length;
  return mean < least.mean && sure[Math.floor(0.1 * (sure.length - 1))]! < least.surest;
}

/** Hits of voices that are not there become too unsure to count. */
export function withoutStrays(hits: readonly DrumHit[]): DrumHit[] {
  const isAmongMany = hits.length > leastHits * 10;
  const strays = drumVoices.filter((voice) =>
    isStray(
      voice,
      hits.filter((hit) => hit.voice === voice && hit.confidence >= leastConfidence),
      isAmongMany,
    ),
  );
  return hits.map((hit) =>
    strays.includes(hit.voice) ? { ...hit, confidence: hit.confidence * leastConfidence } : hit,
  );
}

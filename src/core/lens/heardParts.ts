/** What an analysis heard of a track, by which its parts are told. */
import type { TrackAnalysis } from "../analysis/result";
import { asHits, leastConfidence, type DrumHit } from "../drums/hits";
import type { BassNote } from "../lowEnd";
import type { Seconds } from "../units";
import { partOfVoice, type DrumPart } from "./parts";

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

/** The strokes of a part that count, in order. */
export const strokesOf = ({ hits }: HeardParts, part: DrumPart): DrumHit[] =>
  hits.filter(({ voice, confidence }) => partOfVoice[voice] === part && confidence >= leastConfidence);

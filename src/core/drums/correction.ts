/** What a producer puts right of drum hits: edits that lie over what was heard, and patterns brought in. */
import { z } from "zod";
import { firstAfter } from "../firstAfter";
import { barsOf, secondsAt, type Grid } from "../grid/grid";
import { barRange } from "../ranges";
import type { Seconds } from "../units";
import { asHits, leastConfidence, type DrumEstimate, type DrumHit } from "./hits";
import { drumVoices, drumVoiceSchema, voiceIndex, type DrumVoice } from "./voices";

const { abs, max, min } = Math;

/** Far more than twenty minutes of the densest drums. */
const mostEdits = 20_000;

const time = z.number().min(-60).max(3600);
const velocity = z.number().min(0.01).max(1);

/** A pattern that was brought in: exact, in beats, laid over whole bars. */
export const importedPatternSchema = z.object({
  name: z.string().max(200),
  hits: z
    .array(z.object({ beat: z.number().min(0).max(20_000), voice: drumVoiceSchema, velocity }))
    .max(mostEdits),
  lengthBeats: z.number().min(0.5).max(20_000),
  /** Bar of the track's own grid with which it begins. */
  firstBar: barRange,
  /** Whether it is repeated to the end of the track. */
  repeats: z.boolean(),
});
export type ImportedPattern = z.infer<typeof importedPatternSchema>;

/**
 * Edits of one track's hits. They name hits by voice and time, not by number, so that they hold for
 * another analysis too.
 */
export const drumCorrectionSchema = z.object({
  /** Stands in place of what was heard. */
  imported: importedPatternSchema.optional(),
  removed: z
    .array(z.object({ time, voice: drumVoiceSchema }))
    .max(mostEdits)
    .optional(),
  added: z
    .array(z.object({ time, voice: drumVoiceSchema, velocity }))
    .max(mostEdits)
    .optional(),
});
export type DrumCorrection = z.infer<typeof drumCorrectionSchema>;

/** A hit that counts, and where it is known from. */
export interface CountedHit extends DrumHit {
  origin: "heard" | "brought" | "by hand";
}

/** The drums of a track as they count. */
export interface CountedDrums {
  /** In order of time. */
  hits: CountedHit[];
  /** Heard, but too unsure to count. */
  subThreshold: DrumHit[];
  bassNotes: Seconds[];
}

/** Hits of one voice nearer than this are the same hit; a flam's two strokes are further apart. */
const sameHit: Seconds = 0.009;
/** How far another analysis may place a hit that was edited. */
const editReach: Seconds = 0.012;

function expanded({ hits, lengthBeats, firstBar, repeats }: ImportedPattern, grid: Grid): CountedHit[] {
  const start = (firstBar - 1) * grid.beatsPerBar;
  const end = barsOf(grid).last * grid.beatsPerBar;
  const wanted = repeats ? max(1, Math.ceil((end - start) / lengthBeats)) : 1;
  // A dense part that is repeated ends where it would have more hits than any track.
  const times = min(wanted, max(1, Math.floor(mostEdits / max(1, hits.length))));
  return Array.from({ length: times }, (_, turn) =>
    hits.flatMap(({ beat, voice, velocity: force }): CountedHit[] => {
      const at = start + turn * lengthBeats + beat;
      return repeats && at >= end
        ? []
        : [{ time: secondsAt(grid, at), voice, velocity: force, confidence: 1, origin: "brought" }];
    }),
  ).flat();
}

/** A hit that counts as it was heard. */
export const asHeard = ({ time, voice, velocity, confidence, kind }: DrumHit): CountedHit => ({
  time,
  voice,
  velocity,
  confidence,
  kind,
  origin: "heard",
});

/** Says of a hit whether one of a list has its voice and lies within some time of it. */
function isNearOneOf(
  list: readonly { time: Seconds; voice: DrumVoice }[],
  reach: Seconds,
): (hit: Pick<DrumHit, "time" | "voice">) => boolean {
  const times: Seconds[][] = drumVoices.map(() => []);
  for (const { time, voice } of list) times[voiceIndex[voice]]!.push(time);
  for (const own of times) own.sort((a, b) => a - b);
  return ({ time, voice }) => {
    const next = firstAfter(times[voiceIndex[voice]]!, time - reach);
    return next !== null && next <= time + reach;
  };
}

/** Lays edits over what was heard or brought in. A pattern that was brought in needs a grid. */
export function countedDrums(
  estimate: DrumEstimate,
  { imported, removed = [], added = [] }: DrumCorrection,
  grid: Grid | null,
): CountedDrums {
  const heard = asHits(estimate);
  const base: CountedHit[] =
    imported && grid
      ? expanded(imported, grid)
      : heard.filter(({ confidence }) => confidence >= leastConfidence).map(asHeard);
  const byHand = added.map((hit): CountedHit => ({ ...hit, confidence: 1, origin: "by hand" }));
  const isRemoved = isNearOneOf(removed, editReach);
  const isReplaced = isNearOneOf(added, sameHit);
  const taken = (hit: DrumHit) => isRemoved(hit) || isReplaced(hit);
  const edited = removed.length + added.length > 0;
  const kept = edited ? base.filter((hit) => !taken(hit)) : base;
  return {
    hits: edited || imported ? [...kept, ...byHand].sort((a, b) => a.time - b.time) : kept,
    subThreshold: imported
      ? []
      : heard.filter((hit) => hit.confidence < leastConfidence && !(edited && taken(hit))),
    bassNotes: estimate.bassNotes,
  };
}

type PlainHit = Pick<DrumHit, "time" | "voice" | "velocity">;

const without = <T extends { time: Seconds; voice: DrumVoice }>(
  list: readonly T[],
  { time: at, voice }: Pick<DrumHit, "time" | "voice">,
): T[] => list.filter((other) => other.voice !== voice || abs(other.time - at) > sameHit);

/** Adds a hit. */
export const withHit = (
  correction: DrumCorrection,
  { time: at, voice, velocity: force }: PlainHit,
): DrumCorrection => ({
  ...correction,
  removed: without(correction.removed ?? [], { time: at, voice }),
  added: [...without(correction.added ?? [], { time: at, voice }), { time: at, voice, velocity: force }],
});

/** Takes a hit out: one that was heard or brought in is named, one that was added is forgotten. */
export function withoutHit(
  correction: DrumCorrection,
  hit: Pick<CountedHit, "time" | "voice" | "origin">,
): DrumCorrection {
  const { time: at, voice, origin } = hit;
  const added = without(correction.added ?? [], hit);
  const removed = without(correction.removed ?? [], hit);
  return {
    ...correction,
    added,
    removed: origin === "by hand" ? (correction.removed ?? []) : [...removed, { time: at, voice }],
  };
}

/** Gives a hit another time, voice or velocity. */
export const withChangedHit = (
  correction: DrumCorrection,
  hit: CountedHit,
  change: Partial<PlainHit>,
): DrumCorrection => {
  const next = { ...hit, ...change };
  const gone = withoutHit(correction, hit);
  // A hit that only moved a little would else be taken out again as the old one.
  return next.voice === hit.voice && abs(next.time - hit.time) <= sameHit
    ? {
        ...gone,
        added: [...(gone.added ?? []), { time: next.time, voice: next.voice, velocity: next.velocity }],
      }
    : withHit(gone, next);
};

/** Hits that sound like one: of its voice and kind, itself among them. */
export const hitsOfKind = (hits: readonly CountedHit[], { voice, kind }: CountedHit): CountedHit[] =>
  kind === undefined ? [] : hits.filter((hit) => hit.voice === voice && hit.kind === kind);

/** Gives all of some hits another voice at once. */
export function withVoiceOf(
  correction: DrumCorrection,
  hits: readonly CountedHit[],
  voice: DrumVoice,
): DrumCorrection {
  const isOne = isNearOneOf(hits, sameHit);
  const isNew = isNearOneOf(
    hits.map((hit) => ({ ...hit, voice })),
    sameHit,
  );
  const rest = (list: DrumCorrection["added"] = []) => list.filter((hit) => !isOne(hit) && !isNew(hit));
  return {
    ...correction,
    removed: [
      ...(correction.removed ?? []).filter((hit) => !isNew(hit) && !isOne(hit)),
      ...hits
        .filter(({ origin }) => origin !== "by hand")
        .map(({ time: at, voice: old }) => ({ time: at, voice: old })),
    ],
    added: [
      ...rest(correction.added),
      ...hits.map(({ time: at, velocity: force }) => ({ time: at, voice, velocity: force })),
    ],
  };
}

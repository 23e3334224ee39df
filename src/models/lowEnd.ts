/** What the Low end view is sent, and how it is said in words. */
import { withoutExtension } from "@/core/formats/fileNames";
import { spanOfBars } from "@/core/grid/grid";
import type { PlacedChord } from "@/core/harmony/harmonyEstimate";
import { pitchName } from "@/core/harmony/notes";
import { packBass, type PackedBass } from "@/core/lowEnd/packedBass";
import { belowHearing, type BassNote, type LowEndMeasures } from "@/core/lowEnd";
import {
  drumStemsOf,
  heardBass,
  itemDrums,
  itemPlan,
  lesserFree,
  versionOf,
  type AlignedBars,
  type StudyResults,
  type TrackRecord,
} from "@/core/study";
import { isPresenceTold } from "@/core/lens/presence";
import { lostOnSmallSpeakers, smallSpeakersFrom } from "@/core/lowEnd/smallSpeakers";
import type { Decibels, Hertz, Seconds } from "@/core/units";
import { fixed } from "./format";

export interface LowEndTrack {
  itemId: string;
  hash: string;
  title: string;
  /** Times of the kicks that count, seconds in the file. */
  kicks: number[];
  /** As detected; the study holds what was corrected by hand. */
  bass: PackedBass;
  /** The stem that its notes are known by; null where they were heard in the mix. */
  bassSource: string | null;
  /** Length of a beat, seconds; null where there is no grid. */
  beat: number | null;
}

export interface LowEndModel {
  reference: LowEndTrack;
  version: LowEndTrack;
  /** Sections of the reference, in whole bars. */
  sections: { name: string; firstBar: number; lastBar: number }[];
  /** Of the reference, in its beats. */
  chords: PlacedChord[];
  /** By which the version is intended to sound higher, 0–11. */
  semitones: number;
  /** By how much softer the bass of either side is on small speakers; null where it was not lifted out of both. */
  lost: Record<"reference" | "version", Decibels> | null;
}

function lowEndTrack(
  { study, analyses, grids, ownGrids }: StudyResults,
  track: TrackRecord | null,
): LowEndTrack | null {
  const analysis = track && analyses.get(track.file.hash);
  if (!analysis) return null;
  const grid = grids.get(track.id) ?? null;
  const { counted } = itemDrums(
    analysis,
    drumStemsOf(track.stems, study.elements, analyses),
    track.corrections,
    ownGrids.get(track.id) ?? null,
  );
  const bass = heardBass(track, study.elements, analyses);
  return {
    itemId: track.id,
    hash: track.file.hash,
    title: withoutExtension(track.fileName),
    kicks: counted.hits.flatMap(({ voice, time }) => (voice === "kick" ? Math.round(1e4 * time) / 1e4 : [])),
    bass: packBass(bass.notes),
    bassSource: bass.source,
    beat: grid && 60 / grid.bpm,
  };
}

/** By how much softer the bass of both sides is on small speakers. */
function lostBass(
  { study, lenses, comparisons }: StudyResults,
  version: TrackRecord | null,
): LowEndModel["lost"] {
  const lens = version && lenses.get(version.id)?.value;
  const stored = version ? (comparisons.get(version.id)?.value.stems ?? {}) : {};
  const byStems = study.elements.flatMap((own) => (own.lens === "bass" ? (stored[own.id] ?? []) : [])).at(0);
  const isFree = lens && isPresenceTold(lesserFree(lens, "bass"));
  // Alone it is told exactly, without what others leave in it.
  const spectra = byStems
    ? ([byStems.reference, byStems.version] as const).map(({ mid, side, cross }) => ({
        mid: Float32Array.from(mid),
        side: Float32Array.from(side),
        cross: Float32Array.from(cross),
      }))
    : isFree
      ? [lens.reference.bass.spectrum, lens.version.bass.spectrum]
      : [];
  const [ours, theirs] = spectra.map(lostOnSmallSpeakers);
  return typeof ours === "number" && typeof theirs === "number" ? { reference: ours, version: theirs } : null;
}

/** So much softer on small speakers a bass is hardly heard there. By ear, no source. */
const hardlyHeard: Decibels = 12;
/** So much more lost than in the reference is worth a word. */
const lostMore: Decibels = 3;

/** Whether the harmonics of the bass carry it on small speakers, in words; null where that is not known. */
export function smallSpeakerWords({ lost }: Pick<LowEndModel, "lost">): string | null {
  if (!lost) return null;
  const figures = `From ${smallSpeakersFrom} Hz up your bass is ${fixed(lost.version)} dB softer than in all, the reference's ${fixed(lost.reference)} dB`;
  if (lost.version - lost.reference >= lostMore)
    return `${figures}: its harmonics carry it less. Saturation or a layer an octave up would.`;
  if (lost.version >= hardlyHeard)
    return `${figures}: small speakers hardly show either, for there is little above the fundamentals.`;
  return `${figures}: its harmonics carry it.`;
}

/** Null while one side has no result. */
export function lowEndModel(results: StudyResults, number: number | null): LowEndModel | null {
  const { study, plans } = results;
  const reference = lowEndTrack(results, study.reference);
  const version = lowEndTrack(results, versionOf(study, number));
  const plan = study.reference && plans.get(study.reference.id);
  const counted = study.reference && plan ? itemPlan(plan.value, study.reference) : null;
  return (
    reference &&
    version && {
      reference,
      version,
      sections: (counted?.sections ?? []).map(({ name, firstBar, lastBar }) => ({ name, firstBar, lastBar })),
      chords: counted?.chords ?? [],
      semitones: ((study.intended.semitones % 12) + 12) % 12,
      lost: lostBass(results, versionOf(study, number)),
    }
  );
}

/** The first bar of the section with most kicks and bass notes of the reference: there the picture begins. */
export function fullestBar(
  { sections, reference }: LowEndModel,
  notes: readonly Seconds[],
  aligned: AlignedBars,
): number {
  let best = { bar: 1, events: 0 };
  for (const { firstBar, lastBar } of sections) {
    const { from, to } = spanOfBars(aligned.reference, { first: firstBar, last: lastBar });
    const within = (times: readonly Seconds[]) => times.filter((time) => time >= from && time < to).length;
    const events = (within(reference.kicks) + within(notes)) / (lastBar - firstBar + 1);
    const isAnswered = aligned.spans.some(
      ({ referenceFirst, bars }) => firstBar >= referenceFirst && firstBar < referenceFirst + bars,
    );
    if (isAnswered && events > 1.1 * best.events) best = { bar: firstBar, events };
  }
  return best.bar;
}

/** Something to know or to do about the low end. */
export interface LowEndFinding {
  key: string;
  title: string;
  detail: string;
  isWarning: boolean;
}

/** Fundamental of a note, Hz. */
export const hertzOf = ({ midi, cents }: Pick<BassNote, "midi" | "cents">): number =>
  440 * 2 ** ((midi + cents / 100 - 69) / 12);

/** Notes that few loudspeakers play, with how often each comes. */
export function notesBelow(
  notes: readonly BassNote[],
  hertz: number,
): { name: string; hertz: number; count: number }[] {
  const found = new Map<number, { sum: number; count: number }>();
  for (const note of notes) {
    const own = hertzOf(note);
    if (own >= hertz) continue;
    const known = found.get(note.midi) ?? { sum: 0, count: 0 };
    found.set(note.midi, { sum: known.sum + own, count: known.count + 1 });
  }
  return [...found]
    .sort(([a], [b]) => a - b)
    .map(([midi, { sum, count }]) => ({ name: pitchName(midi), hertz: sum / count, count }));
}

/** Mean level of each pitch that comes at least three times, loudest first. */
function levelsByPitch(notes: readonly BassNote[]): { name: string; levelDb: number }[] {
  const byPitch = new Map<number, number[]>();
  for (const { midi, levelDb } of notes) byPitch.set(midi, [...(byPitch.get(midi) ?? []), levelDb]);
  return [...byPitch]
    .filter(([, levels]) => levels.length >= 3)
    .map(([midi, levels]) => ({
      name: pitchName(midi),
      levelDb: levels.reduce((sum, level) => sum + level, 0) / levels.length,
    }))
    .sort((a, b) => b.levelDb - a.levelDb);
}

/** Differences that are worth a word: length as a ratio, levels in dB, correlation. From memory of mixing, no source. */
const least = { length: 1.25, level: 1.5, evenness: 1.5, deep: 6, correlation: 0.1, dip: 1.5 } as const;
/** Working against each other by more than this is said, dB. */
const leastCancelled = 1;

export function lowEndFindings(
  reference: LowEndMeasures,
  version: LowEndMeasures,
  notes: Record<"reference" | "version", readonly BassNote[]>,
  deepest: Hertz = belowHearing,
): LowEndFinding[] {
  const found: LowEndFinding[] = [];
  const say = (key: string, title: string, detail: string, isWarning = false) =>
    found.push({ key, title, detail, isWarning });
  const [a, b] = [reference.kickLengthBeats, version.kickLengthBeats];
  if (a && b && Math.max(a / b, b / a) >= least.length)
    say(
      "kick length",
      b > a
        ? (version.roomBeats ?? 1) < 0.3
          ? "Your kick leaves no room for the bass"
          : "Your kick rings too long"
        : "Your kick is too short",
      `It rings for ${fixed(b, 2)} of a beat, the reference's for ${fixed(a, 2)}. ${b > a ? "Shorten its decay, or choose another." : "Lengthen its decay, or choose another."}`,
    );
  const level = (version.kickToBassDb ?? NaN) - (reference.kickToBassDb ?? NaN);
  if (Math.abs(level) >= least.level)
    say(
      "kick to bass",
      level > 0 ? "The kick is too loud against the bass" : "The bass is too loud against the kick",
      `The kick stands ${fixed(version.kickToBassDb)} dB over the bass, in the reference ${fixed(reference.kickToBassDb)}. Turn the ${level > 0 ? "kick" : "bass"} down by about ${fixed(Math.abs(level))} dB.`,
    );
  const uneven = (version.bassEvennessDb ?? NaN) - (reference.bassEvennessDb ?? NaN);
  if (Math.abs(uneven) >= least.evenness) {
    const levels = levelsByPitch(notes.version);
    const [loudest, softest] = [levels[0], levels.at(-1)];
    const named =
      uneven > 0 && loudest && softest && loudest.levelDb - softest.levelDb >= 2
        ? ` ${softest.name} is ${fixed(loudest.levelDb - softest.levelDb)} dB below ${loudest.name}.`
        : "";
    say(
      "evenness",
      uneven > 0 ? "Bass notes are uneven" : "Bass notes are more even than the reference's",
      `They differ by ${fixed(version.bassEvennessDb)} dB, the reference's by ${fixed(reference.bassEvennessDb)}.${named}`,
    );
  }
  const [dipA, dipB] = [reference.ducking?.depthDb ?? 0, version.ducking?.depthDb ?? 0];
  if (Math.abs(dipB - dipA) >= least.dip)
    say(
      "ducking",
      dipB > dipA ? "The bass ducks too deep" : dipB > 0 ? "The bass ducks too little" : "No ducking",
      reference.ducking
        ? `In the reference the bass dips ${fixed(dipA)} dB at each kick and is back after ${reference.ducking.recoveryMs} ms${version.ducking ? `; yours dips ${fixed(dipB)} dB` : ""}.`
        : `Yours dips ${fixed(dipB)} dB at each kick, back after ${version.ducking!.recoveryMs} ms; the reference's does not.`,
    );
  if (version.invertedGainDb !== null && version.invertedGainDb >= leastCancelled)
    say(
      "polarity",
      "Kick and bass work against each other",
      `Invert the polarity of one: together they would be ${fixed(version.invertedGainDb)} dB louder while the kick sounds.`,
      true,
    );
  const { moved } = version;
  if (moved && moved.gainDb > Math.max(leastCancelled, (version.invertedGainDb ?? 0) + leastCancelled))
    say(
      "moved",
      "Kick and bass could add up better",
      `With the bass ${fixed(Math.abs(moved.ms))} ms ${moved.ms > 0 ? "later" : "earlier"}${moved.inverted ? " and inverted" : ""} they would be ${fixed(moved.gainDb)} dB louder while the kick sounds${reference.moved ? `, in the reference ${fixed(reference.moved.gainDb)} dB` : ""}.`,
    );
  const deep = notesBelow(notes.version, deepest);
  const deepIn = notesBelow(notes.reference, deepest);
  if (deep.length > 0 && deepIn.length < deep.length)
    say(
      "deep notes",
      `${deep.map(({ name }) => name).join(", ")} ${deep.length === 1 ? "lies" : "lie"} below ${deepest} Hz`,
      `${deep.reduce((sum, { count }) => sum + count, 0)} notes. Few speakers play them, and they eat headroom.`,
      true,
    );
  else if (
    (version.below30Db ?? -80) - (reference.below30Db ?? -80) >= least.deep &&
    (version.below30Db ?? -80) > -30
  )
    say(
      "deep",
      `Too much below ${deepest} Hz`,
      `${fixed(version.below30Db)} dB of the low end, in the reference ${fixed(reference.below30Db)}. A low cut gives headroom back.`,
      true,
    );
  if (
    version.monoCorrelation !== null &&
    version.monoCorrelation < (reference.monoCorrelation ?? 1) - least.correlation
  )
    say(
      "mono",
      "The low end is not mono",
      `Left and right correlate by ${fixed(version.monoCorrelation, 2)}, in the reference by ${fixed(reference.monoCorrelation, 2)}; mono takes ${fixed(-(version.monoLossDb ?? 0))} dB away.`,
      true,
    );
  return found;
}

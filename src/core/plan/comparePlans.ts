/** Chords and sections of a version held against the reference's, over the bars that answer each other. */
import { beatAt, secondsAt, type Grid } from "../grid/grid";
import { majorOrMinor, sameChord, transposed, type Chord } from "../harmony/chords";
import { chordAt } from "../harmony/harmonyEstimate";
import type { CoverageSpan } from "../align/coverage";
import type { Fraction } from "../units";
import type { CountedPlan, CountedSection } from "./trackPlan";

/** One side: its plan, the grid that the plan is counted on, and the grid that coverage is counted on. */
export interface PlanSide {
  plan: Pick<CountedPlan, "chords" | "sections">;
  planGrid: Grid;
  grid: Grid;
}

/** One beat of the reference and what sounds on either side. */
export interface ComparedBeat {
  /** From bar 1 beat 1 of the reference, on the grid of coverage. */
  beat: number;
  reference: Chord | null;
  version: Chord | null;
  agrees: boolean;
}

/** Shares that chords and bars have in common, for every transposition that could be intended. */
export interface PlanSummary {
  /** By semitones 0–11 by which the version is intended to sound higher; null where one side has no chords. */
  chordOverlaps: (Fraction | null)[];
  formOverlap: Fraction | null;
}

/** What is in common where the version is intended to sound some semitones higher. */
export const planOverlap = ({ chordOverlaps, formOverlap }: PlanSummary, semitones: number) => ({
  chordOverlap: chordOverlaps[((semitones % 12) + 12) % 12] ?? null,
  formOverlap,
});

/** `comparePlans` for every transposition, without the beats. */
export function summarisePlans(
  reference: PlanSide,
  version: PlanSide,
  spans: readonly CoverageSpan[],
): PlanSummary {
  const { beats, formOverlap } = comparePlans(reference, version, spans, 0);
  return {
    chordOverlaps: Array.from({ length: 12 }, (_, semitones) =>
      overlapOf(
        beats.map((own) => ({
          ...own,
          agrees: agree(own.reference, transposed(own.version, -semitones)),
        })),
      ),
    ),
    formOverlap,
  };
}

/** Share of the beats that sound on either side on which both have the same; null where one side has no chords. */
function overlapOf(beats: readonly ComparedBeat[]): Fraction | null {
  const has = (side: "reference" | "version") => beats.some((own) => own[side] !== null);
  // Drums alone have no wrong chords; they have none yet.
  if (!has("reference") || !has("version")) return null;
  const sounding = beats.filter((own) => own.reference !== null || own.version !== null);
  return sounding.filter(({ agrees }) => agrees).length / sounding.length;
}

export interface ComparedPlans {
  /** Share of the beats with a chord on either side on which both have the same; null where one side has none. */
  chordOverlap: Fraction | null;
  /** Share of the bars, from the first in common to the last, that both sides have; null without coverage. */
  formOverlap: Fraction | null;
  beats: ComparedBeat[];
}

/** Whether two chords count as the same: as major or minor where they are that, else by their kind. */
function agree(a: Chord | null, b: Chord | null): boolean {
  if (!a || !b) return a === b;
  // A power chord has no third that could be wrong.
  if (a.quality === "5" || b.quality === "5") return a.root === b.root;
  const [kindA, kindB] = [majorOrMinor(a), majorOrMinor(b)];
  return kindA && kindB ? kindA.root === kindB.root && kindA.minor === kindB.minor : sameChord(a, b);
}

/**
 * @param semitones by which the version is intended to sound higher; its chords are brought back by them.
 */
export function comparePlans(
  reference: PlanSide,
  version: PlanSide,
  spans: readonly CoverageSpan[],
  semitones: number,
): ComparedPlans {
  const { beatsPerBar } = reference.grid;
  const beats: ComparedBeat[] = [];
  for (const { referenceFirst, versionFirst, bars } of spans) {
    for (let i = 0; i < bars * beatsPerBar; i++) {
      const beat = (referenceFirst - 1) * beatsPerBar + i;
      const side = ({ plan, planGrid, grid }: PlanSide, own: number) =>
        chordAt(plan.chords, beatAt(planGrid, secondsAt(grid, own + 0.5)));
      const ours = side(reference, beat);
      const theirs = side(version, (versionFirst - 1) * beatsPerBar + i);
      const back = transposed(theirs, -semitones);
      beats.push({ beat, reference: ours, version: theirs, agrees: agree(ours, back) });
    }
  }
  const answered = (side: "referenceFirst" | "versionFirst") =>
    spans.flatMap((span) => Array.from({ length: span.bars }, (_, i) => span[side] + i));
  // The longer way from the first bar in common to the last: what one side leaves out the other has too much.
  const reach = (bars: readonly number[]) => Math.max(...bars) - Math.min(...bars) + 1;
  const inReference = answered("referenceFirst");
  const longest = inReference.length > 0 ? Math.max(reach(inReference), reach(answered("versionFirst"))) : 0;
  return {
    chordOverlap: overlapOf(beats),
    formOverlap: longest > 0 ? Math.min(1, new Set(inReference).size / longest) : null,
    beats,
  };
}

/** First bar of a section and the bar after its last, counted on the grid of coverage. */
function onCoverage(
  { planGrid, grid }: PlanSide,
  { firstBar, lastBar }: CountedSection,
): [first: number, after: number] {
  const bar = (own: number) => {
    const beat = (own - 1) * planGrid.beatsPerBar;
    return Math.round(beatAt(grid, secondsAt(planGrid, beat)) / grid.beatsPerBar) + 1;
  };
  return [bar(firstBar), bar(lastBar + 1)];
}

/** What became of a section of the reference in a version. */
export interface AnsweredSection {
  section: CountedSection;
  /** Bars of it that are recreated. */
  answered: number;
  bars: number;
  /** The version's own section that answers most of it, with its length; null where there is none. */
  own: { section: CountedSection; bars: number } | null;
}

/** Each section of the reference with how much of it a version has, and in which section of its own. */
export function answeredSections(
  reference: PlanSide,
  version: PlanSide | null,
  spans: readonly CoverageSpan[],
): AnsweredSection[] {
  const ownSections = version
    ? version.plan.sections.map((section) => ({ section, range: onCoverage(version, section) }))
    : [];
  return reference.plan.sections.map((section) => {
    const [from, to] = onCoverage(reference, section);
    let answered = 0;
    const shares = new Map<CountedSection, number>();
    for (const { referenceFirst, versionFirst, bars } of spans) {
      for (let bar = Math.max(from, referenceFirst); bar < Math.min(to, referenceFirst + bars); bar++) {
        answered++;
        const own = bar - referenceFirst + versionFirst;
        const found = ownSections.find(({ range }) => own >= range[0] && own < range[1])?.section;
        if (found) shares.set(found, (shares.get(found) ?? 0) + 1);
      }
    }
    const [most] = [...shares].sort((a, b) => b[1] - a[1]);
    return {
      section,
      answered,
      bars: to - from,
      own: most ? { section: most[0], bars: most[0].lastBar - most[0].firstBar + 1 } : null,
    };
  });
}

/** A section takes the name of the one it recreates where at least this share of its bars answers it. */
const sameSection: Fraction = 0.5;

/**
 * Sections of a version, called as those of the reference that they recreate: where the same bars
 * answer, the same part has the same name on both sides.
 */
export function namedAsReference(
  reference: PlanSide,
  version: PlanSide,
  spans: readonly CoverageSpan[],
): CountedSection[] {
  const ours = reference.plan.sections.map((section) => ({ section, range: onCoverage(reference, section) }));
  return version.plan.sections.map((section) => {
    const [from, to] = onCoverage(version, section);
    const shares = new Map<CountedSection, number>();
    for (const { referenceFirst, versionFirst, bars } of spans) {
      for (let bar = Math.max(from, versionFirst); bar < Math.min(to, versionFirst + bars); bar++) {
        const theirs = bar - versionFirst + referenceFirst;
        const found = ours.find(({ range }) => theirs >= range[0] && theirs < range[1])?.section;
        if (found) shares.set(found, (shares.get(found) ?? 0) + 1);
      }
    }
    const [most] = [...shares].sort((a, b) => b[1] - a[1]);
    return most && most[1] >= sameSection * (to - from)
      ? { ...section, name: most[0].name, letter: most[0].letter }
      : section;
  });
}

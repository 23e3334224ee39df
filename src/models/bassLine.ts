/** Bass lines as they are shown beside each other: pairs, what each note is to its chord and to the kick. */
import type { Grid } from "@/core/grid/grid";
import { chordNotes, type Chord } from "@/core/harmony/chords";
import { chordAt, type PlacedChord } from "@/core/harmony/harmonyEstimate";
import { noteOverlap, pairBass, type PairedNote, type PlacedNote } from "@/core/lowEnd/compareBass";
import type { CountedNote } from "@/core/lowEnd/correction";
import { duckedBy } from "@/core/lowEnd/duckedNotes";
import { pitchName } from "@/core/harmony/notes";
import type { AlignedBars } from "@/core/study";
import type { Fraction } from "@/core/units";
import { fixed } from "./format";

export type BassPair = PairedNote<CountedNote>;
export type ShownNote = PlacedNote<CountedNote>;
export type Side = "reference" | "version";

/** A note this near to a kick is on it, seconds. */
const besideKick = 0.05;

/** Notes less sure than this are as likely another pitch. */
const unclear = 0.15;

/** What a note is to the chord that sounds, by its interval above the root. */
const degrees = [
  "the root",
  "a minor second",
  "a major second",
  "the minor third",
  "the major third",
  "a fourth",
  "a tritone",
  "the fifth",
  "a minor sixth",
  "a major sixth",
  "the minor seventh",
  "the major seventh",
] as const;

export function degreeOf(midi: number, chord: Chord | null): { name: string; isOfChord: boolean } | null {
  if (!chord) return null;
  const pitchClass = ((midi % 12) + 12) % 12;
  const interval = (pitchClass - chord.root + 12) % 12;
  return { name: degrees[interval]!, isOfChord: chordNotes(chord).includes(pitchClass) };
}

/** A note a little ahead of a chord belongs to it, beats. */
const aheadOfChord = 0.1;

const isOnKick = (note: CountedNote, kicks: readonly number[]): boolean =>
  kicks.some((time) => Math.abs(time - note.start) <= besideKick);

/** What a line of bass notes does, in shares of its notes. */
export interface LineShares {
  /** Notes that slide. */
  slides: number;
  onKick: Fraction;
  /** On the root of the chord; null where there are no chords. */
  onRoot: Fraction | null;
}

function sharesOf(
  notes: readonly ShownNote[],
  kicks: readonly number[],
  chords: readonly PlacedChord[],
): LineShares | null {
  if (notes.length === 0) return null;
  const withChord = notes.flatMap(({ beat, note }) => {
    const degree = degreeOf(note.midi, chordAt(chords, beat + aheadOfChord));
    return degree ? [degree] : [];
  });
  return {
    slides: notes.filter(({ note }) => note.slide).length,
    onKick: notes.filter(({ note }) => isOnKick(note, kicks)).length / notes.length,
    onRoot:
      withChord.length > 0
        ? withChord.filter(({ name }) => name === degrees[0]).length / withChord.length
        : null,
  };
}

export interface BassLines {
  pairs: BassPair[];
  /** Notes in common, 0–1; null where one side has too few. */
  overlap: Fraction | null;
  shares: Record<Side, LineShares | null>;
  /** Bars of the reference in which notes differ, with how many, in runs. */
  differing: { first: number; last: number; notes: number }[];
}

/** Bars with differences this near to each other are told as one run. */
const oneRun = 2;

export function bassLines(
  notes: Record<Side, readonly CountedNote[]>,
  kicks: Record<Side, readonly number[]>,
  chords: readonly PlacedChord[],
  aligned: AlignedBars,
  semitones: number,
): BassLines {
  const pairs = pairBass(
    { notes: notes.reference, grid: aligned.reference },
    { notes: notes.version, grid: aligned.version },
    aligned.spans,
    semitones,
  );
  const { beatsPerBar } = aligned.reference;
  const differing: BassLines["differing"] = [];
  for (const { reference, version, answer } of pairs) {
    if (answer === "same") continue;
    const bar = Math.floor((reference ?? version)!.beat / beatsPerBar + 0.05) + 1;
    const last = differing.at(-1);
    if (last && bar - last.last < oneRun) {
      last.last = Math.max(last.last, bar);
      last.notes++;
    } else differing.push({ first: bar, last: bar, notes: 1 });
  }
  const of = (side: Side) => pairs.flatMap((pair) => (pair[side] ? [pair[side]] : []));
  return {
    pairs,
    overlap: noteOverlap(pairs),
    shares: {
      reference: sharesOf(of("reference"), kicks.reference, chords),
      version: sharesOf(of("version"), kicks.version, chords),
    },
    differing,
  };
}

/** Shares this far apart are worth a sentence. */
const leastShare = 0.15;

/** So many more notes that slide on one side are worth one, and this share of them. */
const leastSlides = { count: 3, share: 0.3 } as const;

const percent = (share: Fraction): string => `${fixed(100 * share, 0)} %`;

/** How the two lines differ as a whole, in sentences. */
export function bassSentences({ shares: { reference, version } }: Pick<BassLines, "shares">): string[] {
  if (!reference || !version) return [];
  const sentences: string[] = [];
  if (Math.abs(version.onKick - reference.onKick) >= leastShare)
    sentences.push(
      `${percent(version.onKick)} of your notes begin on a kick, in the reference ${percent(reference.onKick)}.`,
    );
  const [a, b] = [reference.onRoot, version.onRoot];
  if (a !== null && b !== null && Math.abs(a - b) >= leastShare)
    sentences.push(
      `${percent(b)} of your notes are the root of their chord, in the reference ${percent(a)}.`,
    );
  const [ours, theirs] = [reference.slides, version.slides];
  if (
    Math.abs(ours - theirs) >= leastSlides.count &&
    Math.abs(ours - theirs) >= leastSlides.share * Math.max(ours, theirs)
  )
    sentences.push(
      `${theirs === 0 ? "None" : theirs} of your notes ${theirs === 1 ? "slides" : "slide"}, in the reference ${ours === 0 ? "none" : ours}.`,
    );
  return sentences;
}

/** Where a note slides to, or from where. */
export function slideWords({ midi, slide }: Pick<CountedNote, "midi" | "slide">): string | null {
  if (!slide) return null;
  const { before, after } = slide;
  const way = after > before ? "up" : "down";
  const [near, far] = Math.abs(after) >= Math.abs(before) ? ["to", after] : ["from", before];
  return `slides ${way} ${near} ${pitchName(midi + Math.round(far as number))}`;
}

/** All that is known of a note, in words. */
export function noteWords(
  { beat, length, note }: ShownNote,
  {
    grid,
    kicks,
    chords,
    restPower = null,
  }: {
    grid: Grid;
    kicks: readonly number[];
    chords: readonly PlacedChord[];
    /** Of all but the kicks in the low end; null while it is not there. */
    restPower?: Float32Array | null;
  },
): string {
  const dip = restPower && duckedBy(note, kicks, restPower);
  const { beatsPerBar } = grid;
  const degree = degreeOf(note.midi, chordAt(chords, beat + aheadOfChord));
  const inBar = ((beat % beatsPerBar) + beatsPerBar) % beatsPerBar;
  const parts = [
    pitchName(note.midi),
    `bar ${Math.floor(beat / beatsPerBar + 1e-6) + 1}, beat ${fixed(inBar + 1, 2)}`,
    `${fixed(length, 2)} beats long`,
    `${fixed(note.levelDb)} dB`,
    ...(note.slide ? [slideWords(note)!] : []),
    ...(degree ? [`${degree.name}${degree.isOfChord ? "" : ", not of the chord"}`] : []),
    isOnKick(note, kicks) ? "on the kick" : "off the kick",
    ...(dip ? [`ducked by it, ${fixed(dip)} dB`] : []),
    ...(note.byHand ? ["set by hand"] : note.sure < unclear ? ["its pitch not heard clearly"] : []),
  ];
  return parts.join(", ");
}

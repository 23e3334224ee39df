/** What the Tone view shows: both spectra, resonances, and where no filter helps. */
import { filterMovements, type BrightBar, type FilterMovement, type WrongCure } from "@/core/equaliser";
import type { BarRange } from "@/core/grid/grid";
import type { MixAspect, TrackMeasures } from "@/core/match";
import { coverageOf, itemPlan, type StudyResults } from "@/core/study";
import { resonanceGaps, spectralSlope, wholeOf, type Resonance } from "@/core/tone";
import { fixed, frequency, nominalFrequency, signed } from "./format";
import { comparedSpectra, partsOf, type ComparedSpectra } from "./spectra";

/** A stem of one element on both sides. */
export interface StemPair {
  elementId: string;
  name: string;
  spectra: ComparedSpectra;
}

/** Something an equaliser cannot mend, in words. */
export interface WrongCureWords {
  key: string;
  title: string;
  detail: string;
  fromHz: number;
  toHz: number;
}

/** A passage of the reference's bars that opens or closes on one side only. */
export interface MovementWords {
  bars: BarRange;
  title: string;
  detail: string;
}

/** A narrow peak and whose it is. */
export interface ResonanceWords {
  hz: number;
  side: "reference" | "version" | "both";
  title: string;
  detail: string;
  heightDb: number;
}

/** Of the mix, what the view tells. */
export const toneAspects: readonly MixAspect[] = ["tone"];

export interface ToneModel {
  nothingRecreated: boolean;
  outdated: boolean;
  /** Of the tone, 0–100; null where it cannot be said. */
  score: number | null;
  gain: number;
  spectra: ComparedSpectra;
  slopes: Record<"reference" | "version", number | null>;
  stems: StemPair[];
  /** Of the version's file: what its filters are worked out for. */
  sampleRate: number;
  wrongCures: WrongCureWords[];
  /** Where one side opens or closes over bars and the other does not. */
  movements: MovementWords[];
  resonances: ResonanceWords[];
}

const noteNames = ["C", "C♯", "D", "D♯", "E", "F", "F♯", "G", "G♯", "A", "A♯", "B"];

/** The note nearest to a frequency, with its octave: `A4` for 440 Hz. */
export function noteOf(hertz: number): string {
  const midi = Math.round(69 + 12 * Math.log2(hertz / 440));
  return `${noteNames[((midi % 12) + 12) % 12]}${Math.floor(midi / 12) - 1}`;
}

const capital = (words: string) => words.charAt(0).toUpperCase() + words.slice(1);

/** Differences smaller than this are not worth a line. */
const leastSpread = 1.5;

/** How far from what a filter can do, dB; strokes that differ come first. */
const sizeOf = ({ kind, spreadDb, most, least }: WrongCure): number =>
  kind === "strokes" ? 100 : most && least ? most.gapDb - least.gapDb : spreadDb;

function wrongCureWords(
  { fromHz, toHz, kind, spreadDb, most, least, likeness }: WrongCure,
  sectionName: (section: number) => string,
): WrongCureWords | null {
  const range = `${nominalFrequency(fromHz)} to ${nominalFrequency(toHz)}`;
  const key = `${kind} ${Math.round(fromHz)}`;
  if (kind === "sections" && most && least) {
    if (most.gapDb - least.gapDb < leastSpread) return null;
    return {
      key,
      title: `${range} changes with the section`,
      detail: `${capital(sectionName(most.section))} ${signed(most.gapDb)} dB, ${sectionName(least.section)} ${signed(least.gapDb)} dB against the average gap. Change a level or the arrangement there.`,
      fromHz,
      toHz,
    };
  }
  if (kind === "bars") {
    if (spreadDb < leastSpread) return null;
    return {
      key,
      title: `${range} changes from bar to bar`,
      detail: `By ${fixed(spreadDb)} dB on average. A part plays at another level, or another part plays: look there first.`,
      fromHz,
      toHz,
    };
  }
  return {
    key,
    title: `${range}: different onsets`,
    detail: `Onsets here agree by ${Math.round(100 * (likeness ?? 0))} %. An element is missing or plays something else.`,
    fromHz,
    toHz,
  };
}

/** Peaks of both sides as near as this are the same. */
const samePeak = 1 / 12;

/** Resonances of the version, then those that only the reference has. */
function resonanceWords(
  reference: { excess: readonly number[]; resonances: readonly Resonance[] },
  version: { excess: readonly number[]; resonances: readonly Resonance[] },
): ResonanceWords[] {
  const gaps = resonanceGaps(reference.excess, version.excess);
  const near = (hz: number) => (own: { hz: number }) => Math.abs(Math.log2(own.hz / hz)) <= samePeak;
  const constancy = (list: readonly Resonance[], hz: number) => list.find(near(hz))?.constancy ?? null;
  const only = gaps.map(({ hz, gapDb }): ResonanceWords => {
    const side = gapDb > 0 ? "version" : "reference";
    const share = constancy((side === "version" ? version : reference).resonances, hz);
    return {
      hz,
      side,
      heightDb: Math.abs(gapDb),
      title: `${frequency(hz)} (${noteOf(hz)}) rings, ${side === "version" ? "yours only" : "the reference only"}`,
      detail: `${fixed(Math.abs(gapDb))} dB more than on the other side${share === null ? "" : `, ${Math.round(100 * share)} % of the time`}.`,
    };
  });
  const both = version.resonances
    .filter(({ hz }) => !gaps.some(near(hz)) && reference.resonances.some(near(hz)))
    .map(({ hz, heightDb, constancy: share }): ResonanceWords => ({
      hz,
      side: "both",
      heightDb,
      title: `${frequency(hz)} (${noteOf(hz)}) stands out on both sides`,
      detail: `${fixed(heightDb)} dB, ${Math.round(100 * share)} % of the time: a note that is held, or a resonance that belongs to the sound.`,
    }));
  return [...only, ...both];
}

/** Bars that answer each other with the brightness of both sides; none where one side has no bars. */
function brightBars(results: StudyResults, versionId: string): BrightBar[] {
  const { study, plans, alignments } = results;
  const version = study.versions.find(({ id }) => id === versionId);
  const formOf = (id: string | undefined) => (id === undefined ? null : plans.get(id)?.value.form);
  const [ours, theirs] = [formOf(study.reference?.id), formOf(versionId)];
  if (!version || !ours || !theirs) return [];
  const at = ({ bars }: typeof ours, bar: number) => bars.brightness[bar - bars.firstBar];
  return coverageOf(version, alignments.get(versionId)?.value.alignment)
    .flatMap(({ referenceFirst, versionFirst, bars }) =>
      Array.from({ length: bars }, (_, i) => {
        const reference = at(ours, referenceFirst + i);
        const own = at(theirs, versionFirst + i);
        return reference && own ? [{ bar: referenceFirst + i, reference, version: own }] : [];
      }).flat(),
    )
    .sort((a, b) => a.bar - b.bar);
}

function movementWords({ firstBar, lastBar, side, octaves, otherOctaves }: FilterMovement): MovementWords {
  const who = side === "version" ? "yours" : "the reference";
  const opens = octaves > 0 ? "opens" : "closes";
  const still = Math.abs(otherOctaves) < 0.25;
  return {
    bars: { first: firstBar, last: lastBar },
    title: `Bars ${firstBar}–${lastBar}: only ${who} ${opens}`,
    detail: `Its brightness ${octaves > 0 ? "rises" : "falls"} by ${fixed(Math.abs(octaves))} octaves, ${still ? "the other side's stays" : `the other side's changes by ${signed(otherOctaves)}`}. A filter that moves, or a part that fades.`,
  };
}

export function toneModel(
  results: StudyResults,
  compared: {
    version: { id: string; file: { hash: string; sampleRate: number } };
    reference: TrackMeasures;
    measured: TrackMeasures;
    nothingRecreated: boolean;
    outdated: boolean;
    compared: {
      mix: { gainToReference: number; aspects: readonly { name: string; score: number | null }[] };
    };
  },
): ToneModel {
  const { study, analyses, plans, comparisons } = results;
  const shift = compared.compared.mix.gainToReference;
  const reference = study.reference!;
  const plan = plans.get(reference.id);
  const sections = plan ? itemPlan(plan.value, reference).sections : [];
  const sectionName = (section: number) => sections[section]?.name ?? "elsewhere";
  const version = study.versions.find(({ id }) => id === compared.version.id)!;
  const stems = reference.stems.flatMap(({ elementId, file }): StemPair[] => {
    const other = elementId === null ? undefined : version.stems.find((own) => own.elementId === elementId);
    const [ours, theirs] = [analyses.get(file.hash), other && analyses.get(other.file.hash)];
    const element = study.elements.find(({ id }) => id === elementId);
    if (!ours || !theirs || !element) return [];
    const lufs = [ours.loudness.integratedLufs, theirs.loudness.integratedLufs] as const;
    return [
      {
        elementId: element.id,
        name: element.name,
        spectra: {
          reference: partsOf(ours.spectrum),
          version: partsOf(theirs.spectrum),
          shift: lufs[0] !== null && lufs[1] !== null ? lufs[0] - lufs[1] : 0,
        },
      },
    ];
  });
  const analysisOf = ({ file }: { file: { hash: string } }) => analyses.get(file.hash)!;
  return {
    nothingRecreated: compared.nothingRecreated,
    outdated: compared.outdated,
    score: compared.compared.mix.aspects.find(({ name }) => name === "tone")?.score ?? null,
    gain: shift,
    spectra: comparedSpectra(compared.reference, compared.measured, shift),
    slopes: {
      reference: spectralSlope(wholeOf(compared.reference.spectrum)),
      version: spectralSlope(wholeOf(compared.measured.spectrum)),
    },
    stems,
    sampleRate: compared.version.file.sampleRate,
    wrongCures: [...(comparisons.get(version.id)?.value.wrongCures ?? [])]
      .sort((a, b) => sizeOf(b) - sizeOf(a))
      .map((own) => wrongCureWords(own, sectionName))
      .filter((own) => own !== null)
      .slice(0, 3),
    movements: filterMovements(brightBars(results, version.id)).map(movementWords),
    resonances: resonanceWords(analysisOf(reference).narrowPeaks, analysisOf(version).narrowPeaks),
  };
}

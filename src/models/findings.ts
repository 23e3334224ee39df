/** What is different, how much, where, and what to do: sentences from a comparison. */
import { elementFindings } from "./elementFindings";
import { fixed, nominalFrequency, signed } from "./format";
import { typicalRangeWords } from "./measureWords";
import {
  bandTolerance,
  measureRules,
  pointsWorth,
  scoreOf,
  truePeakCeiling,
  type ComparedMeasure,
  type MeasureName,
  type MixAspect,
  type TrackMeasures,
} from "@/core/match";
import type { FullComparison, Mark } from "@/core/study";
import { rootMeanSquareGap, type BandGap } from "@/core/tone";
import type { Decibels, Hertz } from "@/core/units";

export interface Finding {
  key: string;
  title: string;
  detail: string;
  /** Points of the match that a perfect score here would add; null for warnings. */
  points: number | null;
  /** Bars of the reference that it is about, in order; none where it is about all, or that is not known. */
  bars?: number[];
  /** Where to look: an aspect of the table, a range of the spectrum, or an element. */
  place: Mark["place"];
}

/** Findings worth less than this are not worth a line. */
const leastPoints = 0.1;

/** A stretch of neighbouring bands on the same side of the tolerance. */
export interface ToneRegion {
  fromHz: number;
  toHz: number;
  /** Weighted mean gap, dB. */
  gap: number;
  /** Band with the largest gap. */
  centre: number;
  /** Places of the bands in the curve. */
  first: number;
  last: number;
}

/** Finds where the version is too strong or too weak for longer than one narrow band. */
export function toneRegions(curve: readonly BandGap[], tolerance: number): ToneRegion[] {
  const regions: ToneRegion[] = [];
  let first = 0;
  while (first < curve.length) {
    const sign = Math.sign(curve[first]!.gap);
    const counts = (band: BandGap | undefined) =>
      band !== undefined && band.weight > 0 && Math.abs(band.gap) > tolerance && Math.sign(band.gap) === sign;
    if (!counts(curve[first])) {
      first++;
      continue;
    }
    let last = first;
    while (counts(curve[last + 1])) last++;
    const bands = curve.slice(first, last + 1);
    const weight = bands.reduce((sum, band) => sum + band.weight, 0);
    const largest = bands.reduce((a, b) => (Math.abs(b.gap) > Math.abs(a.gap) ? b : a));
    regions.push({
      fromHz: bands[0]!.low,
      toHz: bands.at(-1)!.high,
      gap: bands.reduce((sum, band) => sum + band.weight * band.gap, 0) / weight,
      centre: largest.centre,
      first,
      last,
    });
    first = last + 1;
  }
  return regions;
}

/** Where a range of frequencies lies, in words. */
export function rangeInWords(region: Pick<ToneRegion, "fromHz" | "toHz" | "centre">): string {
  if (region.toHz / region.fromHz < 1.9) return `around ${nominalFrequency(region.centre)}`;
  if (region.toHz > 15000) return `above ${nominalFrequency(region.fromHz)}`;
  if (region.fromHz < 32) return `below ${nominalFrequency(region.toHz)}`;
  return `from ${nominalFrequency(region.fromHz)} to ${nominalFrequency(region.toHz)}`;
}

/** At the top of the spectrum so much is no balance but a side that carries nothing there. */
const cutOff: Decibels = 12;
const top: Hertz = 15000;

/** What a region lacks or has too much of, and what to do about it. */
function regionInWords(region: ToneRegion, typical: boolean): Pick<Finding, "title" | "detail"> {
  if (!typical && region.toHz > top && Math.abs(region.gap) > cutOff) {
    const from = nominalFrequency(region.fromHz);
    return region.gap < 0
      ? {
          title: `Cut off above ${from}`,
          detail:
            "Low-passed, or a coded file: no boost brings back what is not there. Render it to WAV or FLAC.",
        }
      : {
          title: `The reference ends at ${from}`,
          detail:
            "It is low-passed, or a coded file; yours goes on above that. Cut there only if you hear it.",
        };
  }
  return {
    title: `${signed(region.gap)} dB ${rangeInWords(region)}`,
    detail: `${typical ? "Outside of what is typical of the style." : "Measured at equal loudness."} ${region.gap > 0 ? "Cut" : "Boost"} by about ${fixed(Math.abs(region.gap))} dB.`,
  };
}

const inDrums = "See where in the Drums view.";
const inStereo = "See where in the Stereo view.";

/** What is said of measures whose gap tells all that there is to say. */
const plainWords: readonly {
  aspect: MixAspect;
  measure: MeasureName;
  title(gap: number): string;
  detail(measure: ComparedMeasure): string;
}[] = [
  {
    aspect: "pattern",
    measure: "drumHits",
    title: (gap) => `${Math.max(1, Math.round(-gap))} % of the drum hits differ`,
    detail: () => "See which are missing or extra in the Drums view.",
  },
  {
    aspect: "timing",
    measure: "hitTiming",
    title: (gap) => `Drums ${fixed(gap, 0)} ms off, step by step`,
    detail: () => inDrums,
  },
  {
    aspect: "swing",
    measure: "swing",
    title: (gap) => (gap < 0 ? "Less swing than the reference" : "More swing than the reference"),
    detail: ({ reference, version }) => `${fixed(version)} %, the reference ${fixed(reference)} %.`,
  },
  {
    aspect: "accents",
    measure: "accents",
    title: (gap) => `Accents ${fixed(gap)} dB off`,
    detail: () => inDrums,
  },
  {
    aspect: "bass",
    measure: "bassNotes",
    title: (gap) => `${fixed(Math.abs(gap), 0)} % of the bass line differs`,
    detail: () => "See which notes in the Low end view.",
  },
  {
    aspect: "bass",
    measure: "bassLength",
    title: (gap) => `Bass notes last ${fixed(2 ** gap, 1)} times as long`,
    detail: ({ gap }) => (gap! > 0 ? "Shorten them, or their release." : "Lengthen them, or their release."),
  },
  {
    aspect: "bass",
    measure: "bassEvenness",
    title: (gap) => `Bass notes ${gap > 0 ? "less" : "more"} even`,
    detail: ({ reference, version }) =>
      `Their levels differ by ${fixed(version)} dB, the reference's by ${fixed(reference)}.`,
  },
  {
    aspect: "lowEnd",
    measure: "kickLength",
    title: (gap) => `The kick is ${fixed(2 ** gap, 1)} times as long`,
    detail: ({ reference, version }) =>
      `It rings for ${fixed(version, 2)} of a beat, the reference's for ${fixed(reference, 2)}.`,
  },
  {
    aspect: "lowEnd",
    measure: "kickToBass",
    title: (gap) => `${gap > 0 ? "Kick" : "Bass"} too loud against the ${gap > 0 ? "bass" : "kick"}`,
    detail: ({ reference, version }) =>
      `The kick stands ${fixed(version)} dB over the bass, in the reference ${fixed(reference)}.`,
  },
  {
    aspect: "dynamics",
    measure: "loudnessRange",
    title: (gap) => `Too ${gap > 0 ? "much" : "little"} contrast between quiet and loud parts`,
    detail: ({ reference, version }) =>
      `Loudness range ${fixed(version)} LU, the reference has ${fixed(reference)} LU.`,
  },
  {
    aspect: "dynamics",
    measure: "peakToLoudness",
    title: (gap) => (gap > 0 ? "Peaks too high above the loudness" : "Over-limited"),
    detail: ({ reference, version, gap }) =>
      `Peaks ${fixed(version)} LU above the loudness, ${fixed(reference)} in the reference: ${gap! > 0 ? "limit or compress a little more" : "ease the limiter"}.`,
  },
  {
    aspect: "punch",
    measure: "attack",
    title: (gap) => `Hits stand out ${fixed(Math.abs(gap))} dB ${gap > 0 ? "more" : "less"}`,
    detail: ({ gap }) =>
      gap! > 0 ? "Soften their attack or turn them down." : "Slower attack, less limiting, or turn them up.",
  },
  {
    aspect: "punch",
    measure: "sustain",
    title: (gap) => `Hits ring on ${fixed(Math.abs(gap))} dB ${gap > 0 ? "louder" : "softer"}`,
    detail: ({ gap }) => (gap! > 0 ? "Shorten them or their room." : "Lengthen them, or give them room."),
  },
  {
    aspect: "pumping",
    measure: "pumping",
    title: (gap) => `Dips ${fixed(Math.abs(gap))} dB ${gap > 0 ? "more" : "less"} at each kick`,
    detail: () => "See the dip in the Loudness view.",
  },
  {
    aspect: "width",
    measure: "width",
    title: (gap) => `Stereo width ${fixed(gap)} dB off, octave by octave`,
    detail: () => inStereo,
  },
  {
    aspect: "space",
    measure: "reverberance",
    title: (gap) => `Gaps ${fixed(Math.abs(gap))} dB ${gap > 0 ? "fuller" : "emptier"}`,
    detail: ({ gap }) =>
      `${gap! > 0 ? "Less" : "More"} room, or ${gap! > 0 ? "shorter" : "longer"} notes. ${inStereo}`,
  },
];

/** What is said of a measure that is held against what is typical of the style. */
function typicalWords(
  measure: ComparedMeasure & { gap: number },
  title: (gap: number) => string,
): Pick<Finding, "title" | "detail"> {
  const { name, gap, version } = measure;
  const { unit } = measureRules[name];
  const by = `${fixed(Math.abs(gap))} ${unit}`;
  return {
    title: name === "width" ? `${by} ${gap > 0 ? "wider" : "narrower"} than is typical` : title(gap),
    detail: `${fixed(version)} ${unit}; ${typicalRangeWords(measure)} is typical of the style.`,
  };
}

/** All findings of a comparison, the most valuable first, warnings after them. */
export function findingsOf(
  compared: FullComparison,
  reference: TrackMeasures,
  version: TrackMeasures,
): Finding[] {
  const { mix, elements } = compared;
  const curve = mix.toneCurve;
  const counting = [
    ...mix.aspects,
    ...elements
      .filter(({ element }) => element.state !== "left out")
      .map(({ element, compared: c }) => ({ score: c.score, weight: element.weight * c.trust })),
  ];
  const aspect = (name: MixAspect) => mix.aspects.find((a) => a.name === name)!;
  const worth = (name: MixAspect) => pointsWorth(aspect(name), counting);
  const found: Finding[] = [];

  const [tempo] = aspect("tempo").measures;
  if (tempo?.gap && tempo.score !== null && tempo.score < 100) {
    found.push({
      key: "tempo",
      title: tempo.gap > 0 ? "Too fast" : "Too slow",
      detail: `${fixed(tempo.version, 2)} BPM, ${signed(tempo.gap, 2)} %. Set your tempo to ${fixed(tempo.reference, 2)} BPM, or keep it as intended in the Grid view.`,
      points: worth("tempo"),
      place: { kind: "aspect", aspect: "tempo" },
    });
  }
  const [key] = aspect("harmony").measures;
  if (key?.gap && key.score !== null && key.score < 100) {
    const semitones = Math.abs(key.gap);
    found.push({
      key: "harmony",
      title: `${semitones} semitone${semitones === 1 ? "" : "s"} too ${key.gap > 0 ? "high" : "low"}`,
      detail: `Shift it ${key.gap > 0 ? "down" : "up"} by ${semitones}, or keep it as intended in the Grid view.`,
      points: worth("harmony"),
      place: { kind: "aspect", aspect: "harmony" },
    });
  }
  const chords = aspect("harmony").measures.find(({ name }) => name === "chords");
  if (chords?.gap && !key?.gap && chords.score !== null && chords.score < 99.5) {
    found.push({
      key: "chords",
      title: `Different chords on ${Math.max(1, Math.round(-chords.gap))} % of the beats`,
      detail: "See where in the Harmony view.",
      points: worth("harmony"),
      place: { kind: "aspect", aspect: "harmony" },
    });
  }
  const [form] = aspect("form").measures;
  if (form?.gap && form.score !== null && form.score < 99.5) {
    found.push({
      key: "form",
      title: `${Math.max(1, Math.round(-form.gap))} % of the bars in between are missing`,
      detail: "See which sections are missing or shorter in the Sections view.",
      points: worth("form"),
      place: { kind: "aspect", aspect: "form" },
    });
  }
  for (const { aspect: name, measure: wanted, title, detail } of plainWords) {
    const { measures } = aspect(name);
    const measure = measures.find((own) => own.name === wanted);
    if (!measure?.gap || measure.score === null || measure.score >= 99.5) continue;
    // Measures of one aspect share its worth by what each takes from it.
    const lost = measures.reduce((sum, { score }) => sum + (score === null ? 0 : 100 - score), 0);
    const whole = worth(name);
    found.push({
      key: wanted,
      ...(measure.typical
        ? typicalWords(measure as ComparedMeasure & { gap: number }, title)
        : { title: title(measure.gap), detail: detail(measure) }),
      points: whole === null ? null : (whole * (100 - measure.score)) / lost,
      place: { kind: "aspect", aspect: name },
    });
  }
  const [loudness] = aspect("loudness").measures;
  if (loudness?.gap && loudness.score !== null && loudness.score < 100) {
    const louder = loudness.gap > 0;
    found.push({
      key: "loudness",
      title: `${fixed(Math.abs(loudness.gap))} LU too ${louder ? "loud" : "quiet"}`,
      detail: peakAfterGain(-loudness.gap, version),
      points: worth("loudness"),
      place: { kind: "aspect", aspect: "loudness" },
    });
  }
  const tone = aspect("tone");
  for (const region of toneRegions(curve, bandTolerance)) {
    const mended = curve.map((band, i) =>
      i >= region.first && i <= region.last ? { ...band, gap: 0 } : band,
    );
    const rms = rootMeanSquareGap(mended);
    if (rms === null || tone.score === null) continue;
    const gained = scoreOf(rms, measureRules.tone) - tone.score;
    found.push({
      key: `tone-${region.first}`,
      ...regionInWords(region, tone.measures[0]?.typical !== undefined),
      points: pointsWorth({ score: 100 - gained, weight: tone.weight }, [
        ...counting.filter((c) => c !== tone),
        { score: 100 - gained, weight: tone.weight },
      ]),
      place: { kind: "range", fromHz: region.fromHz, toHz: region.toHz },
    });
  }

  const total = counting.reduce((sum, p) => sum + (p.score === null ? 0 : p.weight), 0);
  const { own, shared } = elementFindings(elements, total);
  found.push(...own);
  // What elements have of an aspect is gained with it.
  for (const [name, { points, most }] of shared) {
    const known = found.filter(({ place }) => place.kind === "aspect" && place.aspect === name);
    if (known.length === 0) continue;
    const largest = known.reduce((a, b) => ((b.points ?? 0) > (a.points ?? 0) ? b : a), known[0]!);
    largest.points = (largest.points ?? 0) + points;
    largest.detail = `Most of all the ${most.toLowerCase()}. ${largest.detail}`;
  }

  // What does not count of the match does not count of what would raise it.
  for (const own of found) if (own.points !== null) own.points *= compared.evidence;
  const worthy = found
    .filter((f) => f.points !== null && f.points >= leastPoints)
    .sort((a, b) => b.points! - a.points!);
  const peak = version.loudness.truePeakDbtp;
  if (peak !== null && peak > truePeakCeiling) {
    worthy.push({
      key: "peak",
      title: `True peak ${fixed(peak)} dBTP`,
      detail: `Above ${fixed(truePeakCeiling, 0)} dBTP encoded copies may clip.${
        reference.loudness.truePeakDbtp !== null && reference.loudness.truePeakDbtp > truePeakCeiling
          ? ` The reference is at ${fixed(reference.loudness.truePeakDbtp)}.`
          : ""
      }`,
      points: null,
      place: { kind: "peak" },
    });
  }
  return worthy;
}

function peakAfterGain(gain: number, version: TrackMeasures): string {
  const peak = version.loudness.truePeakDbtp;
  const turn = `Turn the whole mix ${gain > 0 ? "up" : "down"} by ${fixed(Math.abs(gain))} dB`;
  if (peak === null || gain <= 0) return `${turn}.`;
  return peak + gain > truePeakCeiling
    ? `${turn}; its peaks would reach ${signed(peak + gain)} dBTP, so a limiter is needed.`
    : `${turn}; its peaks would then be at ${fixed(peak + gain)} dBTP.`;
}

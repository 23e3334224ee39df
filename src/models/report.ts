/**
 * A study on paper, for someone who was not there: what was studied, what is right, what is not, how it
 * was measured. Page, Markdown, CSV and JSON are all made from this, so their numbers are the same.
 */
import { countedDrums, placeHits, voiceNames, type DrumVoice } from "@/core/drums";
import { drumVoices } from "@/core/drums/voices";
import { stepsPerBeat } from "@/core/drums/steps";
import { typicalPattern } from "@/core/drums/patterns";
import { barsOf, type BarRange } from "@/core/grid/grid";
import { chordName } from "@/core/harmony/chords";
import { keyName, scaleNames, spellingOf } from "@/core/harmony/keys";
import { pitchName } from "@/core/harmony/notes";
import { bandTolerance, situationOf, type TrackMeasures } from "@/core/match";
import { chordLoop, type CountedPlan } from "@/core/plan";
import { presenceGroups } from "@/core/sections/formEstimate";
import { heardBass, type FullComparison, type StudyResults, type TrackRecord } from "@/core/study";
import { gapCurve, wholeOf, type BandGap } from "@/core/tone";
import { aspectTitles } from "./aspectTitles";
import {
  barWords,
  coverageWords,
  isStranger,
  isUnderOtherChords,
  otherChordsWords,
  strangerWords,
} from "./coverage";
import { drumModel } from "./drums";
import {
  elementsModel,
  gapWords,
  lensTitles,
  standing,
  type ElementLane,
  type ElementsModel,
} from "./elements";
import { clock, day, fixed, points } from "./format";
import { measureTitles, mixGapWords, valueWords } from "./measureWords";
import { keyOf, overviewMatch, overviewModel, referenceNumbers, type OverviewModel } from "./overview";
import { planModel } from "./plan";
import { sortFindings } from "./marks";
import { bestVersion, changesByVersion, changeWords } from "./progress";
import { groupWords, measuresIn, playsIn } from "./sections";

export const reportParts = [
  "next",
  "aspects",
  "tone",
  "elements",
  "versions",
  "reference",
  "sections",
  "drums",
  "method",
] as const;
export type ReportPart = (typeof reportParts)[number];

export const reportTitles: Record<ReportPart, string> = {
  next: "What to do next",
  aspects: "The mix, aspect by aspect",
  tone: "Tone",
  elements: "Elements",
  versions: "Versions so far",
  reference: "How the reference is made",
  sections: "Sections and chords",
  drums: "Drum patterns",
  method: "How it was measured",
};

export interface ReportTable {
  head: string[];
  rows: string[][];
  /** Columns of numbers, which stand to the right. */
  numbers: number[];
}

/** A chart, as the numbers that it is drawn from. */
export type ReportFigure =
  | {
      kind: "spectra";
      /** Third-octave bands: levels at equal loudness, and the gap; bands that nobody hears are left out. */
      bands: { hertz: number; reference: number; version: number; gap: number }[];
    }
  | ({ kind: "lanes"; lanes: (ElementLane & { name: string })[] } & Pick<ElementsModel, "sections" | "bars">);

export interface ReportChapter {
  part: ReportPart;
  title: string;
  lines: string[];
  table: ReportTable | null;
  figure: ReportFigure | null;
}

export interface Report {
  title: string;
  /** What is held against what. */
  subject: string;
  /** Null where there is no version yet, or nothing of it is recreated. */
  match: { value: number; text: string; meaning: string } | null;
  chapters: ReportChapter[];
}

/** What a report is of, beyond the study itself; null for the reference alone. */
export interface ReportedVersion {
  version: TrackRecord;
  overview: OverviewModel;
  compared: FullComparison;
  /** Bars of the reference that alone are compared; null for all that is recreated. */
  bars: BarRange | null;
  /** Spectra of both at equal loudness, in third octaves. */
  curve: readonly BandGap[];
}

/** What a report says of a version that is compared. */
export const reportedIn = (
  results: StudyResults,
  {
    version,
    reference,
    measured,
    compared,
    ...state
  }: Pick<OverviewModel, "nothingRecreated" | "outdated"> & {
    version: TrackRecord;
    reference: TrackMeasures;
    measured: TrackMeasures;
    compared: FullComparison;
  },
  bars: BarRange | null = null,
): ReportedVersion => ({
  version,
  compared,
  bars,
  curve: gapCurve(wholeOf(reference.spectrum), wholeOf(measured.spectrum), compared.mix.gainToReference, 3),
  overview: overviewModel(reference, measured, compared, {
    nothingRecreated: state.nothingRecreated,
    outdated: state.outdated,
    keys: { reference: keyOf(results, results.study.reference), version: keyOf(results, version) },
  }),
});

type Chapter = Omit<ReportChapter, "part" | "title" | "figure"> & Partial<Pick<ReportChapter, "figure">>;

const table = (head: string[], rows: string[][], numbers: number[] = []): ReportTable => ({
  head,
  rows,
  numbers,
});

/** @param parts those that are wanted, in whatever order. */
export function reportOf(
  results: StudyResults,
  reported: ReportedVersion | null,
  parts: readonly ReportPart[] = reportParts,
): Report {
  const { study } = results;
  const comparable = reported?.overview.nothingRecreated ? null : reported;
  const make: Record<ReportPart, () => Chapter | null> = {
    next: () => reported && nextChapter(reported, results.study),
    // Without anything in common there are no gaps.
    aspects: () => (comparable ? aspectsChapter(comparable) : null),
    tone: () => (comparable ? toneChapter(comparable) : null),
    elements: () => (comparable ? elementsChapter(comparable, results) : null),
    versions: () => versionsChapter(results),
    reference: () => referenceChapter(results),
    sections: () => sectionsChapter(results),
    drums: () => drumsChapter(results),
    method: () => methodChapter(results),
  };
  const value = reported && overviewMatch(reported.overview, study);
  return {
    title: study.title,
    subject: subjectOf(results, reported),
    match: value === null ? null : { value, text: points(value), meaning: situationOf(value).words },
    chapters: reportParts.flatMap((part) => {
      const chapter = parts.includes(part) ? make[part]() : null;
      return chapter ? [{ part, title: reportTitles[part], figure: null, ...chapter }] : [];
    }),
  };
}

function subjectOf(results: StudyResults, reported: ReportedVersion | null): string {
  const { study, grids, alignments } = results;
  if (!study.reference) return "No reference yet.";
  if (!reported) return `The reference alone: ${study.reference.fileName}.`;
  const { version, overview } = reported;
  const name = `version ${version.number}`;
  const against = study.standIn === null ? "" : `version ${study.standIn}, `;
  const files = `${version.fileName} against ${against}${study.reference.fileName}.`;
  const alignment = alignments.get(version.id)?.value.alignment;
  if (isStranger(version, alignment)) return `${files} ${strangerWords(`Version ${version.number}`)}`;
  const { bars } = reported;
  if (bars) {
    const selected = `Only ${barWords(bars)} of the reference${overview.nothingRecreated ? `, which ${name} does not recreate` : ""}.`;
    return `${files} ${selected}`;
  }
  const [reference, own] = [grids.get(study.reference.id), grids.get(version.id)];
  const spans = version.coverage ?? alignment?.spans ?? [];
  const covered =
    reference && own && spans.length > 0 ? ` ${coverageWords({ reference, version: own, spans }, name)}` : "";
  const chords = isUnderOtherChords(version, alignment, study.aspectWeights)
    ? ` ${otherChordsWords(`Version ${version.number}`)}`
    : "";
  return `${files}${covered}${chords}`;
}

function nextChapter({ overview, version }: ReportedVersion, { marks }: StudyResults["study"]): Chapter {
  const { open, aside } = sortFindings(overview.findings, marks, version.number);
  const lines =
    aside.length > 0
      ? [`Set aside: ${aside.map(({ finding, mark }) => `${finding.title} (${mark.mark})`).join("; ")}.`]
      : [];
  return overview.nothingRecreated
    ? { lines: ["Nothing of this is recreated yet."], table: null }
    : open.length === 0
      ? {
          lines: aside.length > 0 ? lines : ["No audible differences left in what is measured so far."],
          table: null,
        }
      : {
          lines,
          table: table(
            ["What", "How", "Points"],
            open.map(({ title, detail, points: worth }) => [
              title,
              detail,
              worth === null ? "check" : `+${worth < 1 ? worth.toFixed(1) : Math.round(worth)}`,
            ]),
            [2],
          ),
        };
}

const aspectsChapter = ({ overview }: ReportedVersion): Chapter => ({
  lines: [],
  table: table(
    ["Aspect", "Measure", "Reference", "Version", "Gap", "Score"],
    overview.aspects.flatMap((aspect) =>
      aspect.measures.map((measure, i) => [
        i === 0 ? aspectTitles[aspect.name] : "",
        measureTitles[measure.name] ?? "",
        valueWords(measure, "reference", overview),
        valueWords(measure, "version", overview),
        mixGapWords(measure),
        i === 0 ? points(aspect.score) : "",
      ]),
    ),
    [2, 3, 4, 5],
  ),
});

function toneChapter({ curve, overview }: ReportedVersion): Chapter {
  const gap = overview.aspects.find(({ name }) => name === "tone")?.measures[0]?.gap ?? null;
  const heard = curve.filter(({ weight }) => weight > 0);
  return {
    lines: [
      `Average spectra at equal loudness, in third octaves: ${fixed(gap)} dB apart on average; within ${bandTolerance} dB nobody hears a band.`,
    ],
    table: null,
    figure: {
      kind: "spectra",
      bands: heard.map(({ centre, reference, version, gap: own }) => ({
        hertz: Math.round(centre),
        reference: tenths(reference),
        version: tenths(version),
        gap: tenths(own),
      })),
    },
  };
}

/** Plain 0 in place of −0. */
const tenths = (value: number) => Math.round(10 * value) / 10 + 0;

/** Where the elements play, of those that the lens has lifted out; null where there are none. */
function lanesFigure({ version, compared }: ReportedVersion, results: StudyResults): ReportFigure | null {
  const { lanes, sections, bars } = elementsModel(results, version, compared);
  const shown = results.study.elements.flatMap(({ id, name, state }) =>
    lanes[id] && state !== "left out" ? [{ name, ...lanes[id] }] : [],
  );
  return shown.length > 0 ? { kind: "lanes", lanes: shown, sections, bars } : null;
}

const elementsChapter = (reported: ReportedVersion, results: StudyResults): Chapter => ({
  lines: [],
  figure: lanesFigure(reported, results),
  table: table(
    ["Element", "State", "Heard through", "Level", "Tone", "Match", "Note"],
    reported.compared.elements.map(({ element, compared: own }) => {
      const gapOf = (name: "level" | "tone") => {
        const measure = own.aspects.find((aspect) => aspect.name === name)?.measures[0];
        return measure ? gapWords(measure) : "–";
      };
      const { through } = own;
      return [
        element.name,
        element.state,
        through.kind === "lens"
          ? `${element.lens ? lensTitles[element.lens] : "lens"}, ${standing(through.freeDb).words}`
          : through.kind === "stems"
            ? "stems of both sides"
            : "its range of the mix",
        gapOf("level"),
        gapOf("tone"),
        element.state === "left out" ? "–" : points(own.score),
        element.note,
      ];
    }),
    [3, 4, 5],
  ),
});

const versionsChapter = ({ study, scores }: StudyResults): Chapter | null => {
  const changes = changesByVersion(scores, study);
  const best = bestVersion(scores, ({ match }) => match);
  return study.versions.length === 0
    ? null
    : {
        lines:
          best && scores.length > 1
            ? [
                `Version ${best.number} is the best so far.`,
                "In brackets is what moved most, as its gap to the reference before and after.",
              ]
            : [],
        table: table(
          ["Version", "What changed", "Points against the one before", "Match", "File", "Added"],
          study.versions.map(({ id, number, note, fileName, addedAt }) => [
            String(number),
            note,
            changeWords(changes.get(id) ?? [], 4, 4),
            points(scores.find(({ trackId }) => trackId === id)?.match),
            fileName,
            day(addedAt),
          ]),
          [0, 3],
        ),
      };
};

function referenceChapter(results: StudyResults): Chapter | null {
  const { study } = results;
  const numbers = referenceNumbers(results);
  const analysis = study.reference && results.analyses.get(study.reference.file.hash);
  if (!numbers || !analysis || !study.reference) return null;
  const { loudness, key } = numbers;
  const grid = results.grids.get(study.reference.id);
  const bars = grid && barsOf(grid);
  const { kickLengthBeats: kick, kickHz } = analysis.lowEnd;
  const bass = heardBass(study.reference, study.elements, results.analyses).notes;
  const notes = [...new Set(bass.map(({ midi }) => midi))].sort((a, b) => a - b);
  const spelling = key ? spellingOf(key) : "sharps";
  const facts: [string, string][] = [
    ["File", study.reference.fileName],
    ["Length", clock(analysis.durationSeconds)],
    ["Tempo", numbers.bpm === null ? "not found" : `${fixed(numbers.bpm, 2)} BPM`],
    [
      "Metre",
      grid ? `${grid.beatsPerBar}/4, ${bars!.last - Math.max(1, bars!.first) + 1} bars` : "not found",
    ],
    ["Key", key ? `${keyName(key)}: ${scaleNames(key).join(" ")}` : "not found"],
    ["Tuning", `${fixed(analysis.tuningCents, 0)} cents from A = 440 Hz`],
    ["Integrated loudness", `${fixed(loudness.integratedLufs)} LUFS`],
    ["Loudness range", `${fixed(loudness.loudnessRangeLu)} LU`],
    ["True peak", `${fixed(loudness.truePeakDbtp)} dBTP`],
    ["Peak to loudness", `${fixed(loudness.peakToLoudnessLu)} LU`],
    ["Spectral slope", `${fixed(numbers.slopeDbPerOctave)} dB/oct`],
    ["Kick length", kick === null ? "not found" : `${fixed(kick, 2)} of a beat`],
    ["Kick pitch", kickHz === null ? "not found" : `${fixed(kickHz)} Hz`],
    [
      "Bass notes",
      notes.length === 0
        ? "none found"
        : `${bass.length}, ${pitchName(notes[0]!, spelling)} to ${pitchName(notes.at(-1)!, spelling)}`,
    ],
  ];
  return { lines: [], table: table(["", ""], facts) };
}

/** The chords of some bars, as the loop that they go round in, or one after the other. */
function chordsIn({ chords }: CountedPlan, firstBar: number, lastBar: number, beatsPerBar: number): string {
  const [from, to] = [(firstBar - 1) * beatsPerBar, lastBar * beatsPerBar];
  const loop = chordLoop(chords, from, to, beatsPerBar);
  if (loop) return loop.chords.map(({ chord }) => chordName(chord)).join(" – ");
  const inside = chords.filter(({ startBeat, endBeat }) => endBeat > from + 0.5 && startBeat < to - 0.5);
  const names = inside.map(({ chord }) => chordName(chord));
  return names.length > 8 ? `${names.slice(0, 8).join(" – ")} …` : names.join(" – ");
}

function sectionsChapter(results: StudyResults): Chapter | null {
  const { reference } = planModel(results, null);
  if (!reference?.planGrid || reference.plan.sections.length === 0) return null;
  const { beatsPerBar } = reference.planGrid;
  return {
    lines: [],
    table: table(
      ["Section", "Bars", "Length", "Loudness", "Plays", "Chords"],
      reference.plan.sections.map((section) => {
        const measures = measuresIn(reference, section);
        return [
          section.name,
          `${section.firstBar}–${section.lastBar}`,
          String(section.lastBar - section.firstBar + 1),
          measures ? `${fixed(measures.loudness)} LUFS` : "–",
          presenceGroups
            .filter((group) => playsIn(group, section, measures))
            .map((group) => groupWords[group].toLowerCase())
            .join(", "),
          chordsIn(reference.plan, section.firstBar, section.lastBar, beatsPerBar),
        ];
      }),
      [2, 3],
    ),
  };
}

/** A row of steps: `X...x...`, capitals where it is struck hard. */
function stepsOf(hits: readonly { step: number; velocity: number }[], steps: number): string {
  const row = Array.from({ length: steps }, () => ".");
  for (const { step, velocity } of hits) row[step] = velocity >= 0.65 ? "X" : "x";
  return row.join("");
}

function drumsChapter(results: StudyResults): Chapter | null {
  const { reference, sections } = drumModel(results, null);
  if (!reference?.ownGrid) return null;
  const grid = reference.ownGrid;
  const { hits } = countedDrums(reference.estimate, reference.correction, grid);
  if (hits.length === 0) return null;
  const placed = placeHits(hits, grid, reference.swing);
  const shape = { beatsPerBar: grid.beatsPerBar, stepsPerBeat: stepsPerBeat(grid.beatsPerBar) };
  const perBar = shape.beatsPerBar * shape.stepsPerBeat;
  const all = sections.length > 0 ? sections : [{ name: "all", ...barRange(grid) }];
  const rows = all.flatMap(({ name, firstBar, lastBar }) => {
    const pattern = typicalPattern(placed, { first: firstBar, last: lastBar }, shape);
    const struck = drumVoices.filter((voice) => pattern.hits.some((hit) => hit.voice === voice));
    return struck.map((voice: DrumVoice, i) => {
      const own = pattern.hits.filter((hit) => hit.voice === voice);
      const steps = stepsOf(own, pattern.periodBars * perBar);
      const bars = Array.from({ length: pattern.periodBars }, (_, bar) =>
        steps.slice(bar * perBar, (bar + 1) * perBar),
      );
      const late = own.reduce((sum, { offset }) => sum + offset, 0) / own.length;
      return [i === 0 ? name : "", voiceNames[voice], bars.join(" | "), `${fixed(1000 * late, 0)} ms`];
    });
  });
  const { of, percent } = reference.swing;
  return {
    lines: [
      `Swing ${fixed(percent)} % of ${of === 8 ? "eighths" : "sixteenths"}. One character a step, capitals where it is struck hard; how far behind (+) or ahead (−) of the step it is played, on average.`,
    ],
    table: rows.length > 0 ? table(["Section", "Voice", "Typical pattern", "Feel"], rows, [3]) : null,
  };
}

const barRange = (grid: Parameters<typeof barsOf>[0]) => {
  const { first, last } = barsOf(grid);
  return { firstBar: Math.max(1, first), lastBar: last };
};

const methodChapter = ({ analyses, study, style }: StudyResults): Chapter | null => {
  const analysis = study.reference && analyses.get(study.reference.file.hash);
  if (!analysis) return null;
  const inStyle = study.styleAspects.map((name) => aspectTitles[name].toLowerCase()).join(", ");
  return {
    lines: [
      "Loudness and true peak after ITU-R BS.1770-5 and EBU Tech 3341 and 3342. Spectra in third octaves, at equal loudness. Beats, chords, sections, hits and bass notes as detected, with corrections by hand where they were made.",
      "The match is the weighted mean of all scores, times the evidence that the version recreates the reference: any two mixes are alike in much, and any two tracks of a style in their drums. An element scores about as much as what is furthest off in it (a harmonic mean of its aspects). A gap that nobody hears scores 100; every further step of a stated size halves the score.",
      ...(style && inStyle !== ""
        ? [
            `Held against the yardstick of ${style.yardstick.tracks} tracks in place of the reference: ${inStyle}. Four in five of them lie within what is typical, and anything within it scores 100.`,
          ]
        : []),
      `Analysis version ${analysis.analysisVersion}.`,
    ],
    table: null,
  };
};

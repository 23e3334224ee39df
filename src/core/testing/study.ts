/** A made-up study whose every number is known: a reference of 24 bars and two versions of it. */
import { madeUpBass, madeUpLowEnd } from "./lowEnd";
import { madeUpEnvelopes } from "./envelopes";
import { fineBandCount } from "../tone";
import type { CoverageSpan } from "../align/coverage";
import { analysisVersion, type TrackAnalysis } from "../analysis/result";
import { asColumns, type CountedDrums } from "../drums";
import { gridOf } from "../grid/correction";
import { barsOf, type Grid } from "../grid/grid";
import { readChord } from "../harmony/chords";
import type { PlacedChord } from "../harmony/harmonyEstimate";
import { defaultAspectWeights } from "../match";
import type { PlacedSection } from "../sections/formEstimate";
import { done, element, file, track } from "./records";
import {
  compareVersion,
  comparisonSide,
  drumStemsOf,
  gridsOf,
  itemDrums,
  itemPlan,
  itemsOf,
  measuresOfWhole,
  noCorrections,
  scoresOfVersions,
  tracksOf,
  type StemRecord,
  type StoredAlignment,
  type StoredComparison,
  type StoredLens,
  type StudyRecord,
  type StudyResults,
  type TrackRecord,
} from "../study";
import { twelfthCount } from "../tone";
import { drumsAsWritten, steadyGrid, type Written } from "./drums";

const beatsPerBar = 4;
export const madeUpBpm = 120;
const stemOffset = 0.012;

/** How one file of the study is made up. */
interface MadeUpTrack {
  bpm?: number;
  bars?: number;
  lufs?: number;
  /** One a bar, again and again. */
  chords?: string[];
  sections?: PlacedSection[];
  drums?: (grid: Grid) => CountedDrums;
  /** Power of a twelfth-octave band, as a factor. */
  tone?: (band: number) => number;
}

const section = (firstBar: number, lastBar: number, name: string, letter: string): PlacedSection => ({
  firstBar,
  lastBar,
  name,
  letter,
});

export const writtenDrums: Written = {
  kick: ["X...X...X...X..."],
  snare: ["....X.......X..."],
  hat: ["x.o.x.o.x.o.x.o."],
};

const referenceSections = [
  section(1, 8, "intro", "A"),
  section(9, 16, "verse", "B"),
  section(17, 24, "chorus", "C"),
];

function chordsOf(names: readonly string[], bars: number): PlacedChord[] {
  return Array.from({ length: bars }, (_, bar) => ({
    startBeat: bar * beatsPerBar,
    endBeat: (bar + 1) * beatsPerBar,
    chord: readChord(names[bar % names.length]!)!,
    confidence: 0.9,
  }));
}

/** An analysis that says of a track what it was made with. */
export function madeUpAnalysis({
  bpm = madeUpBpm,
  bars = 24,
  lufs = -14,
  chords = ["Am", "F", "C", "G"],
  sections = referenceSections,
  drums = (grid) => drumsAsWritten(writtenDrums, grid),
  tone = () => 1,
}: MadeUpTrack = {}): TrackAnalysis {
  const grid = steadyGrid(bpm, bars);
  // The beat after the last bar is where the file ends.
  const durationSeconds = grid.beats.at(-1)!;
  const beats = grid.beats.slice(0, -1);
  const perBar = (value: (bar: number) => number) => Array.from({ length: bars }, (_, bar) => value(bar + 1));
  return {
    analysisVersion,
    durationSeconds,
    sampleRate: 44100,
    channels: 2,
    silent: false,
    leadInSeconds: 0.5,
    tempo: { bpm, confidence: 0.95, alternatives: [{ bpm: bpm / 2, confidence: 0.05 }] },
    grid: {
      beats,
      downbeats: beats.filter((_, beat) => beat % beatsPerBar === 0),
      beatsPerBar,
      steady: true,
      bpm,
      confidence: 0.93,
      otherBarStarts: [
        { beatsLater: 0.5, barOneAt: beats[0]! + 30 / bpm, confidence: 0.06 },
        { beatsLater: -1, barOneAt: beats[0]! + 180 / bpm, confidence: 0.01 },
      ],
      swing: { eighths: null, sixteenths: null },
    },
    tuningCents: 4,
    plan: {
      harmony: {
        key: {
          options: [
            { key: { tonic: 9, mode: "minor" }, confidence: 0.86 },
            { key: { tonic: 0, mode: "major" }, confidence: 0.14 },
          ],
          opinions: { notes: { tonic: 0, mode: "major" }, chords: { tonic: 9, mode: "minor" } },
        },
        chords: chordsOf(chords, bars),
        bars: {
          firstBar: 1,
          beatsPerBar,
          chroma: Array.from({ length: bars }, () => Array.from({ length: 12 }, (_, i) => (i % 2 ? 0.1 : 1))),
        },
      },
      form: {
        sections,
        moments: [{ kind: "riser", startBeat: 60, endBeat: 64 }],
        bars: {
          firstBar: 1,
          loudness: perBar((bar) => (bar > 16 ? lufs + 2 : lufs - 2)),
          brightness: perBar((bar) => 800 + 20 * bar),
          width: perBar(() => -12),
          density: perBar(() => 12),
          presence: {
            drums: perBar((bar) => (bar > 4 ? 0.95 : 0.1)),
            bass: perBar((bar) => (bar > 8 ? 0.9 : 0.2)),
            chords: perBar(() => 0.9),
            lead: perBar((bar) => (bar > 16 ? 0.8 : 0.1)),
            effects: perBar((bar) => (bar === 16 ? 1 : 0)),
          },
        },
      },
    },
    drums: asColumns(
      [...drums(grid).hits],
      perBar((bar) => 0.5 + ((bar - 1) * beatsPerBar * 60) / bpm),
    ),
    loudness: {
      integratedLufs: lufs,
      loudnessRangeLu: 5,
      truePeakDbtp: lufs + 13,
      maxMomentaryLufs: lufs + 4,
      maxShortTermLufs: lufs + 2,
      peakToLoudnessLu: 13,
      crestFactorDb: 15,
      measuredSeconds: durationSeconds,
    },
    clippedRuns: 0,
    clippedPlaces: [],
    dcOffsets: [0, 0],
    spectrum: {
      mid: Array.from({ length: twelfthCount }, (_, band) => 1e-3 * tone(band)),
      side: Array.from({ length: twelfthCount }, () => 1e-5),
      cross: new Array<number>(twelfthCount).fill(0),
    },
    slopeDbPerOctave: -3,
    narrowPeaks: { excess: new Array<number>(fineBandCount).fill(0), resonances: [] },
    wobble: { depthCents: 1.2, rateHz: 1.5, confidence: 0.8 },
    envelopes: madeUpEnvelopes(),
    bass: madeUpBass(60 / bpm, 4 * bars),
    lowEnd: madeUpLowEnd(),
  };
}

/** How the study may differ from the usual one. */
export interface MadeUpStudy {
  /** Without a reference there are no versions. */
  empty?: boolean;
  versions?: 0 | 1 | 2;
  /** Changes records before anything is worked out. */
  change?(study: StudyRecord): StudyRecord;
  /** What the lens has lifted out of every version and its reference. */
  lens?: StoredLens | null;
}

/**
 * Version 1 has the first 16 bars and an E minor in place of C major; version 2 all 24 bars, 3 LU
 * louder, with 3 dB more around 350 Hz, no kick in bar 6 and its snare 30 ms late.
 */
export function madeUpStudy({
  empty = false,
  versions = 2,
  change = (own) => own,
  lens = null,
}: MadeUpStudy = {}): StudyResults {
  const analyses = new Map<string, TrackAnalysis>([
    ["hash0", madeUpAnalysis()],
    [
      "hash1",
      madeUpAnalysis({
        bars: 16,
        chords: ["Am", "F", "Em", "G"],
        sections: [section(1, 8, "verse", "A"), section(9, 16, "verse 2", "A")],
      }),
    ],
    [
      "hash2",
      madeUpAnalysis({
        lufs: -11,
        tone: (band) => (band >= 46 && band <= 54 ? 2 : 1),
        drums: (grid) =>
          drumsAsWritten(writtenDrums, grid, {
            alter: (hit, beat) =>
              hit.voice === "kick" && Math.floor(beat / beatsPerBar) === 5
                ? null
                : hit.voice === "snare"
                  ? { ...hit, time: hit.time + 0.03 }
                  : hit,
          }),
      }),
    ],
    [
      "hash3",
      madeUpAnalysis({
        // The stem begins later in its track by as much.
        drums: (grid) =>
          drumsAsWritten({ hat: writtenDrums.hat! }, grid, {
            alter: (hit) => ({ ...hit, time: hit.time - stemOffset }),
          }),
      }),
    ],
  ]);
  const secondsOf = (hash: string) => analyses.get(hash)!.durationSeconds;
  const stem: StemRecord = {
    id: "stem1",
    corrections: noCorrections,
    elementId: "hats",
    fileName: "hats only.wav",
    file: file("hash3", secondsOf("hash3")),
    job: done,
    measuredOffset: { seconds: stemOffset, confidence: 0.98 },
    offsetSeconds: null,
  };
  const study = change({
    id: "study1",
    title: "Paper lantern",
    addedAt: Date.UTC(2026, 10, 2),
    aspectWeights: defaultAspectWeights,
    intended: { bpm: null, semitones: 0 },
    marks: {},
    target: null,
    styleAspects: [],
    folder: null,
    standIn: null,
    reference: empty ? null : { ...track(0, "paper lantern.wav", secondsOf("hash0")), stems: [stem] },
    versions: empty
      ? []
      : [
          track(1, "lantern v1.wav", secondsOf("hash1")),
          track(2, "lantern v2.wav", secondsOf("hash2")),
        ].slice(0, versions),
    elements: empty
      ? []
      : [
          element("kick", "Kick", 40, 110),
          element("body", "Snare body", 150, 400),
          element("hats", "Hats", 6000, 16000),
        ],
    candidates: [],
    yardstick: [],
  });
  return madeUpResults(study, analyses, lens);
}

/** All that follows from a study and analyses, worked out by the same code as in the program. */
export function madeUpResults(
  study: StudyRecord,
  analyses: ReadonlyMap<string, TrackAnalysis>,
  lens: StoredLens | null = null,
): StudyResults {
  const ownGrids = new Map(
    itemsOf(study).flatMap(({ id, file: { hash }, corrections }): [string, Grid][] => {
      const { grid, durationSeconds } = analyses.get(hash)!;
      const own = gridOf(grid, durationSeconds, corrections.grid, null);
      return own ? [[id, own]] : [];
    }),
  );
  const plans = new Map(
    itemsOf(study).map((item) => [item.id, { value: analyses.get(item.file.hash)!.plan, current: true }]),
  );
  const { reference } = study;
  const alignments = new Map<string, { value: StoredAlignment; current: boolean }>();
  const comparisons = new Map<string, { value: StoredComparison; current: boolean }>();
  const spansOf = (version: TrackRecord): CoverageSpan[] => {
    const { last } = barsOf(ownGrids.get(version.id)!);
    return [{ referenceFirst: 1, versionFirst: 1, bars: last }];
  };
  for (const version of reference ? study.versions : []) {
    const spans = version.coverage ?? spansOf(version);
    alignments.set(version.id, {
      current: true,
      value: {
        alignment: {
          spans,
          reading: { factor: 1, shift: 0, firstBeat: 0 },
          semitones: 0,
          agreement: 1,
          harmony: 1,
          related: 1,
        },
        measures: {
          reference: measuresOfWhole(analyses.get(reference!.file.hash)!),
          version: measuresOfWhole(analyses.get(version.file.hash)!),
        },
      },
    });
    const side = (item: TrackRecord) => {
      const analysis = analyses.get(item.file.hash)!;
      const grid = ownGrids.get(item.id)!;
      const stems = drumStemsOf(item.stems, study.elements, analyses);
      const { counted } = itemDrums(analysis, stems, item.corrections, grid);
      return comparisonSide(
        analysis,
        item.corrections,
        itemPlan(analysis.plan, item),
        counted,
        grid,
        grid,
        null,
      );
    };
    comparisons.set(version.id, {
      current: true,
      value: compareVersion(side(reference!), side(version), spans),
    });
  }
  const scored = new Map(
    [...alignments].map(([id, { value }]) => [
      id,
      { alignment: value, comparison: comparisons.get(id)?.value ?? null, lens },
    ]),
  );
  return {
    study,
    analyses,
    alignments,
    comparisons,
    lenses: new Map(lens ? study.versions.map(({ id }) => [id, { value: lens, current: true }]) : []),
    stemSums: new Map(
      lens && reference
        ? [[reference.id, { value: { restDb: -21.4, missing: [], gainsDb: { stem1: 3 } }, current: true }]]
        : [],
    ),
    lifted: new Set(lens ? tracksOf(study).map(({ file: { hash } }) => hash) : []),
    yardstickMeasured: new Set(),
    plans,
    ownGrids,
    grids: gridsOf(study, ownGrids, (id) => alignments.get(id)?.value.alignment ?? null),
    failures: new Map(),
    style: null,
    scores: scoresOfVersions(study, scored),
  };
}

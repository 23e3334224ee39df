/** Whether the ranges of a yardstick are those of the songs it is made of, as far as it is known how they were made. */
import type { TrackAnalysis } from "@/core/analysis/result";
import { asColumns } from "@/core/drums/hits";
import {
  figuresOfStyle,
  patternGroups,
  trackFigures,
  typicalLength,
  typicalRange,
  yardstickOf,
  type FigureName,
  type PatternGroup,
  type TrackFigures,
  type TypicalRange,
} from "@/core/yardstick";
import type { DevelopmentSong } from "./songs";
import { table } from "./tables";

/** Figures of which the songs say themselves what they are. */
const knownFigures = {
  tempo: "tempo, BPM",
  swing: "swing, %",
  length: "length, bars",
  sectionBars: "length of a section, bars",
} as const satisfies Partial<Record<FigureName, string>>;
type KnownFigure = keyof typeof knownFigures;

export interface YardstickTrack {
  style: string;
  heard: TrackAnalysis;
  made: TrackFigures;
}

/** A song as a track of a yardstick: as it is heard, and as it was made. */
export function yardstickTrack(
  { style, truth }: DevelopmentSong,
  analysis: TrackAnalysis,
): YardstickTrack | null {
  if (!analysis.grid) return null;
  const { beats, downbeats, tempo, sections, drums, steady } = truth;
  const made = trackFigures({
    ...analysis,
    grid: { ...analysis.grid, beats, downbeats, beatsPerBar: tempo.beatsPerBar, bpm: tempo.bpm, steady },
    drums: asColumns(
      drums.hits.map((hit) => ({ ...hit, confidence: 1 })),
      [],
    ),
  });
  made.values.length = downbeats.length;
  made.values.sectionBars = typicalLength(
    sections.map(
      ({ start, end }) => downbeats.filter((time) => time >= start - 0.05 && time < end - 0.05).length,
    ),
  );
  return { style, heard: analysis, made };
}

/** Of how many songs a yardstick is made. */
const tracksOfOne = 30;
/** Patterns of fewer of them are not asked for. */
const fewestOfPattern = 3;

const rangeText = (range: TypicalRange | null) =>
  range ? [range.low, range.median, range.high].map((value) => value.toFixed(1)).join(" / ") : "–";

/** Tracks of one yardstick, heard beside one another. */
function heardTogether(own: readonly YardstickTrack[]): { made: TrackFigures; heard: TrackFigures }[] {
  const heard = figuresOfStyle(own.map((track) => track.heard));
  return own.map(({ made }, i) => ({ made, heard: heard[i]! }));
}

/** Ranges of yardsticks of thirty songs and of each style, as heard beside as made, and patterns that recur. */
export function yardstickReport(tracks: readonly YardstickTrack[]): string {
  const groups = Array.from({ length: Math.floor(tracks.length / tracksOfOne) }, (_, i) =>
    heardTogether(tracks.slice(i * tracksOfOne, (i + 1) * tracksOfOne)),
  );
  const figures = Object.keys(knownFigures) as KnownFigure[];
  const ranges = table(
    ["yardstick", "figure", "as made", "as heard"],
    groups.flatMap((own, i) =>
      figures.map((name) => [
        i + 1,
        knownFigures[name],
        rangeText(typicalRange(own.map(({ made }) => made.values[name]))),
        rangeText(typicalRange(own.map(({ heard }) => heard.values[name]))),
      ]),
    ),
  );
  const ofStyles = table(
    ["style", ...figures.flatMap((name) => [`${knownFigures[name]}: as made`, "as heard"])],
    [...new Set(tracks.map(({ style }) => style))].map((style) => {
      const own = heardTogether(tracks.filter((track) => track.style === style));
      const rangeOf = (side: "made" | "heard", name: KnownFigure) =>
        rangeText(typicalRange(own.map((track) => track[side].values[name])));
      return [style, ...figures.flatMap((name) => [rangeOf("made", name), rangeOf("heard", name)])];
    }),
  );
  const patterns = table(
    ["yardstick", ...Object.keys(patternGroups)],
    groups.map((own, i) => {
      const [made, heard] = (["made", "heard"] as const).map(
        (side) => yardstickOf(own.map((track) => track[side])).patterns,
      );
      const found = (group: PatternGroup) => {
        const wanted = made!.filter((pattern) => pattern.group === group && pattern.count >= fewestOfPattern);
        const right = wanted.filter(({ steps }) =>
          heard!.some((pattern) => pattern.group === group && pattern.steps === steps),
        );
        return `${right.length} of ${wanted.length}`;
      };
      return [i + 1, ...(Object.keys(patternGroups) as PatternGroup[]).map(found)];
    }),
  );
  return `Yardsticks of ${tracksOfOne} development songs of several styles each: a tenth lies below, the middle, a tenth above. Figures of which it is known how the songs were made; all others are measured on the sound itself and stand against standards in the tests.

${ranges}

Yardsticks of the six songs of one style each, which are counted alike.

${ofStyles}

Patterns that at least ${fewestOfPattern} of thirty have, and how many of these are among those that are said to recur.

${patterns}`;
}

/** Whether versions are lined up with their references to the bar, case by case. */
import { analyse } from "@/core/analysis/analyse";
import { readAnew, type CoverageSpan } from "@/core/align/coverage";
import { gridOf } from "@/core/grid/correction";
import { barStart } from "@/core/grid/grid";
import { alignVersion, type AlignmentSide } from "@/core/study";
import { decodeFile } from "@/server/decoding/decode";
import { barsOf, straightTimeOf, type Song } from "@/demo/song";
import { styleSong } from "@/demo/songs/styles";
import { developmentSongs } from "./songs";
import { versionCases, versionsOf, type VersionCase } from "./versions";

export interface CoverageResult {
  style: string;
  name: string;
  case: VersionCase;
  right: boolean;
  semitonesRight: boolean;
  /** Spans in bars of the truth, `first+bars@first in the version`. */
  found: string;
  wanted: string;
  seconds: number;
}

async function sideOf(file: string): Promise<AlignmentSide> {
  const decoded = await decodeFile(file);
  if (!decoded.ok) throw new Error(`${file}: ${decoded.refusal.sentence}`);
  const { analysis, curves } = await analyse(decoded.value.signal);
  return { analysis, curves, correction: {} };
}

const nearestBar = (starts: readonly number[], time: number): number =>
  starts.reduce((best, start, i) => (Math.abs(start - time) < Math.abs(starts[best]! - time) ? i : best), 0) +
  1;

const words = (spans: readonly CoverageSpan[]): string =>
  spans.map((s) => `${s.referenceFirst}+${s.bars}@${s.versionFirst}`).join(" ");

/** Spans that go on without a gap on both sides are one. */
function merged(spans: readonly CoverageSpan[]): CoverageSpan[] {
  const result: CoverageSpan[] = [];
  for (const span of spans) {
    const last = result.at(-1);
    if (
      last &&
      last.referenceFirst + last.bars === span.referenceFirst &&
      last.versionFirst + last.bars === span.versionFirst
    )
      last.bars += span.bars;
    else result.push({ ...span });
  }
  return result;
}

/** For each bar the first bar of the song in which the same parts play the same notes. */
export function sameBars(song: Song): number[] {
  const barSeconds = (bar: number) => straightTimeOf(song, bar * song.beatsPerBar);
  const contents = Array.from({ length: barsOf(song) }, (_, bar) => {
    const [from, to] = [barSeconds(bar), barSeconds(bar + 1)];
    return song.parts
      .flatMap((part) =>
        part.notes
          // Played a little early a note still belongs to the bar that it begins.
          .filter(({ time }) => time >= from - early && time < to - early)
          .map(
            ({ time, pitch }) =>
              `${part.name} ${pitch} ${Math.round((48 * (time - from)) / (to - from) / 3)}`,
          ),
      )
      .sort()
      .join("|");
  });
  return contents.map((content) => contents.indexOf(content) + 1);
}

const early = 0.06;

/** The bar of the reference for each bar of the version; 0 where none answers. */
function answers(spans: readonly CoverageSpan[]): Map<number, number> {
  return new Map(
    spans.flatMap((span) =>
      Array.from({ length: span.bars }, (_, i): [number, number] => [
        span.versionFirst + i,
        span.referenceFirst + i,
      ]),
    ),
  );
}

/** Whether each bar of the version answers the bar it was made from, or one with the very same notes. */
export function isRight(
  found: readonly CoverageSpan[],
  wanted: readonly CoverageSpan[],
  same: readonly number[],
) {
  const [own, truth] = [answers(found), answers(wanted)];
  return (
    own.size === truth.size &&
    new Set(own.values()).size === own.size &&
    [...truth].every(([version, bar]) => same[(own.get(version) ?? 0) - 1] === same[bar - 1])
  );
}

/** All cases of some songs. What is found is told in bars of the truth, so that a misread grid counts too. */
export async function measureCoverage(
  styles: readonly string[],
  seeds: readonly number[],
): Promise<CoverageResult[]> {
  const results: CoverageResult[] = [];
  for (const style of styles) {
    for (const seed of seeds) {
      const [song] = await developmentSongs([seed], [style]);
      const reference = await sideOf(song!.file);
      const { truth } = song!;
      const same = sameBars(styleSong(style, seed));
      const ends = [...truth.downbeats, truth.sections.at(-1)!.end];
      for (const made of await versionsOf(style, seed)) {
        const version = await sideOf(made.file);
        const begun = performance.now();
        const { alignment } = alignVersion(reference, version);
        const seconds = (performance.now() - begun) / 1000;
        const grids = {
          reference: gridOf(reference.analysis.grid, reference.analysis.durationSeconds),
          version: gridOf(version.analysis.grid, version.analysis.durationSeconds),
        };
        const own =
          alignment && grids.version && grids.reference
            ? readAnew(grids.version, alignment.reading, grids.reference.beatsPerBar)
            : null;
        const found = merged(
          (alignment?.spans ?? []).map((span) => {
            const first = nearestBar(ends, barStart(grids.reference!, span.referenceFirst));
            const end = nearestBar(ends, barStart(grids.reference!, span.referenceFirst + span.bars));
            return {
              referenceFirst: first,
              versionFirst: nearestBar(made.truth.starts, barStart(own!, span.versionFirst)),
              bars: end - first,
            };
          }),
        );
        const wanted = merged(made.truth.spans);
        results.push({
          style,
          name: song!.name,
          case: made.case,
          right: isRight(found, wanted, same),
          semitonesRight: alignment?.semitones === null || alignment?.semitones === made.truth.semitones,
          found: words(found),
          wanted: words(wanted),
          seconds,
        });
      }
    }
  }
  return results;
}

/** Rows of a table: each case, how many songs, how many right. */
export const coverageRows = (results: readonly CoverageResult[]): (string | number)[][] =>
  versionCases.map((which) => {
    const own = results.filter((result) => result.case === which);
    const share = (part: number) => (own.length === 0 ? "–" : (part / own.length).toFixed(3));
    return [
      which,
      own.length,
      share(own.filter((r) => r.right).length),
      share(own.filter((r) => r.semitonesRight).length),
    ];
  });

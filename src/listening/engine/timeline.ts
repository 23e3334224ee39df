/**
 * Where each side is at each moment of the music. Musical time is counted in beats of the
 * reference from its bar 1; each side has stretches of it, with the seconds of its file.
 */
import { beatAt, secondsAt, type Grid } from "@/core/grid/grid";
import type { AlignedBars } from "@/core/study";
import type { Seconds } from "@/core/units";

/** Between its ends both beats and seconds pass evenly. */
export interface Segment {
  beat: number;
  beatEnd: number;
  seconds: Seconds;
  secondsEnd: Seconds;
}

/** Stretches of one side, by rising beat, without overlap. */
export type Timeline = readonly Segment[];

export type Side = "reference" | "version";
export const sides: readonly Side[] = ["reference", "version"];

/** A file that has no grid, or none to line it up with: one second is one beat. */
export const plainTimeline = (duration: Seconds): Timeline => [
  { beat: 0, beatEnd: duration, seconds: 0, secondsEnd: duration },
];

/** Stretches of a grid between two beats of it, moved to other beats. */
function segmentsOf(grid: Grid, from: number, to: number, moved: number): Segment[] {
  if (grid.steady) {
    return [
      {
        beat: from + moved,
        beatEnd: to + moved,
        seconds: secondsAt(grid, from),
        secondsEnd: secondsAt(grid, to),
      },
    ];
  }
  const edges = [from];
  for (let beat = Math.floor(from) + 1; beat < to; beat++) edges.push(beat);
  edges.push(to);
  return edges.slice(0, -1).map((beat, i) => ({
    beat: beat + moved,
    beatEnd: edges[i + 1]! + moved,
    seconds: secondsAt(grid, beat),
    secondsEnd: secondsAt(grid, edges[i + 1]!),
  }));
}

/** The whole file of a reference along its own grid. */
export const referenceTimeline = (grid: Grid, duration: Seconds): Timeline =>
  segmentsOf(grid, beatAt(grid, 0), beatAt(grid, duration), 0);

/** What of a version answers the reference, along the beats of the reference. */
export function versionTimeline({ reference, version, spans }: AlignedBars, duration: Seconds): Timeline {
  const { beatsPerBar } = reference;
  const end = beatAt(version, duration);
  const start = beatAt(version, 0);
  return [...spans]
    .sort((a, b) => a.referenceFirst - b.referenceFirst)
    .flatMap((span) => {
      const from = Math.max(start, (span.versionFirst - 1) * beatsPerBar);
      const to = Math.min(end, (span.versionFirst - 1 + span.bars) * beatsPerBar);
      const moved = (span.referenceFirst - span.versionFirst) * beatsPerBar;
      return to > from ? segmentsOf(version, from, to, moved) : [];
    });
}

/** The stretch that a beat lies in; null where the side has nothing there. */
export function segmentAt(timeline: Timeline, beat: number): Segment | null {
  let low = 0;
  let high = timeline.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (timeline[middle]!.beat <= beat) low = middle + 1;
    else high = middle;
  }
  const found = timeline[low - 1];
  return found && beat < found.beatEnd ? found : null;
}

/** The first stretch that begins at or after a beat. */
export const segmentAfter = (timeline: Timeline, beat: number): Segment | null =>
  timeline.find((stretch) => stretch.beat >= beat) ?? null;

export const secondsIn = (stretch: Segment, beat: number): Seconds =>
  stretch.seconds +
  ((beat - stretch.beat) / (stretch.beatEnd - stretch.beat)) * (stretch.secondsEnd - stretch.seconds);

export const beatIn = (stretch: Segment, seconds: Seconds): number =>
  stretch.beat +
  ((seconds - stretch.seconds) / (stretch.secondsEnd - stretch.seconds)) * (stretch.beatEnd - stretch.beat);

/** Seconds of the file that pass in a beat. */
export const secondsPerBeat = (stretch: Segment): Seconds =>
  (stretch.secondsEnd - stretch.seconds) / (stretch.beatEnd - stretch.beat);

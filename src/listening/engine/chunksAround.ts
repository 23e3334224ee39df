import type { Seconds } from "@/core/units";
import type { DeckSetup } from "./settings";
import { beatIn, secondsIn, segmentAfter, segmentAt } from "./timeline";

const { floor, max, min } = Math;

/** Which pieces of a side are wanted around a place in the music, the most urgent first. */
export function chunksAround(
  { sampleRate, frames, timeline }: DeckSetup,
  beat: number,
  seconds: Seconds,
  framesPerPiece: number,
): number[] {
  const at = segmentAt(timeline, beat);
  const stretch = at ?? segmentAfter(timeline, beat);
  if (!stretch) return [];
  const start = at ? secondsIn(at, beat) : stretch.seconds;
  const first = max(0, floor((start * sampleRate) / framesPerPiece));
  const last = min(
    floor((frames - 1) / framesPerPiece),
    floor(((start + seconds) * sampleRate) / framesPerPiece),
  );
  const wanted = Array.from({ length: max(0, last - first + 1) }, (_, i) => first + i);
  // Where play will jump to within that time, the place it jumps to.
  const end = stretch.beatEnd;
  const after = segmentAt(timeline, end) ?? segmentAfter(timeline, end);
  if (after && stretch.secondsEnd - start < seconds && beatIn(stretch, start) < end) {
    const jumpsTo = floor((after.seconds * sampleRate) / framesPerPiece);
    for (const piece of [jumpsTo, jumpsTo + 1]) {
      if (piece * framesPerPiece < frames && !wanted.includes(piece)) wanted.push(piece);
    }
  }
  return wanted;
}

/** What hears drums tells the grid: how probably each kind of stroke falls on each frame. */

/** Kinds of strokes that say where beats and bars lie: the kick, what plays the back-beat, hats, and notes of the bass. */
export const strokeKinds = ["kick", "back", "hats", "bass"] as const;

/** One curve 0–1 an entry of `strokeKinds`, on the frames of the onsets. */
export type StrokeCurves = readonly Float32Array[];

/** Less probable strokes are none: what is left of a voice that never sounds must not look like a rhythm. */
const leastProbable = 0.15;

/** The curves without what is too improbable; where nothing hears drums all are 0. */
export const clearStrokes = (strokes: StrokeCurves | null, frames: number): Float32Array[] =>
  strokeKinds.map((_, k) => {
    const clear = new Float32Array(frames);
    const own = strokes?.[k];
    for (let i = 0; own && i < Math.min(frames, own.length); i++)
      clear[i] = own[i]! > leastProbable ? own[i]! : 0;
    return clear;
  });

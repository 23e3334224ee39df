/** Stereo tracks as samples: what the bench adds up and levels. */
import type { StereoTrack } from "@/demo/render";

/** @param gains one a track; 1 where left out. */
export function sumOfTracks(tracks: readonly StereoTrack[], gains: readonly number[] = []): StereoTrack {
  const length = Math.max(...tracks.map((track) => track[0].length));
  const sum: StereoTrack = [new Float32Array(length), new Float32Array(length)];
  tracks.forEach((track, t) => {
    const gain = gains[t] ?? 1;
    track.forEach((samples, side) => samples.forEach((x, i) => (sum[side]![i]! += gain * x)));
  });
  return sum;
}

export const energyOf = (track: readonly Float32Array[]): number =>
  track.reduce((sum, samples) => samples.reduce((own, x) => own + x * x, sum), 0);

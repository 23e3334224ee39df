/** What is left of a track when its stems are taken from it, read from the listening copies. */
import { loadFft } from "@/core/dsp/fft";
import { partSpectrogram, type PartSpectrogram } from "@/core/lens";
import { restOfTrack, type StemRest } from "@/core/stems";
import type { Hertz, Seconds } from "@/core/units";
import { passageOf } from "../storage/passages";

export interface SumTask {
  track: { path: string; sampleRate: Hertz; durationSeconds: Seconds };
  stems: { path: string; sampleRate: Hertz; offsetSeconds: Seconds }[];
}

export interface StemsSummed {
  rest: PartSpectrogram;
  /** Of each stem, in order. */
  gainsDb: StemRest["gainsDb"];
}

export async function sumStems(
  { track, stems }: SumTask,
  onProgress: (done: number) => void,
): Promise<StemsSummed> {
  await loadFft();
  const rate = track.sampleRate;
  const { rest, gainsDb } = await restOfTrack(
    Math.round(track.durationSeconds * rate),
    rate,
    passageOf(track.path, rate, 0, rate),
    stems.map(({ path, sampleRate, offsetSeconds }) =>
      passageOf(path, sampleRate, Math.round(offsetSeconds * sampleRate), rate),
    ),
    onProgress,
  );
  return { rest: partSpectrogram(rest, rate), gainsDb };
}

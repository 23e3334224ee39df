/** Task of the computing threads: the typical hits of a file. */
import { loadFft } from "@/core/dsp/fft";
import type { DrumHit } from "@/core/drums/hits";
import { unpackFrames } from "@/core/formats/chunks";
import { measuredHits, type MeasuredHit } from "@/core/hits";
import { readFrames } from "../storage/listeningCopy";

/** Of longer files the beginning is enough to know their drums. */
const longestSeconds = 360;

export async function hits({
  path,
  sampleRate,
  struck,
  bassStarts,
  leftOut,
}: {
  path: string;
  sampleRate: number;
  struck: DrumHit[];
  bassStarts: number[];
  leftOut: number[];
}): Promise<MeasuredHit[]> {
  await loadFft();
  const channels = unpackFrames(await readFrames(path, 0, Math.ceil(longestSeconds * sampleRate)));
  const isInside = (time: number) => time < longestSeconds;
  return measuredHits(
    channels,
    sampleRate,
    struck.filter(({ time }) => isInside(time)),
    bassStarts.filter(isInside),
    new Set(leftOut),
  );
}

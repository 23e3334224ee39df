/** A file taken apart by the lens, passage by passage, in a process of its own. */
import { open, rename } from "node:fs/promises";
import { loadFft } from "@/core/dsp/fft";
import { bytesPerFrame, framesPerChunk, packFrames, unpackFrames } from "@/core/formats/chunks";
import {
  LensKeeper,
  lensParts,
  lift,
  ofLensParts,
  type HeardParts,
  type LensPart,
  type LiftedTrack,
} from "@/core/lens";
import { frameSizeFor } from "@/core/tone/fractionalOctaveSpectrogram";
import { readFrames } from "../storage/listeningCopy";

/** Longer files are taken apart in passages, each with a little of its neighbours. */
const passageSeconds = 240;
const contextSeconds = 2;

export interface LiftTask {
  /** The listening copy, and where the parts go. */
  path: string;
  outputs: Record<LensPart, string>;
  sampleRate: number;
  durationSeconds: number;
  heard: HeardParts;
}

/** @param onPassage called where a passage begins, with the share 0–1 of the file that is done. */
export async function liftTrack(task: LiftTask, onPassage: (done: number) => void): Promise<LiftedTrack> {
  await loadFft();
  const { path, outputs, sampleRate: rate, durationSeconds, heard } = task;
  const length = Math.round(durationSeconds * rate);
  const hop = frameSizeFor(rate);
  // Whole frames of the spectrograms, so that passages join.
  const passage =
    durationSeconds <= 1.25 * passageSeconds
      ? Math.max(1, length)
      : Math.floor((passageSeconds * rate) / hop) * hop;
  const context = contextSeconds * rate;
  const files = await Promise.all(lensParts.map((part) => open(`${outputs[part]}.part`, "w")));
  const keeper = new LensKeeper(rate, heard);
  try {
    for (let begin = 0; begin < length; begin += passage) {
      onPassage(begin / length);
      const from = Math.max(0, begin - context);
      const end = Math.min(length, begin + passage);
      const channels = unpackFrames(await readFrames(path, from, Math.min(length, end + context)));
      const offset = from / rate;
      const seconds = channels[0].length / rate;
      const inside = (time: number) => time >= offset && time < offset + seconds - 0.05;
      const lifted = lift(channels, rate, {
        hits: heard.hits
          .filter(({ time }) => inside(time))
          .map((hit) => ({ ...hit, time: hit.time - offset })),
        bassStarts: heard.bassStarts.filter(inside).map((time) => time - offset),
        bass: heard.bass
          .filter(({ start }) => inside(start))
          .map((note) => ({ ...note, start: note.start - offset, end: note.end - offset })),
      });
      const parts = ofLensParts((part) => {
        const { samples, freeDb } = lifted[part];
        const own = samples.map((channel) => channel.subarray(begin - from, end - from)) as [
          Float32Array,
          Float32Array,
        ];
        return { samples: own, freeDb };
      });
      for (const [i, part] of lensParts.entries()) {
        const { samples } = parts[part];
        for (let frame = 0; frame < samples[0].length; frame += 4 * framesPerChunk) {
          const packed = packFrames(samples, frame, Math.min(samples[0].length, frame + 4 * framesPerChunk));
          await files[i]!.write(packed, 0, packed.length, (begin + frame) * bytesPerFrame);
        }
      }
      keeper.add({ parts, begin: begin / rate, frames: end === length ? null : passage / hop });
    }
  } finally {
    await Promise.all(files.map((file) => file.close()));
  }
  for (const part of lensParts) await rename(`${outputs[part]}.part`, outputs[part]);
  return keeper.result(durationSeconds);
}

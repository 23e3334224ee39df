/** A file taken apart by the lens, passage by passage, in a process of its own. */
import { open, rename } from "node:fs/promises";
import { loadFft } from "@/core/dsp/fft";
import { bytesPerFrame, framesPerChunk, packFrames, unpackFrames } from "@/core/formats/chunks";
import {
  energyOf,
  lensParts,
  lift,
  partLevels,
  partSpectrogram,
  ofDrumParts,
  ofLensParts,
  strokeLength,
  strokeLevels,
  strokesIn,
  strokesOf,
  type Stroke,
  type HeardParts,
  type LensPart,
  type LiftedTrack,
} from "@/core/lens";
import { frameSizeFor } from "@/core/tone/fractionalOctaveSpectrogram";
import { twelfthCount } from "@/core/tone";
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
  const powers = ofLensParts(() => ({
    mid: [] as Float32Array[],
    side: [] as Float32Array[],
    cross: [] as Float32Array[],
  }));
  const levels = ofLensParts((): Float32Array[] => []);
  const strokes = ofDrumParts((): Stroke[] => []);
  const energies = ofLensParts(() => ({ part: 0, unsure: 0 }));
  let hopSeconds = hop / rate;
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
      for (const [i, part] of lensParts.entries()) {
        const { samples, freeDb } = lifted[part];
        const own = samples.map((channel) => channel.subarray(begin - from, end - from)) as [
          Float32Array,
          Float32Array,
        ];
        for (let frame = 0; frame < own[0].length; frame += 4 * framesPerChunk) {
          const packed = packFrames(own, frame, Math.min(own[0].length, frame + 4 * framesPerChunk));
          await files[i]!.write(packed, 0, packed.length, (begin + frame) * bytesPerFrame);
        }
        const spectrogram = partSpectrogram(own, rate);
        hopSeconds = spectrogram.hopSeconds;
        const kept = end === length ? spectrogram.frames : passage / hop;
        for (const name of ["mid", "side", "cross"] as const)
          powers[part][name].push(spectrogram[name].subarray(0, kept * twelfthCount));
        levels[part].push(partLevels(own, rate));
        if (part !== "bass" && part !== "music") {
          const times = strokesOf(heard, part).map(({ time }) => time - begin / rate);
          const inPassage = times.filter((time) => time >= 0 && time < (end - begin) / rate);
          for (const stroke of strokesIn(part, own, rate, inPassage))
            strokes[part].push({ ...stroke, time: stroke.time + begin / rate });
        }
        if (freeDb === null) continue;
        const energy = energyOf(own);
        energies[part].part += energy;
        energies[part].unsure += energy / 10 ** (freeDb / 10);
      }
    }
  } finally {
    await Promise.all(files.map((file) => file.close()));
  }
  for (const part of lensParts) await rename(`${outputs[part]}.part`, outputs[part]);
  const spectrogramOf = ({ mid, side, cross }: (typeof powers)[LensPart]) => {
    const joined = { mid: joinedFloats(mid), side: joinedFloats(side), cross: joinedFloats(cross) };
    return { hopSeconds, frames: joined.mid.length / twelfthCount, ...joined };
  };
  return {
    free: ofLensParts((part) => {
      const { part: energy, unsure } = energies[part];
      return energy > 0 ? 10 * Math.log10(energy / unsure) : null;
    }),
    levels: ofLensParts((part) => joinedFloats(levels[part])),
    spectrograms: ofLensParts((part) => spectrogramOf(powers[part])),
    strokeLengths: ofDrumParts((part) => strokeLength(strokes[part])),
    strokes: ofDrumParts((part) => strokeLevels(strokes[part])),
    durationSeconds,
  };
}

function joinedFloats(arrays: readonly Float32Array[]): Float32Array {
  const result = new Float32Array(arrays.reduce((sum, own) => sum + own.length, 0));
  let at = 0;
  for (const own of arrays) {
    result.set(own, at);
    at += own.length;
  }
  return result;
}

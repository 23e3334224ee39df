/**
 * Files to samples: streams a file through the decoder of its format. Decoders are other people's
 * programs reading other people's files, so this runs in a process of its own (`decodingProcess.ts`).
 */
import { open, type FileHandle } from "node:fs/promises";
import { downmix, layoutOf, silenceInvalidSamples, type Signal } from "@/core/audio/signal";
import { limits, tooShort } from "@/core/formats/limits";
import {
  plainWaveHeader,
  probe,
  type AudioFormat,
  type ProbedHeader,
  type ByteSource,
} from "@/core/formats/probe";
import { refuse, success, type Outcome, type Refusal } from "@/core/outcome";
import { decodeWithFfmpeg, ffmpegStream, hasFfmpeg, needsFfmpeg } from "./ffmpeg";

/** What is known of a file once it has been decoded. */
export interface DecodedInfo {
  format: AudioFormat;
  sampleRate: number;
  /** Of the file; more than two are folded down to stereo. */
  channels: number;
  frames: number;
  /** Plain sentences about what was missing, repaired or folded. */
  warnings: string[];
  /** Whether all that the file promises is there, and its header says how much that is where it can. */
  isWhole: boolean;
}

/** Takes decoded samples: one or two channels, a piece at a time, all at one rate. */
export interface FrameSink {
  /** Told once, before any samples, how many to expect where the file says so. */
  expect(frames: number | null): void;
  add(channels: readonly Float32Array[]): void;
}

/** The part that all streaming decoders of the packages share. */
interface StreamDecoder {
  decode(chunk: Uint8Array): { channelData: Float32Array[]; sampleRate: number };
  flush?(): { channelData: Float32Array[]; sampleRate: number };
  free(): void;
}

/** Small where few bytes may hold minutes of sound, so that progress is told from a hang. */
const chunkBytes = (format: AudioFormat) => (format === "wav" || format === "aiff" ? 1 << 18 : 1 << 14);

type PackageFormat = Exclude<AudioFormat, "m4a" | "aac">;

async function decoderFor(format: PackageFormat): Promise<StreamDecoder> {
  switch (format) {
    case "wav":
      return (await import("@audio/decode-wav")).decoder();
    case "aiff":
      return (await import("@audio/decode-aiff")).decoder();
    case "flac":
      return (await import("@audio/decode-flac")).decoder();
    case "mp3":
      return (await import("@audio/decode-mp3")).decoder();
    case "vorbis":
      return (await import("@audio/decode-vorbis")).decoder();
    case "opus":
      return (await import("@audio/decode-opus")).decoder();
  }
}

/** Checks and folds what a decoder gives, and hands it on. */
class Receiver {
  sampleRate = 0;
  channels = 0;
  frames = 0;
  replaced = 0;
  /** Where the file went on at another rate, and reading stopped. */
  changedAt: number | null = null;
  refusal: Refusal | null = null;

  constructor(
    private readonly sink: FrameSink,
    private readonly order: "wave" | "vorbis",
  ) {}

  /** @returns whether more is wanted. */
  add(planes: readonly Float32Array[], sampleRate: number): boolean {
    const added = planes[0]?.length ?? 0;
    if (added === 0) return true;
    if (this.frames === 0) {
      this.sampleRate = sampleRate;
      this.channels = planes.length;
      this.refusal = refusedShape(sampleRate, planes.length, null);
    } else if (sampleRate !== this.sampleRate || planes.length !== this.channels) {
      this.changedAt = this.frames / this.sampleRate;
      return false;
    }
    if (this.refusal) return false;
    this.replaced += silenceInvalidSamples(planes);
    this.sink.add(
      planes.length > 2
        ? downmix({
            sampleRate,
            channels: [...planes],
            layout: layoutOf(planes.length, this.order),
          })
        : planes,
    );
    this.frames += added;
    this.refusal = refusedShape(sampleRate, planes.length, this.frames);
    return this.refusal === null;
  }
}

async function throughPackage(
  file: FileHandle,
  size: number,
  header: ProbedHeader,
  receiver: Receiver,
  onProgress: (done: number) => void,
): Promise<void> {
  const decoder = await decoderFor(header.format as PackageFormat);
  let at = 0;
  let end = size;
  try {
    if (header.wave) {
      const { formatChunk, dataOffset, dataBytes } = header.wave;
      decoder.decode(plainWaveHeader(formatChunk, dataBytes));
      at = dataOffset;
      end = dataOffset + dataBytes;
    }
    if (header.audioEnd) end = header.audioEnd;
    const begin = at;
    const buffer = new Uint8Array(chunkBytes(header.format));
    while (at < end) {
      const { bytesRead } = await file.read(buffer, 0, Math.min(buffer.length, end - at), at);
      if (bytesRead === 0) break;
      at += bytesRead;
      const piece = decoder.decode(buffer.slice(0, bytesRead));
      onProgress((at - begin) / (end - begin));
      if (!receiver.add(piece.channelData, piece.sampleRate)) return;
    }
    const rest = decoder.flush?.();
    if (rest) receiver.add(rest.channelData, rest.sampleRate);
  } finally {
    decoder.free();
  }
}

async function throughFfmpeg(
  path: string,
  header: ProbedHeader,
  receiver: Receiver,
  onProgress: (done: number) => void,
): Promise<Outcome<null>> {
  if (!(await hasFfmpeg())) return needsFfmpeg();
  const stream = await ffmpegStream(path);
  if (!stream.ok) return stream;
  const { sample_rate: sampleRate, duration } = stream.value;
  if (duration !== undefined) header.frames = Math.round(duration * sampleRate);
  const outcome = await decodeWithFfmpeg(path, stream.value, (planes) => {
    const more = receiver.add(planes, sampleRate);
    onProgress(header.frames ? Math.min(1, receiver.frames / header.frames) : 0);
    return more;
  });
  if (!outcome.ok) return outcome;
  header.cutOff ||= outcome.value.failed;
  return success(null);
}

const seconds = (value: number) => `${value < 10 ? value.toFixed(1) : Math.round(value)} s`;
const clock = (value: number) =>
  `${Math.floor(value / 60)}:${String(Math.floor(value % 60)).padStart(2, "0")}`;

/** Bytes of the samples of a stereo file, 32-bit float. */
const decodedBytes = (frames: number) => frames * 2 * 4;

/** Why a file of this rate, number of channels and length is not taken; null where it is, so far. */
function refusedShape(sampleRate: number, channels: number, frames: number | null): Refusal | null {
  if (!(sampleRate >= limits.lowestSampleRate && sampleRate <= limits.highestSampleRate)) {
    return refuse(
      "unsupported-format",
      `This file has a sample rate of ${sampleRate} Hz; 8 to 192 kHz can be read.`,
      "Export it at 44.1 or 48 kHz.",
    ).refusal;
  }
  if (channels < 1 || channels > limits.mostChannels) {
    return refuse(
      "unsupported-format",
      `This file has ${channels} channels; 1 to ${limits.mostChannels} can be read.`,
      "Export it in stereo.",
    ).refusal;
  }
  if (frames === null) return null;
  if (frames / sampleRate > limits.longestSeconds) {
    return refuse(
      "too-long",
      `This file is longer than the limit of ${limits.longestSeconds / 60} minutes.`,
      "Export only the part you are studying.",
    ).refusal;
  }
  if (decodedBytes(frames) > limits.largestDecodedBytes) {
    return refuse(
      "too-large",
      `At ${sampleRate / 1000} kHz this file is too long to hold in memory (the limit is 1 GB decoded, about 11 minutes at 192 kHz).`,
      "Export it at 48 or 96 kHz.",
    ).refusal;
  }
  return null;
}

const damaged = (sentence: string) => refuse("damaged", sentence, "Export it once more.");

/**
 * Decodes a file into a sink. Reads what is whole of a damaged one and says what is lost.
 *
 * @param onProgress called with 0–1 as bytes are read, often enough to tell work from a hang.
 * @param shortestSeconds what is shorter is refused: a track that is, is none.
 */
export async function decodeInto(
  path: string,
  sink: FrameSink,
  onProgress: (done: number) => void = () => {},
  shortestSeconds: number = limits.shortestSeconds,
): Promise<Outcome<DecodedInfo>> {
  let file: FileHandle;
  try {
    file = await open(path, "r");
  } catch {
    return refuse("not-found", "There is no such file, or it may not be read.");
  }
  try {
    const { size } = await file.stat();
    if (size > limits.largestBytes) {
      return refuse("too-large", `This file is larger than ${limits.largestBytes / 1048576} MB.`);
    }
    const probed = await probe(byteSource(file, size));
    if (!probed.ok) return probed;
    const header = probed.value;
    if (header.frames === 0) return refuse("no-samples", "This file holds no samples.");
    if (header.sampleRate !== null) {
      const early = refusedShape(header.sampleRate, header.channels ?? 1, header.frames);
      if (early) return { ok: false, refusal: early };
      if (header.frames !== null && header.frames / header.sampleRate < shortestSeconds)
        return tooShort(header.frames / header.sampleRate, shortestSeconds);
    }
    sink.expect(header.frames);
    const { format } = header;
    const receiver = new Receiver(sink, format === "vorbis" || format === "opus" ? "vorbis" : "wave");
    try {
      if (format === "m4a" || format === "aac" || header.needsDecoder) {
        const outcome = await throughFfmpeg(path, header, receiver, onProgress);
        if (!outcome.ok) return outcome;
      } else await throughPackage(file, size, header, receiver, onProgress);
    } catch {
      // What was decoded before a damaged place is used; see the warning below.
      if (receiver.frames === 0) return damaged("This file is damaged: its sound could not be decoded.");
      header.cutOff = true;
    }
    return examined(receiver, header, shortestSeconds);
  } finally {
    await file.close();
  }
}

function examined(receiver: Receiver, header: ProbedHeader, shortestSeconds: number): Outcome<DecodedInfo> {
  const { frames, sampleRate, channels, replaced, changedAt, refusal } = receiver;
  if (refusal) return { ok: false, refusal };
  if (frames === 0) return damaged("This file is damaged: no sound could be read from it.");
  const length = frames / sampleRate;
  if (length < shortestSeconds) return tooShort(length, shortestSeconds);

  const warnings: string[] = [];
  let isWhole = !header.isOpenEnded;
  const promised = header.frames === null ? null : header.frames / (header.sampleRate ?? sampleRate);
  // MP3 and AAC headers count encoder padding too, which decoders rightly leave out.
  const slack = ["mp3", "m4a", "aac"].includes(header.format) ? 0.2 : 0.005;
  if (changedAt !== null || header.audioEnd) {
    warnings.push(
      `At ${clock(changedAt ?? length)} the file goes on in another format, as when two files were joined. Only the first part was used.`,
    );
  } else if (promised !== null && promised - length > slack) {
    isWhole = false;
    warnings.push(
      `${seconds(promised - length)} of ${clock(promised)} could not be read: the file is cut off or damaged. The rest was used.`,
    );
  } else if (header.cutOff) {
    isWhole = false;
    warnings.push(`The file is cut off at ${clock(length)}. What is there was used.`);
  }
  if (replaced > 0) {
    warnings.push(
      `${replaced} ${replaced === 1 ? "sample was" : "samples were"} not valid (not a number, or far beyond full scale) and set to 0.`,
    );
  }
  if (channels === 1) warnings.push("Mono: played and measured as the same signal on both sides.");
  if (channels > 2) warnings.push(`${channels} channels, folded down to stereo (ITU-R BS.775).`);
  return success({ format: header.format, sampleRate, channels, frames, warnings, isWhole });
}

/** Counts samples and keeps none. */
export const countingSink = (): FrameSink => ({ expect: () => {}, add: () => {} });

/** Keeps all samples. */
export function gatheringSink(): FrameSink & { channels(): Float32Array[] } {
  let expected = 0;
  let frames = 0;
  let kept: Float32Array[] = [];
  return {
    expect(count) {
      expected = count ?? 0;
    },
    add(planes) {
      const added = planes[0]!.length;
      if (kept.length === 0) {
        const room = Math.max(Math.min(expected, limits.largestDecodedBytes / 8), added);
        kept = planes.map(() => new Float32Array(room));
      }
      if (frames + added > kept[0]!.length) {
        const room = Math.ceil((frames + added) * 1.3);
        kept = kept.map((old) => {
          const grown = new Float32Array(room);
          grown.set(old.subarray(0, frames));
          return grown;
        });
      }
      kept.forEach((channel, c) => channel.set(planes[c]!, frames));
      frames += added;
    },
    channels: () => kept.map((channel) => channel.subarray(0, frames)),
  };
}

/** Decodes a file into memory: one or two channels. */
export async function decodeFile(
  path: string,
  onProgress?: (done: number) => void,
  shortestSeconds?: number,
): Promise<Outcome<{ info: DecodedInfo; signal: Signal }>> {
  const sink = gatheringSink();
  const info = await decodeInto(path, sink, onProgress, shortestSeconds);
  if (!info.ok) return info;
  const channels = sink.channels();
  return success({
    info: info.value,
    signal: { sampleRate: info.value.sampleRate, channels, layout: layoutOf(channels.length) },
  });
}

/** Random access to an open file. */
export function byteSource(file: FileHandle, size: number): ByteSource {
  return {
    size,
    async read(offset, length) {
      const bytes = new Uint8Array(Math.max(0, Math.min(length, size - offset)));
      const { bytesRead } = await file.read(bytes, 0, bytes.length, offset);
      return bytes.subarray(0, bytesRead);
    },
  };
}

/** Files to samples: streams a file through the decoder of its format. Runs in a worker. */
import { execFile, spawn } from "node:child_process";
import { open, type FileHandle } from "node:fs/promises";
import { promisify } from "node:util";
import { layoutOf, silenceInvalidSamples, type Signal } from "@/core/audio/signal";
import { limits } from "@/core/formats/limits";
import {
  plainWaveHeader,
  probe,
  type AudioFormat,
  type AudioPromise,
  type ByteSource,
} from "@/core/formats/probe";
import { refuse, success, type Outcome } from "@/core/outcome";

/** A decoded file, with what is worth saying about it. */
export interface DecodedFile {
  format: AudioFormat;
  signal: Signal;
  /** Plain sentences about what was missing or repaired. */
  warnings: string[];
}

/** The part that all streaming decoders of the packages share. */
interface StreamDecoder {
  decode(chunk: Uint8Array): { channelData: Float32Array[]; sampleRate: number };
  flush?(): { channelData: Float32Array[]; sampleRate: number };
  free(): void;
}

const chunkBytes = 1 << 20;

async function decoderFor(format: Exclude<AudioFormat, "m4a">): Promise<StreamDecoder> {
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

/** Gathers decoded pieces; knows how long the whole will be where the file promises it. */
class Gathering {
  sampleRate = 0;
  frames = 0;
  private channels: Float32Array[] = [];

  constructor(private readonly promised: number | null) {}

  add(channelData: Float32Array[], sampleRate: number): void {
    const added = channelData[0]?.length ?? 0;
    if (added === 0) return;
    this.sampleRate = sampleRate;
    if (this.channels.length === 0) {
      const room = Math.max(this.promised ?? 0, added);
      this.channels = channelData.map(() => new Float32Array(room));
    }
    if (this.frames + added > this.channels[0]!.length) {
      const room = Math.ceil((this.frames + added) * 1.3);
      this.channels = this.channels.map((old) => {
        const grown = new Float32Array(room);
        grown.set(old.subarray(0, this.frames));
        return grown;
      });
    }
    this.channels.forEach((channel, c) => channel.set(channelData[c] ?? channelData[0]!, this.frames));
    this.frames += added;
  }

  result(): Float32Array[] {
    return this.channels.map((channel) => channel.subarray(0, this.frames));
  }
}

const mostFrames = (sampleRate: number) => limits.longestSeconds * sampleRate;

async function throughPackage(
  file: FileHandle,
  size: number,
  promise: AudioPromise,
  onProgress?: (done: number) => void,
): Promise<Gathering> {
  const decoder = await decoderFor(promise.format as Exclude<AudioFormat, "m4a">);
  const gathering = new Gathering(promise.frames);
  let at = 0;
  let end = size;
  try {
    if (promise.wave) {
      const { formatChunk, dataOffset, dataBytes } = promise.wave;
      decoder.decode(plainWaveHeader(formatChunk, dataBytes));
      at = dataOffset;
      end = dataOffset + dataBytes;
    }
    const begin = at;
    const buffer = new Uint8Array(chunkBytes);
    while (at < end) {
      const { bytesRead } = await file.read(buffer, 0, Math.min(chunkBytes, end - at), at);
      if (bytesRead === 0) break;
      at += bytesRead;
      const piece = decoder.decode(buffer.slice(0, bytesRead));
      gathering.add(piece.channelData, piece.sampleRate);
      if (gathering.sampleRate && gathering.frames > mostFrames(gathering.sampleRate)) break;
      onProgress?.((at - begin) / (end - begin));
    }
    const rest = decoder.flush?.();
    if (rest) gathering.add(rest.channelData, rest.sampleRate);
  } finally {
    decoder.free();
  }
  return gathering;
}

const needsFfmpeg = () =>
  refuse(
    "needs-ffmpeg",
    "M4A and AAC files can be read only where the program ffmpeg is installed, and it is not here.",
    "Install ffmpeg, or save the file as WAV, FLAC or MP3.",
  );

/** Whether the program ffmpeg is installed on this machine. */
export async function hasFfmpeg(): Promise<boolean> {
  try {
    await promisify(execFile)("ffmpeg", ["-version"]);
    return true;
  } catch {
    return false;
  }
}

interface ProbedStream {
  sample_rate: string;
  channels: number;
  duration?: string;
}

async function throughFfmpeg(path: string, promise: AudioPromise): Promise<Outcome<Gathering>> {
  if (!(await hasFfmpeg())) return needsFfmpeg();
  const asked = await promisify(execFile)("ffprobe", [
    "-v",
    "error",
    "-select_streams",
    "a:0",
    "-show_entries",
    "stream=sample_rate,channels,duration",
    "-of",
    "json",
    path,
  ]).catch(() => null);
  const stream = asked ? (JSON.parse(asked.stdout) as { streams?: ProbedStream[] }).streams?.[0] : undefined;
  if (!stream) return refuse("not-audio", "This M4A file holds no sound that can be read.");
  const sampleRate = Number(stream.sample_rate);
  const channels = stream.channels;
  if (stream.duration) promise.frames = Math.round(Number(stream.duration) * sampleRate);
  const child = spawn("ffmpeg", ["-v", "error", "-i", path, "-map", "0:a:0", "-f", "f32le", "-"], {
    stdio: ["ignore", "pipe", "ignore"],
  });
  const gathering = new Gathering(null);
  let left = Buffer.alloc(0);
  for await (const chunk of child.stdout as AsyncIterable<Buffer>) {
    const bytes = left.length > 0 ? Buffer.concat([left, chunk]) : chunk;
    const frames = Math.floor(bytes.length / (4 * channels));
    const planes = Array.from({ length: channels }, () => new Float32Array(frames));
    for (let i = 0, at = 0; i < frames; i++) {
      for (let c = 0; c < channels; c++, at += 4) planes[c]![i] = bytes.readFloatLE(at);
    }
    gathering.add(planes, sampleRate);
    left = Buffer.from(bytes.subarray(frames * 4 * channels));
    if (gathering.frames > mostFrames(sampleRate)) {
      child.kill();
      break;
    }
  }
  return success(gathering);
}

const seconds = (value: number) => `${value < 10 ? value.toFixed(1) : Math.round(value)} s`;
const clock = (value: number) =>
  `${Math.floor(value / 60)}:${String(Math.floor(value % 60)).padStart(2, "0")}`;

function refuseLength(length: number): ReturnType<typeof refuse> | null {
  if (length < limits.shortestSeconds) {
    return refuse("too-short", `This file is only ${length.toFixed(2)} s long; at least 1 s is needed.`);
  }
  if (length > limits.longestSeconds) {
    return refuse(
      "too-long",
      `This file is longer than the limit of ${limits.longestSeconds / 60} minutes.`,
      "Bring the part that you study.",
    );
  }
  return null;
}

/**
 * Decodes a file. Reads what is whole of a damaged one and says what is lost.
 *
 * @param onProgress called with 0–1 while bytes are read.
 */
export async function decodeFile(
  path: string,
  onProgress?: (done: number) => void,
): Promise<Outcome<DecodedFile>> {
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
    const promise = probed.value;
    if (promise.frames === 0) return refuse("no-samples", "This file holds no samples.");
    if (promise.frames !== null && promise.sampleRate) {
      const early = refuseLength(promise.frames / promise.sampleRate);
      if (early) return early;
    }
    let gathering: Gathering;
    try {
      if (promise.format === "m4a") {
        const outcome = await throughFfmpeg(path, promise);
        if (!outcome.ok) return outcome;
        gathering = outcome.value;
      } else gathering = await throughPackage(file, size, promise, onProgress);
    } catch {
      return refuse(
        "damaged",
        "This file is damaged: its sound could not be decoded.",
        "Export it once more.",
      );
    }
    return examine(gathering, promise);
  } finally {
    await file.close();
  }
}

function examine(gathering: Gathering, promise: AudioPromise): Outcome<DecodedFile> {
  const channels = gathering.result();
  const { frames, sampleRate } = gathering;
  if (frames === 0 || channels.length === 0) {
    return refuse("damaged", "This file is damaged: no sound could be read from it.", "Export it once more.");
  }
  if (sampleRate < limits.lowestSampleRate || sampleRate > limits.highestSampleRate) {
    return refuse(
      "unsupported-format",
      `This file has a sample rate of ${sampleRate} Hz; 8 to 192 kHz can be read.`,
      "Export it at 44.1 or 48 kHz.",
    );
  }
  const length = frames / sampleRate;
  const refused = refuseLength(length);
  if (refused) return refused;

  const warnings: string[] = [];
  const promised = promise.frames === null ? null : promise.frames / sampleRate;
  // MP3 and AAC headers count encoder padding too, which decoders rightly leave out.
  const slack = promise.format === "mp3" || promise.format === "m4a" ? 0.2 : 0.005;
  if (promised !== null && promised - length > slack) {
    warnings.push(
      `${seconds(promised - length)} of ${clock(promised)} could not be read: the file is cut off or damaged. The rest was used.`,
    );
  } else if (promise.cutOff) {
    warnings.push(`The file is cut off at ${clock(length)}. What is there was used.`);
  }
  const replaced = silenceInvalidSamples(channels);
  if (replaced > 0) {
    warnings.push(`${replaced} samples were not numbers and were set to 0.`);
  }
  const order = promise.format === "vorbis" || promise.format === "opus" ? "vorbis" : "wave";
  return success({
    format: promise.format,
    signal: { sampleRate, channels, layout: layoutOf(channels.length, order) },
    warnings,
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

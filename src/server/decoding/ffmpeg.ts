/** The program ffmpeg, where it is installed, for formats that no package here decodes. */
import { execFile, spawn } from "node:child_process";
import { promisify } from "node:util";
import { z } from "zod";
import { limits } from "@/core/formats/limits";
import { refuse, success, type Outcome } from "@/core/outcome";

const call = promisify(execFile);
/** Looking at headers takes milliseconds. */
const probeMs = 5_000;

export const needsFfmpeg = () =>
  refuse(
    "needs-ffmpeg",
    "M4A and AAC files can be read only where the program ffmpeg is installed, and it is not here.",
    "Install ffmpeg, or save the file as WAV, FLAC or MP3.",
  );

/** Whether the program ffmpeg is installed on this machine. */
export async function hasFfmpeg(): Promise<boolean> {
  try {
    await call("ffmpeg", ["-version"], { timeout: probeMs, env: process.env });
    return true;
  } catch {
    return false;
  }
}

const streamSchema = z.object({
  sample_rate: z.coerce.number().int().min(1).max(1_000_000),
  channels: z.number().int().min(1).max(64),
  duration: z.coerce.number().min(0).max(1e7).optional(),
});

export type FfmpegStream = z.infer<typeof streamSchema>;

const noSound = () =>
  refuse("not-audio", "This file holds no sound that can be read.", "Save it as WAV, FLAC or MP3.");

// Only files on this disk: a playlist inside a container must not make the program fetch anything.
const localOnly = ["-protocol_whitelist", "file"] as const;

/** The first audio stream of a file. */
export async function ffmpegStream(path: string): Promise<Outcome<FfmpegStream>> {
  const asked = await call(
    "ffprobe",
    [
      "-v",
      "error",
      ...localOnly,
      "-select_streams",
      "a:0",
      "-show_entries",
      "stream=sample_rate,channels,duration",
      "-of",
      "json",
      path,
    ],
    { timeout: probeMs, killSignal: "SIGKILL", maxBuffer: 1 << 20, env: process.env },
  ).catch(() => null);
  if (!asked) return noSound();
  let answer: unknown;
  try {
    answer = JSON.parse(asked.stdout);
  } catch {
    return noSound();
  }
  const read = z.object({ streams: z.array(streamSchema).min(1) }).safeParse(answer);
  return read.success ? success(read.data.streams[0]!) : noSound();
}

/**
 * Decodes the first audio stream of a file.
 *
 * @param onFrames called with planar samples as they come.
 * @returns a refusal where the program gave nothing; whether it ended with an error otherwise.
 */
export async function decodeWithFfmpeg(
  path: string,
  { channels, sample_rate: sampleRate }: FfmpegStream,
  onFrames: (planes: Float32Array[]) => boolean,
): Promise<Outcome<{ failed: boolean }>> {
  const child = spawn(
    "ffmpeg",
    [
      "-v",
      "error",
      "-nostdin",
      ...localOnly,
      "-i",
      path,
      "-map",
      "0:a:0",
      // A little over the limit, so that a longer file is told from one of exactly that length.
      "-t",
      String(limits.longestSeconds + 1),
      "-f",
      "f32le",
      "-acodec",
      "pcm_f32le",
      "-ar",
      String(sampleRate),
      "-",
    ],
    { stdio: ["ignore", "pipe", "ignore"], env: process.env },
  );
  const ended = new Promise<number | null>((resolve) => {
    child.on("error", () => resolve(null));
    child.on("close", (code) => resolve(code));
  });
  let left = Buffer.alloc(0);
  let any = false;
  let stopped = false;
  for await (const chunk of child.stdout as AsyncIterable<Buffer>) {
    const bytes = left.length > 0 ? Buffer.concat([left, chunk]) : chunk;
    const frames = Math.floor(bytes.length / (4 * channels));
    const planes = Array.from({ length: channels }, () => new Float32Array(frames));
    for (let i = 0, at = 0; i < frames; i++) {
      for (let c = 0; c < channels; c++, at += 4) planes[c]![i] = bytes.readFloatLE(at);
    }
    any ||= frames > 0;
    left = Buffer.from(bytes.subarray(frames * 4 * channels));
    if (!onFrames(planes)) {
      stopped = true;
      child.kill("SIGKILL");
      break;
    }
  }
  const code = await ended;
  return any ? success({ failed: !stopped && code !== 0 }) : noSound();
}

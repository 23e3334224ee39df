/** What happens to music between the instruments and the file, at random: the same for everything that sounds. */
import { execFileSync } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { writeWav } from "@/core/formats/wav";
import { applyBiquad, designBiquad } from "@/core/dsp/biquad";
import type { Chance } from "@/demo/random";
import { renderRate, type StereoTrack } from "@/demo/render";

/** Plays faster or slower, pitch and all: times are to be divided by the ratio. */
export function resampled(track: StereoTrack, ratio: number): StereoTrack {
  return track.map((samples) => {
    const length = Math.floor((samples.length - 2) / ratio);
    const read = new Float32Array(length);
    for (let i = 0; i < length; i++) {
      const at = i * ratio;
      const k = Math.floor(at);
      read[i] = samples[k]! + (at - k) * (samples[k + 1]! - samples[k]!);
    }
    return read;
  }) as StereoTrack;
}

function filtered(track: StereoTrack, ...filters: ReturnType<typeof designBiquad>[]): void {
  for (const samples of track) for (const filter of filters) applyBiquad(filter, samples);
}

function scaleToPeak(track: StereoTrack, peak: number): void {
  let most = 1e-6;
  for (const samples of track) for (const x of samples) most = Math.max(most, Math.abs(x));
  for (const samples of track) for (let i = 0; i < samples.length; i++) samples[i]! *= peak / most;
}

/** A room: early reflections and a tail of combs, common practice (Schroeder 1962, from memory). */
function room(track: StereoTrack, c: Chance, wet: number): void {
  const seconds = c.between(0.3, 2.2);
  for (const samples of track) {
    const tail = new Float32Array(samples.length);
    for (let comb = 0; comb < 4; comb++) {
      const delay = Math.round(c.between(0.021, 0.047) * renderRate);
      const feedback = 10 ** ((-3 * delay) / renderRate / seconds);
      const line = new Float32Array(delay);
      let soft = 0;
      for (let i = 0, at = 0; i < samples.length; i++, at = at + 1 === delay ? 0 : at + 1) {
        const out = line[at]!;
        soft += 0.55 * (out - soft);
        line[at] = samples[i]! + feedback * soft;
        tail[i]! += 0.25 * out;
      }
    }
    for (let i = 0; i < samples.length; i++) samples[i]! += wet * tail[i]!;
  }
}

/** Lowers what goes over a threshold, quickly down and slowly up again. */
export function limit(track: StereoTrack, driveDb: number, releaseSeconds: number): void {
  scaleToPeak(track, 10 ** (driveDb / 20));
  const [left, right] = track;
  const release = Math.exp(-1 / (releaseSeconds * renderRate));
  let over = 1;
  for (let i = 0; i < left.length; i++) {
    over = Math.max(1, Math.abs(left[i]!), Math.abs(right[i]!), 1 + (over - 1) * release);
    left[i]! /= over;
    right[i]! /= over;
  }
}

/** What files are coded by: how they end, and what the encoder is told. */
const codecs = [
  ["mp3", ["-b:a", "128k"]],
  ["mp3", ["-b:a", "96k"]],
  ["opus", ["-b:a", "96k"]],
  ["opus", ["-b:a", "64k"]],
] as const;

/** Through a lossy codec and back. */
function code(track: StereoTrack, c: Chance): void {
  const [extension, options] = c.pick([...codecs]);
  const folder = mkdtempSync(path.join(tmpdir(), "coded-"));
  const [plain, coded] = ["in.wav", `out.${extension}`].map((name) => path.join(folder, name)) as [
    string,
    string,
  ];
  const run = (...own: string[]) => execFileSync("ffmpeg", ["-loglevel", "error", ...own]);
  try {
    writeFileSync(plain, writeWav(track, renderRate));
    run("-i", plain, ...options, coded);
    const raw = path.join(folder, "out.f32");
    run("-i", coded, "-ar", String(renderRate), "-ac", "2", "-f", "f32le", raw);
    const bytes = readFileSync(raw);
    const samples = new Float32Array(bytes.buffer, bytes.byteOffset, bytes.length / 4);
    track.forEach((own, side) => {
      for (let i = 0; i < own.length; i++) own[i] = samples[2 * i + side] ?? 0;
    });
  } finally {
    rmSync(folder, { recursive: true });
  }
}

/** Colour, saturation, room, coarse samples, limiting, a codec. */
export function treat(track: StereoTrack, c: Chance): void {
  if (c.next() < 0.6) {
    filtered(
      track,
      designBiquad("lowShelf", renderRate, c.between(80, 350), 0.7, c.between(-7, 7)),
      designBiquad("highShelf", renderRate, c.between(1800, 8000), 0.7, c.between(-9, 7)),
    );
  }
  if (c.next() < 0.3)
    filtered(track, designBiquad("peak", renderRate, c.between(200, 5000), 0.8, c.between(-8, 8)));
  if (c.next() < 0.2) room(track, c, c.between(0.1, 0.6));
  if (c.next() < 0.22) {
    const cut = designBiquad("lowPass", renderRate, c.between(5000, 12000), 0.707);
    filtered(track, cut, cut);
  }
  if (c.next() < 0.1) filtered(track, designBiquad("highPass", renderRate, c.between(60, 180), 0.707));
  if (c.next() < 0.3) {
    const drive = 10 ** (c.between(0, 14) / 20);
    scaleToPeak(track, 1);
    for (const samples of track)
      for (let i = 0; i < samples.length; i++) samples[i] = Math.tanh(drive * samples[i]!);
  }
  if (c.next() < 0.1) {
    scaleToPeak(track, 1);
    const steps = 2 ** c.whole(6, 10);
    const hold = c.whole(1, 4);
    for (const samples of track) {
      for (let i = 0; i < samples.length; i++)
        samples[i] = Math.round(samples[i - (i % hold)]! * steps) / steps;
    }
  }
  if (c.next() < 0.6) limit(track, c.between(0, 14), c.between(0.02, 0.3));
  else scaleToPeak(track, 0.9);
  if (c.next() < 0.15) {
    const hiss = 10 ** (c.between(-60, -38) / 20);
    for (const samples of track)
      for (let i = 0; i < samples.length; i++) samples[i]! += (2 * c.next() - 1) * hiss;
  }
  if (c.next() < 0.15) code(track, c);
}

/** Lowers a track whenever something is struck, as a compressor keyed by it would. */
export function duck(track: StereoTrack, times: readonly number[], depthDb: number, seconds: number): void {
  const gain = new Float32Array(track[0].length).fill(1);
  const floor = 10 ** (-depthDb / 20);
  for (const time of times) {
    const start = Math.max(0, Math.round(time * renderRate));
    for (let i = 0; i < seconds * renderRate && start + i < gain.length; i++) {
      const own = floor + (1 - floor) * (i / (seconds * renderRate));
      gain[start + i] = Math.min(gain[start + i]!, own);
    }
  }
  for (const samples of track) for (let i = 0; i < samples.length; i++) samples[i]! *= gain[i]!;
}

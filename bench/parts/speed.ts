/** Time and memory of an analysis. */
import { spawnSync } from "node:child_process";
import { existsSync } from "node:fs";
import { mkdir, rm, writeFile } from "node:fs/promises";
import path from "node:path";
import { writeWav } from "@/core/formats/wav";
import { decodeFile } from "@/server/decoding/decode";
import { developmentSongs } from "../songs";
import { table } from "../tables";
import type { PartOptions, Sections } from "./part";

/** Time and memory of a whole analysis are taken in a process of its own, which is fresh each time. */
async function speedTable(song: string): Promise<string> {
  const folder = path.join(process.cwd(), ".cache", "speed");
  await mkdir(folder, { recursive: true });
  const source = await decodeFile(song);
  if (!source.ok) throw new Error(source.refusal.sentence);
  const { sampleRate, channels } = source.value.signal;
  const frames = 240 * sampleRate;
  const long = channels.map((channel) => {
    const repeated = new Float32Array(frames);
    for (let i = 0; i < frames; i++) repeated[i] = channel[i % channel.length]!;
    return repeated;
  });
  const wav = path.join(folder, "four-minutes.wav");
  await writeFile(wav, writeWav(long, sampleRate));
  const files = [wav];
  for (const [extension, options] of [
    ["mp3", ["-b:a", "192k"]],
    ["flac", []],
    ["ogg", ["-c:a", "libvorbis"]],
    ["opus", ["-c:a", "libopus"]],
  ] as const) {
    const file = wav.replace(/wav$/, extension);
    const made = spawnSync("ffmpeg", ["-loglevel", "error", "-y", "-i", wav, ...options, file]);
    if (made.status === 0 && existsSync(file)) files.push(file);
  }
  const rows = files.map((file) => {
    const runs = Array.from({ length: 3 }, () => {
      const run = spawnSync("npx", ["tsx", "bench/speed.ts", file], { encoding: "utf8" });
      if (run.status !== 0) throw new Error(run.stderr);
      return JSON.parse(run.stdout) as {
        stages: Record<string, number>;
        total: number;
        cpu: number;
        megabytes: number;
      };
    });
    const run = runs.sort((a, b) => a.cpu - b.cpu)[1]!;
    return [
      path.extname(file).slice(1),
      ...["decode", "loudness", "tone", "onsets", "pitches", "tempo", "drums", "plan"].map((name) =>
        (run.stages[name] ?? 0).toFixed(2),
      ),
      run.total.toFixed(2),
      run.cpu.toFixed(2),
      (run.total / 4).toFixed(2),
      Math.round(run.megabytes),
    ];
  });
  await rm(folder, { recursive: true, force: true });
  return table(
    [
      "four minutes of stereo as",
      "decode s",
      "loudness s",
      "tone s",
      "onsets s",
      "pitches s",
      "tempo s",
      "drums s",
      "plan s",
      "total s",
      "processor s",
      "s per minute",
      "peak MB",
    ],
    rows,
  );
}

export async function speedSections({ styles, seeds }: PartOptions): Promise<Sections> {
  const [song] = await developmentSongs(seeds.slice(0, 1), styles.slice(0, 1));
  const speed = await speedTable(song!.file);
  return {
    Speed: `Whole analysis of one file in a fresh process, one core at work, median of three runs by processor time. Target: at most 14 s of processor time and 400 MB.

${speed}`,
  };
}

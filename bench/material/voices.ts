/**
 * Voices for the bench: leads that are sung on the chords of a song by festival, and speech by
 * espeak-ng, both programs of Debian. Where they are not installed the bench goes on without them.
 */
import { execFileSync } from "node:child_process";
import { existsSync } from "node:fs";
import { mkdir, writeFile } from "node:fs/promises";
import path from "node:path";
import { chordNotes, readChord } from "@/core/harmony/chords";
import { chance } from "@/demo/random";
import type { SongTruth } from "@/demo/truth";

const folder = path.join(process.cwd(), ".cache", "voices");

const words = "light road stone hand rain slow time gold wait home deep blue long night sea call".split(" ");
const speech = `The first train leaves before the bakery opens. Nobody on the platform talks much, but
everyone looks at the same clock. Seven minutes late is early by the standards of this line. A man with a
cello asks whether the seat is free. Put the small boxes on the left and keep the heavy ones near the door.
We tried it twice, with more water the second time, and it still tasted of copper.`;
const noteNames = ["C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B"];
/** The range that is sung in, as MIDI notes; this voice sounds an octave below what is written. */
const range = { low: 53, high: 72 } as const;
const octave = 12;
/** Beats of a phrase and the rest after it. */
const phraseBeats = 8;
const restBeats = 2;

/** Chord tones near the note before, one to two beats each, in phrases. */
function melody({ beats, chords, tempo }: SongTruth, seed: number): string[] {
  const c = chance(seed);
  const lines: string[] = [];
  let note = 60;
  for (let beat = 0; beat + 4 < beats.length;) {
    const inPhrase = beat % (phraseBeats + restBeats);
    const own = chords.find(({ start, end }) => beats[beat]! >= start - 0.01 && beats[beat]! < end - 0.01);
    const chord = own ? readChord(own.label) : null;
    if (!chord || inPhrase >= phraseBeats) {
      lines.push(`<REST BEATS="1.0"></REST>`);
      beat++;
      continue;
    }
    const length = Math.min(c.between(0, 1) < 0.6 ? 1 : 2, phraseBeats - inPhrase);
    const tones = chordNotes(chord).flatMap((pitch) =>
      [36, 48, 60, 72].map((base) => base + pitch).filter((own) => own >= range.low && own <= range.high),
    );
    const near = tones.sort((a, b) => Math.abs(a - note) - Math.abs(b - note));
    note = near[Math.min(near.length - 1, Math.floor(c.between(0, 3)))]!;
    const written = note + octave;
    const name = `${noteNames[written % 12]}${Math.floor(written / 12) - 1}`;
    const word = words[Math.floor(c.between(0, words.length - 0.01))]!;
    lines.push(`<PITCH NOTE="${name}"><DURATION BEATS="${length}.0">${word}</DURATION></PITCH>`);
    beat += length;
  }
  return [
    `<?xml version="1.0"?>`,
    `<!DOCTYPE SINGING PUBLIC "-//SINGING//DTD SINGING mark up//EN" "Singing.v0_1.dtd" []>`,
    `<SINGING BPM="${tempo.bpm}">`,
    ...lines,
    `</SINGING>`,
  ];
}

/** A voice alone as a file made once: sung on the beats of a steady song, or speech; null where it cannot be made. */
export async function voiceFile(
  kind: "sung" | "spoken",
  name: string,
  truth: SongTruth,
  seed: number,
): Promise<string | null> {
  await mkdir(folder, { recursive: true });
  const file = path.join(folder, `${name}-${kind}.wav`);
  if (existsSync(file)) return file;
  try {
    if (kind === "spoken") {
      const text = Array.from({ length: 6 }, () => speech).join(" ");
      execFileSync("espeak-ng", ["-v", "en", "-s", "155", "-w", file, text], { stdio: "ignore" });
    } else {
      const score = path.join(folder, `${name}.xml`);
      await writeFile(score, melody(truth, seed).join("\n"));
      execFileSync("text2wave", ["-mode", "singing", score, "-o", file], { stdio: "ignore" });
    }
    return file;
  } catch {
    console.log(`No ${kind} voice can be made here; going on without it.`);
    return null;
  }
}

/** Puts a voice over a track, compressed and in a small room, so much louder than the track as RMS says. */
export function voiceOver(track: string, voice: string, startSeconds: number, decibels: number): string {
  const from = path.basename(path.dirname(track));
  const out = path.join(folder, `${from}-${path.parse(track).name}+${path.parse(voice).name}.wav`);
  if (existsSync(out)) return out;
  const gain = levelOf(track) - levelOf(voice) + decibels;
  const room =
    "highpass=f=120,acompressor=threshold=0.1:ratio=3:attack=5:release=80,aecho=0.9:0.6:23|47|89:0.25|0.18|0.1";
  const ms = Math.round(1000 * startSeconds);
  execFileSync("ffmpeg", [
    ...["-loglevel", "error", "-y", "-i", track, "-i", voice, "-filter_complex"],
    `[1]aresample=44100,adelay=${ms},${room},volume=${gain.toFixed(2)}dB,pan=stereo|c0=c0|c1=c0[v];[0]aresample=44100[m];[m][v]amix=inputs=2:duration=first:normalize=0`,
    ...["-c:a", "pcm_f32le", out],
  ]);
  return out;
}

/** Mean level of what sounds, dBFS. */
function levelOf(file: string): number {
  const stats = execFileSync(
    "sh",
    [
      "-c",
      'ffmpeg -hide_banner -i "$0" -af "silenceremove=stop_periods=-1:stop_threshold=-45dB:stop_duration=0.1,volumedetect" -f null - 2>&1',
      file,
    ],
    { encoding: "utf8" },
  );
  const found = /mean_volume: (-?[\d.]+) dB/.exec(stats);
  if (!found) throw new Error(`no level of ${file}`);
  return Number(found[1]);
}

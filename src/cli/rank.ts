/**
 * `npm run --silent rank -- TARGET --voice kick CANDIDATE… --json OUT.json`: ranks one-shots by how close
 * they come to a drum. A target of some seconds is a one-shot itself, a longer one a track, whose typical
 * hit of the voice is taken.
 */
import path from "node:path";
import { analyse } from "@/core/analysis/analyse";
import { downmix, type Signal } from "@/core/audio/signal";
import { loadFft } from "@/core/dsp/fft";
import { limits } from "@/core/formats/limits";
import { drumVoices, drumVoiceSchema, type DrumVoice } from "@/core/drums/voices";
import { asHits } from "@/core/drums/hits";
import { measuredHits, oneShot, rankCandidates, type OneShot } from "@/core/hits";
import { decodeFile } from "@/server/decoding/decode";
import type { Seconds } from "@/core/units";
import { rankOutput } from "./rankOutput";
import { deliver, giveUp, readWords, sentenceFor, type Command } from "./terminal";

const usage = `rank TARGET --voice ${drumVoices.join("|")} CANDIDATE… [--json OUT.json]`;
/** Longer files are tracks. */
const longestOneShot: Seconds = 5;

async function decoded(file: string): Promise<Signal> {
  const read = await decodeFile(file, undefined, limits.shortestSoundSeconds);
  return read.ok ? read.value.signal : giveUp(sentenceFor(file, read.refusal));
}

const shotIn = (file: string, signal: Signal, voice: DrumVoice): OneShot =>
  oneShot(downmix(signal), signal.sampleRate, voice) ?? giveUp(`${file}: Nothing sounds in this file.`);

async function targetShot(target: string, voice: DrumVoice): Promise<OneShot> {
  const signal = await decoded(target);
  const { sampleRate } = signal;
  if (signal.channels[0]!.length < longestOneShot * sampleRate) return shotIn(target, signal, voice);
  const { analysis } = await analyse(signal);
  const own = measuredHits(downmix(signal), sampleRate, asHits(analysis.drums), analysis.drums.bassNotes)
    .filter(({ hit }) => hit.voice === voice)
    .sort((a, b) => b.hit.count - a.hit.count)[0];
  if (!own) return giveUp(`${target}: No ${voice} is struck often enough to know its sound.`);
  return { samples: own.hit.samples, rate: sampleRate, measures: own.measures };
}

export const rank: Command = async (words, terminal) => {
  const { values, positionals } = readWords(
    words,
    { json: { type: "string" }, voice: { type: "string" } },
    usage,
  );
  const parsed = drumVoiceSchema.safeParse(values.voice);
  const [target, ...candidates] = positionals;
  if (!parsed.success || target === undefined || candidates.length === 0) return giveUp(`Usage: ${usage}`);
  const voice = parsed.data;
  await loadFft();
  const shot = await targetShot(target, voice);
  const offered: { file: string; shot: OneShot }[] = [];
  for (const file of candidates)
    offered.push({ file: path.basename(file), shot: shotIn(file, await decoded(file), voice) });
  await deliver(rankOutput(voice, rankCandidates(shot, voice, offered)), values.json, terminal);
};

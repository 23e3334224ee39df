/**
 * `npm run --silent rank -- TARGET --voice kick CANDIDATE… --json OUT.json`: ranks one-shots by how close
 * they come to a drum. A target of some seconds is a one-shot itself, a longer one a track, whose typical
 * hit of the voice is taken.
 */
import path from "node:path";
import { parseArgs } from "node:util";
import { analyse } from "@/core/analysis/analyse";
import { downmix } from "@/core/audio/signal";
import { loadFft } from "@/core/dsp/fft";
import { limits } from "@/core/formats/limits";
import { drumVoices, drumVoiceSchema, type DrumVoice } from "@/core/drums/voices";
import { asHits } from "@/core/drums/hits";
import { measuredHits, oneShot, rankCandidates, type OneShot } from "@/core/hits";
import { decodeFile } from "@/server/decoding/decode";
import { deliver, giveUp, sentenceFor } from "./options";
import { rankOutput } from "./rankOutput";

const usage = `Usage: rank TARGET --voice ${drumVoices.join("|")} CANDIDATE… [--json OUT.json]`;
/** Longer files are tracks. */
const longestOneShot = 5;

function readArguments(): {
  target: string;
  candidates: string[];
  voice: DrumVoice;
  json: string | undefined;
} {
  try {
    const { values, positionals } = parseArgs({
      allowPositionals: true,
      options: { json: { type: "string" }, voice: { type: "string" } },
    });
    const voice = drumVoiceSchema.safeParse(values.voice);
    const [target, ...candidates] = positionals;
    if (voice.success && target !== undefined && candidates.length > 0)
      return { target, candidates, voice: voice.data, json: values.json };
  } catch {
    // Unknown options get the same answer as missing files.
  }
  return giveUp(usage);
}

const { target, candidates, voice, json } = readArguments();
await loadFft();

async function decoded(file: string) {
  const read = await decodeFile(file, undefined, limits.shortestSoundSeconds);
  return read.ok ? read.value.signal : giveUp(sentenceFor(file, read.refusal));
}

async function shotOf(file: string): Promise<OneShot> {
  const signal = await decoded(file);
  return (
    oneShot(downmix(signal), signal.sampleRate, voice) ?? giveUp(`${file}: Nothing sounds in this file.`)
  );
}

async function targetShot(): Promise<OneShot> {
  const signal = await decoded(target);
  const { sampleRate } = signal;
  const channels = downmix(signal);
  if (channels[0].length < longestOneShot * sampleRate)
    return oneShot(channels, sampleRate, voice) ?? giveUp(`${target}: Nothing sounds in this file.`);
  const { analysis } = await analyse(signal);
  const own = measuredHits(channels, sampleRate, asHits(analysis.drums), analysis.drums.bassNotes)
    .filter(({ hit }) => hit.voice === voice)
    .sort((a, b) => b.hit.count - a.hit.count)[0];
  if (!own) return giveUp(`${target}: No ${voice} is struck often enough to know its sound.`);
  return { samples: own.hit.samples, rate: sampleRate, measures: own.measures };
}

const shot = await targetShot();
const offered: { file: string; shot: OneShot }[] = [];
for (const file of candidates) offered.push({ file: path.basename(file), shot: await shotOf(file) });
await deliver(rankOutput(voice, rankCandidates(shot, voice, offered)), json);

/**
 * `npm run --silent compare -- REFERENCE VERSION [--tempo BPM] [--semitones N] --json OUT.json`:
 * compares two files without a server. Tempo and semitones are intended differences.
 */
import { loadFft } from "@/core/dsp/fft";
import { downmix } from "@/core/audio/signal";
import { fastestTyped, slowestTyped } from "@/core/grid/correction";
import { heardIn, keptOf, lift } from "@/core/lens";
import type { IntendedChanges } from "@/core/match";
import { analysedFile, type AnalysedFile } from "./analysedFile";
import { compareOutput, type LiftedSide } from "./compareOutput";
import { deliver, giveUp, readWords, type Command } from "./terminal";

const usage = "compare REFERENCE VERSION [--tempo BPM] [--semitones N] [--json OUT.json]";

/** A track with what the lens lifts out of it. */
function lifted(side: AnalysedFile): LiftedSide {
  const { analysis, signal } = side;
  const heard = heardIn(analysis);
  const parts = lift(downmix(signal), signal.sampleRate, heard);
  return { ...side, lifted: keptOf(parts, signal.sampleRate, heard) };
}

/** The intended differences; null where they are no numbers that make sense. */
function intendedFrom(tempo: string | undefined, semitones: string | undefined): IntendedChanges | null {
  const bpm = tempo === undefined ? null : Number(tempo);
  const shift = semitones === undefined ? 0 : Number(semitones);
  const fits = (bpm === null || (bpm >= slowestTyped && bpm <= fastestTyped)) && Number.isInteger(shift);
  return fits ? { bpm, semitones: shift } : null;
}

export const compare: Command = async (words, terminal) => {
  const { values, positionals } = readWords(
    words,
    { json: { type: "string" }, tempo: { type: "string" }, semitones: { type: "string" } },
    usage,
  );
  const [referenceFile, versionFile] = positionals;
  const intended = intendedFrom(values.tempo, values.semitones);
  if (referenceFile === undefined || versionFile === undefined || positionals.length > 2 || !intended)
    return giveUp(`Usage: ${usage}`);
  const reference = await analysedFile(referenceFile, terminal);
  const version = await analysedFile(versionFile, terminal);
  await loadFft();
  await deliver(compareOutput(lifted(reference), lifted(version), intended), values.json, terminal);
};

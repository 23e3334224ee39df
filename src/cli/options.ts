/** What both commands share: their arguments and how they end. */
import { writeFile } from "node:fs/promises";
import { parseArgs } from "node:util";
import { analyse } from "@/core/analysis/analyse";
import type { Signal } from "@/core/audio/signal";
import { fastestTyped, slowestTyped } from "@/core/grid/correction";
import type { IntendedChanges } from "@/core/match";
import { sentenceOf, success, type Outcome, type Refusal } from "@/core/outcome";
import type { AlignmentSide } from "@/core/study";
import { decodeFile } from "@/server/decoding/decode";

/** Status of a run whose file could not be read or whose arguments are wrong. */
const refusedStatus = 2;

/** Prints one plain sentence and ends. */
export function giveUp(sentence: string): never {
  process.stderr.write(`${sentence}\n`);
  process.exit(refusedStatus);
}

/** Intended differences among a command's options, as they were typed. */
interface IntendedOptions {
  tempo?: string;
  semitones?: string;
}

/** Positional files, the `--json` target and intended differences; ends with the usage where they do not fit. */
export function readOptions(
  fileCount: number,
  usage: string,
): { files: string[]; json: string | undefined; intended: IntendedOptions } {
  try {
    const { values, positionals } = parseArgs({
      allowPositionals: true,
      options: {
        json: { type: "string" },
        // Only two files can differ on purpose.
        ...(fileCount === 2 ? ({ tempo: { type: "string" }, semitones: { type: "string" } } as const) : {}),
      },
    });
    const { json, ...intended } = values as { json?: string } & IntendedOptions;
    if (positionals.length === fileCount) return { files: positionals, json, intended };
  } catch {
    // Unknown options get the same answer as missing files.
  }
  return giveUp(`Usage: ${usage}`);
}

/** The intended differences; ends with the usage where they are no numbers that make sense. */
export function intendedFrom({ tempo, semitones }: IntendedOptions, usage: string): IntendedChanges {
  const bpm = tempo === undefined ? null : Number(tempo);
  const shift = semitones === undefined ? 0 : Number(semitones);
  const fits = (bpm === null || (bpm >= slowestTyped && bpm <= fastestTyped)) && Number.isInteger(shift);
  return fits ? { bpm, semitones: shift } : giveUp(`Usage: ${usage}`);
}

export type AnalysedFile = AlignmentSide & { signal: Signal };

/** Decodes and analyses a file; warnings go to standard error. */
export async function analyseForCommand(file: string): Promise<Outcome<AnalysedFile>> {
  const decoded = await decodeFile(file);
  if (!decoded.ok) return decoded;
  for (const warning of decoded.value.info.warnings) process.stderr.write(`${warning}\n`);
  const { analysis, curves } = await analyse(decoded.value.signal);
  return success({
    analysis: { ...analysis, channels: decoded.value.info.channels },
    curves,
    correction: {},
    signal: decoded.value.signal,
  });
}

export const sentenceFor = (file: string, refusal: Refusal): string => `${file}: ${sentenceOf(refusal)}`;

/** Writes the result to the file asked for, or prints it. */
export async function deliver(result: unknown, json: string | undefined): Promise<void> {
  const text = `${JSON.stringify(result, null, 2)}\n`;
  if (json === undefined) {
    process.stdout.write(text);
    return;
  }
  try {
    await writeFile(json, text);
  } catch {
    giveUp(`${json}: this file cannot be written.`);
  }
}

/** What both commands share: their arguments and how they end. */
import { writeFile } from "node:fs/promises";
import { parseArgs } from "node:util";
import { analyse } from "@/core/analysis/analyse";
import type { TrackAnalysis } from "@/core/analysis/result";
import { success, type Outcome, type Refusal } from "@/core/outcome";
import { decodeFile } from "@/server/decode";

/** Status of a run whose file could not be read or whose arguments are wrong. */
const refusedStatus = 2;

/** Prints one plain sentence and ends. */
export function giveUp(sentence: string): never {
  process.stderr.write(`${sentence}\n`);
  process.exit(refusedStatus);
}

/** Positional files and the `--json` target; ends with the usage where they do not fit. */
export function readOptions(fileCount: number, usage: string): { files: string[]; json: string | undefined } {
  try {
    const { values, positionals } = parseArgs({
      allowPositionals: true,
      options: { json: { type: "string" } },
    });
    if (positionals.length === fileCount) return { files: positionals, json: values.json };
  } catch {
    // Unknown options get the same answer as missing files.
  }
  return giveUp(`Usage: ${usage}`);
}

/** Decodes and analyses a file; warnings go to standard error. */
export async function analyseForCommand(file: string): Promise<Outcome<TrackAnalysis>> {
  const decoded = await decodeFile(file);
  if (!decoded.ok) return decoded;
  for (const warning of decoded.value.warnings) process.stderr.write(`${warning}\n`);
  return success((await analyse(decoded.value.signal)).analysis);
}

export const sentenceFor = (file: string, { sentence, remedy }: Refusal): string =>
  `${file}: ${remedy ? `${sentence} ${remedy}` : sentence}`;

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

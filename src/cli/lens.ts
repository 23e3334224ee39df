/**
 * `npm run --silent lens -- FILE --element kick --out OUT.wav`: writes what the lens lifts out of a mix;
 * with `--rest` everything but.
 */
import { access, constants, stat, writeFile } from "node:fs/promises";
import path from "node:path";
import { parseArgs } from "node:util";
import { downmix } from "@/core/audio/signal";
import { writeWav } from "@/core/formats/wav";
import { heardIn, lensParts, lift, type LensPart } from "@/core/lens";
import { analyseForCommand, giveUp, sentenceFor } from "./options";

/** What people call the parts, too. What is pitched above the bass is lifted out as one. */
const otherNames: Record<string, LensPart> = {
  clap: "snare",
  hat: "hats",
  "hi-hat": "hats",
  chords: "music",
  pads: "music",
  lead: "music",
  vocal: "music",
};
const usage = `Usage: lens FILE --element ${lensParts.join("|")} --out OUT.wav [--rest]`;

function readArguments(): { file: string; part: LensPart; out: string; rest: boolean } {
  try {
    const { values, positionals } = parseArgs({
      allowPositionals: true,
      options: {
        element: { type: "string" },
        out: { type: "string" },
        rest: { type: "boolean", default: false },
      },
    });
    const name = (values.element ?? "").toLowerCase();
    const part = lensParts.find((own) => own === name) ?? otherNames[name];
    const [file] = positionals;
    if (file !== undefined && positionals.length === 1 && part && values.out !== undefined)
      return { file, part, out: values.out, rest: values.rest };
  } catch {
    // Unknown options get the same answer as missing files.
  }
  return giveUp(usage);
}

const unwritable = (out: string): never => giveUp(`${out}: this file cannot be written.`);

/** Looked at first: what follows takes a while. */
async function isWritable(out: string): Promise<boolean> {
  const found = await stat(out).catch(() => null);
  try {
    await access(found ? out : path.dirname(out), constants.W_OK);
  } catch {
    return false;
  }
  return !found?.isDirectory();
}

const { file, part, out, rest } = readArguments();
if (!(await isWritable(out))) unwritable(out);
const read = await analyseForCommand(file);
if (!read.ok) giveUp(sentenceFor(file, read.refusal));
const { analysis, signal } = read.value;
const mix = downmix(signal);
const { samples, freeDb } = lift(mix, signal.sampleRate, heardIn(analysis))[part];
if (freeDb === null && !rest) process.stderr.write(`No ${part} was found in this file: it is silent.\n`);
const lifted = rest ? mix.map((whole, side) => whole.map((x, i) => x - samples[side as 0 | 1][i]!)) : samples;
try {
  await writeFile(out, writeWav(lifted, signal.sampleRate, "int24"));
} catch {
  unwritable(out);
}

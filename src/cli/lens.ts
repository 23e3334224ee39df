/**
 * `npm run --silent lens -- FILE --element kick --out OUT.wav`: writes what the lens lifts out of a mix;
 * with `--rest` everything but.
 */
import { access, constants, stat, writeFile } from "node:fs/promises";
import path from "node:path";
import { downmix } from "@/core/audio/signal";
import { writeWav } from "@/core/formats/wav";
import { heardIn, lensParts, lift, type LensPart } from "@/core/lens";
import { analysedFile } from "./analysedFile";
import { giveUp, readWords, unwritable, type Command } from "./terminal";

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
const usage = `lens FILE --element ${lensParts.join("|")} --out OUT.wav [--rest]`;

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

export const lens: Command = async (words, terminal) => {
  const { values, positionals } = readWords(
    words,
    { element: { type: "string" }, out: { type: "string" }, rest: { type: "boolean", default: false } },
    usage,
  );
  const { out, rest } = values;
  const name = (values.element ?? "").toLowerCase();
  const part = lensParts.find((own) => own === name) ?? otherNames[name];
  const [file] = positionals;
  if (file === undefined || positionals.length > 1 || !part || out === undefined)
    return giveUp(`Usage: ${usage}`);
  if (!(await isWritable(out))) return unwritable(out);
  const { analysis, signal } = await analysedFile(file, terminal);
  const mix = downmix(signal);
  const { samples, freeDb } = lift(mix, signal.sampleRate, heardIn(analysis))[part];
  if (freeDb === null && !rest) terminal.say(`No ${part} was found in this file: it is silent.`);
  const lifted = rest
    ? mix.map((whole, side) => whole.map((x, i) => x - samples[side as 0 | 1][i]!))
    : samples;
  await writeFile(out, writeWav(lifted, signal.sampleRate, "int24")).catch(() => unwritable(out));
};

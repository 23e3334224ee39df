/** Where commands write to, and how they end. */
import { writeFile } from "node:fs/promises";
import type { Writable } from "node:stream";
import { parseArgs, type ParseArgsConfig } from "node:util";
import { sentenceOf, type Refusal } from "@/core/outcome";

export interface Terminal {
  /** A line of the result. */
  print(line: string): void;
  /** A line about what is going on. */
  say(line: string): void;
  /** Where what is written to no file goes. */
  output: Writable;
}

/**
 * A command, with its words as they are typed.
 *
 * @throws GivenUp where it cannot do what is asked for.
 */
export type Command = (words: readonly string[], terminal: Terminal) => Promise<void>;

/** Ends a command with one plain sentence. */
export class GivenUp extends Error {}
export function giveUp(sentence: string): never {
  throw new GivenUp(sentence);
}

export const sentenceFor = (file: string, refusal: Refusal): string => `${file}: ${sentenceOf(refusal)}`;
export const unwritable = (file: string): never => giveUp(`${file}: this file cannot be written.`);

/** Options and files among what was typed; gives up with the usage where an option is unknown. */
export function readWords<Options extends NonNullable<ParseArgsConfig["options"]>>(
  words: readonly string[],
  options: Options,
  usage: string,
) {
  try {
    return parseArgs({ args: [...words], allowPositionals: true, options });
  } catch {
    return giveUp(`Usage: ${usage}`);
  }
}

/** Writes a result to the file asked for, or prints it. */
export async function deliver(
  result: unknown,
  json: string | undefined,
  { print }: Pick<Terminal, "print">,
): Promise<void> {
  const text = JSON.stringify(result, null, 2);
  if (json === undefined) print(text);
  else await writeFile(json, `${text}\n`).catch(() => unwritable(json));
}

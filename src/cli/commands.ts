/** The commands by name. */
import { GivenUp, type Command, type Terminal } from "./terminal";

/** Each is loaded when it is asked for: a server's routes are not needed to read a file. */
const commands = {
  analyze: async () => (await import("./analyze")).analyze,
  compare: async () => (await import("./compare")).compare,
  rank: async () => (await import("./rank")).rank,
  lens: async () => (await import("./lens")).lens,
  study: async () => (await import("./study")).study((await import("./studyServer")).caller),
} satisfies Record<string, () => Promise<Command>>;

export type CommandName = keyof typeof commands;

/** Status of a run that could not do what it was asked for. */
const givenUpStatus = 2;

/**
 * Runs a command and says in one sentence why it gives up, if it does.
 *
 * @returns the status that its process ends with.
 */
export async function runCommand(
  name: CommandName,
  words: readonly string[],
  terminal: Terminal,
): Promise<number> {
  const command = await commands[name]();
  try {
    await command(words, terminal);
    return 0;
  } catch (error) {
    if (!(error instanceof GivenUp)) throw error;
    terminal.say(error.message);
    return givenUpStatus;
  }
}

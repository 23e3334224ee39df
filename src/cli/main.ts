/** The program behind the commands: its first word says which of them is run. */
import { runCommand, type CommandName } from "./commands";

// Whoever reads the first lines only is done with the rest.
process.stdout.on("error", () => process.exit(0));

const [name, ...words] = process.argv.slice(2);
const status = await runCommand(name as CommandName, words, {
  print: (line) => process.stdout.write(`${line}\n`),
  say: (line) => process.stderr.write(`${line}\n`),
  output: process.stdout,
});
// Whatever was begun before it gave up ends with it.
if (status !== 0) process.exit(status);

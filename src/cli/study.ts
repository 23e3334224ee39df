/**
 * `npm run --silent study -- …`: what the pages do, for scripts. Talks to the server that is running,
 * or works on the data folder itself where none is.
 */
import { giveUp } from "./options";
import { GivenUp, runStudyCommand } from "./studyCommands";
import { caller } from "./studyServer";

// Whoever reads the first lines only is done with the rest.
process.stdout.on("error", () => process.exit(0));

try {
  await runStudyCommand(process.argv.slice(2), {
    print: (line) => process.stdout.write(`${line}\n`),
    say: (line) => process.stderr.write(`${line}\n`),
    output: process.stdout,
    connect: caller,
  });
} catch (error) {
  if (!(error instanceof GivenUp)) throw error;
  giveUp(error.message);
}

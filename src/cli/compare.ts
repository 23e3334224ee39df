/** `npm run --silent compare -- REFERENCE VERSION --json OUT.json`: compares two files without a server. */
import { analyseForCommand, deliver, giveUp, readOptions, sentenceFor } from "./options";
import { compareOutput } from "./output";

const {
  files: [referenceFile = "", versionFile = ""],
  json,
} = readOptions(2, "compare REFERENCE VERSION [--json OUT.json]");
const reference = await analyseForCommand(referenceFile);
if (!reference.ok) giveUp(sentenceFor(referenceFile, reference.refusal));
else {
  const version = await analyseForCommand(versionFile);
  if (!version.ok) giveUp(sentenceFor(versionFile, version.refusal));
  else await deliver(compareOutput(reference.value, version.value), json);
}

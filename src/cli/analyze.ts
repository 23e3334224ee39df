/** `npm run --silent analyze -- FILE --json OUT.json`: analyses one file without a server. */
import { analyseForCommand, deliver, giveUp, readOptions, sentenceFor } from "./options";
import { analyzeOutput } from "./output";

const {
  files: [file = ""],
  json,
} = readOptions(1, "analyze FILE [--json OUT.json]");
const analysed = await analyseForCommand(file);
if (!analysed.ok) giveUp(sentenceFor(file, analysed.refusal));
else await deliver(analyzeOutput(analysed.value.analysis), json);

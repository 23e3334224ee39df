/** `npm run --silent analyze -- FILE --json OUT.json`: analyses one file without a server. */
import { asHits } from "@/core/drums/hits";
import { measuredHits } from "@/core/hits";
import { downmix } from "@/core/audio/signal";
import { analyseForCommand, deliver, giveUp, readOptions, sentenceFor } from "./options";
import { analyzeOutput } from "./analyzeOutput";

const {
  files: [file = ""],
  json,
} = readOptions(1, "analyze FILE [--json OUT.json]");
const analysed = await analyseForCommand(file);
if (!analysed.ok) giveUp(sentenceFor(file, analysed.refusal));
else {
  const { analysis, signal } = analysed.value;
  const hits = measuredHits(
    downmix(signal),
    signal.sampleRate,
    asHits(analysis.drums),
    analysis.drums.bassNotes,
  );
  await deliver(analyzeOutput(analysis, hits), json);
}

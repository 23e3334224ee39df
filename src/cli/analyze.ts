/** `npm run --silent analyze -- FILE --json OUT.json`: analyses one file without a server. */
import { asHits } from "@/core/drums/hits";
import { measuredHits } from "@/core/hits";
import { downmix } from "@/core/audio/signal";
import { analysedFile } from "./analysedFile";
import { analyzeOutput } from "./analyzeOutput";
import { deliver, giveUp, readWords, type Command } from "./terminal";

const usage = "analyze FILE [--json OUT.json]";

export const analyze: Command = async (words, terminal) => {
  const { values, positionals } = readWords(words, { json: { type: "string" } }, usage);
  const [file] = positionals;
  if (file === undefined || positionals.length > 1) return giveUp(`Usage: ${usage}`);
  const { analysis, signal } = await analysedFile(file, terminal);
  const hits = measuredHits(
    downmix(signal),
    signal.sampleRate,
    asHits(analysis.drums),
    analysis.drums.bassNotes,
  );
  await deliver(analyzeOutput(analysis, hits), values.json, terminal);
};

/**
 * `npm run --silent compare -- REFERENCE VERSION [--tempo BPM] [--semitones N] --json OUT.json`:
 * compares two files without a server. Tempo and semitones are intended differences.
 */
import { loadFft } from "@/core/dsp/fft";
import { analyseForCommand, deliver, giveUp, intendedFrom, readOptions, sentenceFor } from "./options";
import { compareOutput } from "./compareOutput";

const usage = "compare REFERENCE VERSION [--tempo BPM] [--semitones N] [--json OUT.json]";
const {
  files: [referenceFile = "", versionFile = ""],
  json,
  intended: typed,
} = readOptions(2, usage);
const intended = intendedFrom(typed, usage);
const reference = await analyseForCommand(referenceFile);
if (!reference.ok) giveUp(sentenceFor(referenceFile, reference.refusal));
else {
  const version = await analyseForCommand(versionFile);
  if (!version.ok) giveUp(sentenceFor(versionFile, version.refusal));
  else {
    await loadFft();
    await deliver(compareOutput(reference.value, version.value, intended), json);
  }
}

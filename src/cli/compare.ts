/**
 * `npm run --silent compare -- REFERENCE VERSION [--tempo BPM] [--semitones N] --json OUT.json`:
 * compares two files without a server. Tempo and semitones are intended differences.
 */
import { loadFft } from "@/core/dsp/fft";
import { downmix } from "@/core/audio/signal";
import { heardIn, keptOf, lift } from "@/core/lens";
import {
  analyseForCommand,
  deliver,
  giveUp,
  intendedFrom,
  readOptions,
  sentenceFor,
  type AnalysedFile,
} from "./options";
import { compareOutput, type LiftedSide } from "./compareOutput";

/** A track with what the lens lifts out of it. */
function lifted(side: AnalysedFile): LiftedSide {
  const { analysis, signal } = side;
  const heard = heardIn(analysis);
  const parts = lift(downmix(signal), signal.sampleRate, heard);
  return { ...side, lifted: keptOf(parts, signal.sampleRate, heard) };
}

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
    await deliver(compareOutput(lifted(reference.value), lifted(version.value), intended), json);
  }
}

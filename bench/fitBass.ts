/**
 * Fits how the pitch of a bass note is told, on own songs and on MIDI pieces by others of the fitting half:
 * `npm run fit:bass`.
 */
import { parseArgs } from "node:util";
import { analyse } from "@/core/analysis/analyse";
import { downmix } from "@/core/audio/signal";
import { countedDrums } from "@/core/drums";
import { gridOf } from "@/core/grid/correction";
import { bassStretches } from "@/core/lowEnd/bassLine";
import { bassPitches, middleOf, pitchFeatures } from "@/core/lowEnd/bassPitch";
import { kickAndRest } from "@/core/lowEnd/estimateLowEnd";
import { seeded } from "@/core/testing/signals";
import { styles } from "@/demo/songs/styles";
import { fitAndWrite, printHeldOut, type Example } from "./logistic";
import { bassPieces } from "./material/bassPieces";

const { values } = parseArgs({
  options: {
    seed: { type: "string", default: "3" },
    /** Leaves out how the model does on pieces it was not fitted on. */
    quick: { type: "boolean", default: false },
  },
});

/** A note that begins this near to a true one is that one. */
const within = 0.05;
/** Notes of one piece, spread over it: they are much alike. */
const notesOfPiece = 60;

const examples: Example[] = [];
const random = seeded(1);

/**
 * What a kick leaves behind, or a kick that is taken away wrongly: a tone that dies away under every note, half
 * of them an octave below it. It must not be taken for the bass.
 */
function withToneBeneath(
  full: Float32Array,
  rate: number,
  notes: readonly { start: number; pitch: number | undefined }[],
): Float32Array {
  const out = Float32Array.from(full);
  const rms = Math.sqrt(full.reduce((sum, x) => sum + x * x, 0) / full.length);
  const kick = 42 + 20 * random();
  const falls = 0.06 + 0.12 * random();
  for (const { start, pitch } of notes) {
    const isOctave = pitch !== undefined && random() < 0.5;
    const level = rms * 10 ** (((isOctave ? -4 : 6) - 14 * random()) / 20);
    const hertz = isOctave ? 220 * 2 ** ((pitch - 69) / 12) : kick;
    const first = Math.round(start * rate);
    for (let i = 0; i < 0.4 * rate && first + i < out.length; i++)
      out[first + i]! += level * Math.exp(-i / rate / falls) * Math.sin((2 * Math.PI * hertz * i) / rate);
  }
  return out;
}
for await (const { source, name, signal, notes } of bassPieces(styles, Number(values.seed), "fit")) {
  const { analysis } = await analyse(signal);
  const grid = gridOf(analysis.grid, analysis.durationSeconds);
  const kicks = countedDrums(analysis.drums, {}, grid).hits.flatMap(({ voice, time }) =>
    voice === "kick" ? time : [],
  );
  const { rest } = kickAndRest(downmix(signal), signal.sampleRate, analysis.drums.bassNotes, kicks);
  // Those that are doubtful too.
  const starts = analysis.bass.map(({ start }) => start);
  const truthOf = (start: number) => notes.find(({ time }) => Math.abs(time - start) < within)?.pitch;
  const read = bassStretches(rest, starts, kicks);
  const middle = middleOf(read.map(({ reading }) => reading));
  const full = withToneBeneath(
    rest.full,
    rest.fullRate,
    read.map(({ start }) => ({ start, pitch: truthOf(start) })),
  );
  const beneath = new Map(
    bassStretches({ ...rest, full }, starts, kicks).map(({ start, reading }) => [start, reading]),
  );
  const every = Math.max(1, Math.floor(read.length / notesOfPiece));
  read
    .filter((_, i) => i % every === 0)
    .forEach(({ start, reading }, i) => {
      const right = bassPitches.indexOf(truthOf(start) ?? -1);
      // Every other note has a tone beneath it.
      const own = i % 2 === 0 ? reading : (beneath.get(start) ?? reading);
      if (right >= 0)
        examples.push({ source, group: name, name, candidates: pitchFeatures(own, middle), right });
    });
  console.log(`${source} ${name}: ${read.length} notes`);
}
const fitting = {
  examples,
  name: "bassPitchModel",
  file: "src/core/lowEnd/bassPitchModel.ts",
  command: "fit:bass",
  about: "`pitchFeatures`",
  penalty: 0.002,
  evenly: true,
  rounds: 700,
};
await fitAndWrite(fitting);
if (!values.quick) printHeldOut(fitting, 300);

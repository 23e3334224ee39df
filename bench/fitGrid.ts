/** Fits the two models of the grid: which multiple of the beat is counted, and where bars begin. */
import { foldToStereo } from "@/core/audio/signal";
import { loadFft } from "@/core/dsp/fft";
import { barReadings, shifted } from "@/core/grid/bars";
import { trackBeats } from "@/core/grid/beats";
import { onsetStrength } from "@/core/grid/onset";
import { tempoCandidates } from "@/core/grid/tempo";
import { decodeFile } from "@/server/decode";
import { fitAndWrite, type Example } from "./logistic";
import { eventF } from "./metrics";
import { developmentSongs } from "./songs";

await loadFft();
const songs = await developmentSongs(Array.from({ length: 32 }, (_, i) => i + 1));
const tempi: Example[] = [];
const bars: Example[] = [];
for (const song of songs) {
  const decoded = await decodeFile(song.file);
  if (!decoded.ok) throw new Error(decoded.refusal.sentence);
  const { signal } = decoded.value;
  const onsets = onsetStrength(foldToStereo(signal), signal.sampleRate);
  const candidates = tempoCandidates(onsets);
  const right = candidates.findIndex((c) => Math.abs(c.bpm / song.truth.tempo.bpm - 1) < 0.04);
  if (right < 0) {
    console.log(`no tempo candidate: ${song.name}`);
    continue;
  }
  tempi.push({ style: song.style, candidates: candidates.map((c) => c.features), right });

  const length = signal.channels[0]!.length / signal.sampleRate;
  const { beats } = trackBeats(onsets, candidates[right]!.bpm, song.truth.beats[0]! - 0.03, length);
  const readings = barReadings(onsets, beats);
  // The right reading is the one whose downbeats are the truth's.
  const scores = readings.map(({ beatsPerBar, shift, firstDownbeat }) =>
    eventF(
      song.truth.downbeats,
      shifted(beats, shift).filter((_, i) => i % beatsPerBar === firstDownbeat),
    ),
  );
  const best = scores.indexOf(Math.max(...scores));
  if (scores[best]! < 0.8) console.log(`no bar reading: ${song.name}, best F ${scores[best]!.toFixed(2)}`);
  else bars.push({ style: song.style, candidates: readings.map((r) => r.features), right: best });
}
await fitAndWrite(tempi, "tempoModel", "src/core/grid/tempoModel.ts", "fit:grid", "`tempoCandidates`", 0.02);
await fitAndWrite(bars, "barModel", "src/core/grid/barModel.ts", "fit:grid", "`barReadings`", 0.1);

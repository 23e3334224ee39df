/** The whole analysis of one decoded file. */
import { durationOf, foldToStereo, type Signal } from "../audio/signal";
import { waveformOverview } from "../audio/overview";
import { loadFft } from "../dsp/fft";
import { onsetStrength } from "../grid/onset";
import { estimateGrid } from "../grid/grid";
import { estimateTempo } from "../grid/tempo";
import { levelCurves, measureLoudness } from "../loudness";
import { averageSpectrum, spectralSlope, wholeOf } from "../tone";
import { bandMap } from "../tone/bandMap";
import type { Fraction } from "../units";
import {
  analysisStages,
  analysisVersion,
  type AnalysisStage,
  type TrackAnalysis,
  type TrackCurves,
} from "./result";

/** Below this a sample counts as silence when the first sound is looked for: −60 dBFS. */
const firstSoundAmplitude = 0.001;

function leadIn(channels: readonly [Float32Array, Float32Array], sampleRate: number): number | null {
  const [left, right] = channels;
  for (let i = 0; i < left.length; i++) {
    if (Math.abs(left[i]!) > firstSoundAmplitude || Math.abs(right[i]!) > firstSoundAmplitude) {
      return i / sampleRate;
    }
  }
  return null;
}

function lastSound([left, right]: readonly [Float32Array, Float32Array], sampleRate: number): number {
  for (let i = left.length - 1; i >= 0; i--) {
    if (Math.abs(left[i]!) > firstSoundAmplitude || Math.abs(right[i]!) > firstSoundAmplitude) {
      return i / sampleRate;
    }
  }
  return 0;
}

/**
 * Analyses a decoded file.
 *
 * @param signal at least 1 s of finite samples.
 * @param onProgress called with the stage that runs and the share 0–1 of the whole that is done.
 */
export async function analyse(
  signal: Signal,
  onProgress: (stage: AnalysisStage, done: Fraction) => void = () => {},
): Promise<{ analysis: TrackAnalysis; curves: TrackCurves }> {
  await loadFft();
  let before = 0;
  const stage = (index: number) => {
    const { name, share } = analysisStages[index]!;
    const start = before;
    before += share;
    onProgress(name, start);
    return (done: Fraction) => onProgress(name, start + share * done);
  };

  stage(0);
  const stereo = foldToStereo(signal);
  const levels = levelCurves(signal);
  const loudness = measureLoudness(levels);
  const overview = waveformOverview(stereo);
  const bands = bandMap(stereo, signal.sampleRate, stage(1));
  const onsets = onsetStrength(stereo, signal.sampleRate, stage(2));
  stage(3);
  const tempo = estimateTempo(onsets);
  const firstSound = leadIn(stereo, signal.sampleRate);
  const grid =
    tempo && estimateGrid(onsets, tempo.bpm, firstSound ?? 0, lastSound(stereo, signal.sampleRate));
  const spectrum = averageSpectrum(bands);
  onProgress("tempo", 1);

  return {
    analysis: {
      analysisVersion,
      durationSeconds: durationOf(signal),
      sampleRate: signal.sampleRate,
      channels: signal.channels.length,
      silent: loudness.integratedLufs === null,
      leadInSeconds: firstSound,
      tempo,
      grid,
      loudness,
      clippedRuns: levels.clippedRuns,
      dcOffsets: levels.dcOffsets,
      spectrum: { mid: Array.from(spectrum.mid), side: Array.from(spectrum.side) },
      slopeDbPerOctave: spectralSlope(wholeOf(spectrum)),
    },
    curves: {
      levels: { energies: levels.energies, meanSquares: levels.meanSquares, truePeaks: levels.truePeaks },
      bands,
      onsets,
      overview,
    },
  };
}

/** The whole analysis of one decoded file. */
import { durationOf, downmix, type Signal } from "../audio/signal";
import { waveformOverview } from "../audio/overview";
import { firstSoundOf, lastSoundOf } from "../audio/silence";
import { drumBandGatherer } from "../drums/bands";
import { countedDrums, sharpenedSwing } from "../drums";
import { compoundGrid } from "../drums/compound";
import { countedOtherwise } from "../drums/countedTempo";
import { drumsOf, hearDrums, soundingHits } from "../drums/estimateDrums";
import { strokeCurves } from "../drums/network";
import { loadFft } from "../dsp/fft";
import { bandEnvelopes } from "../envelopes/bandEnvelopes";
import { measureEnvelopes } from "../envelopes";
import { asHits, leastConfidence } from "../drums/hits";
import type { Metre } from "../grid/bars";
import { gridOf } from "../grid/correction";
import { onsetFrames, onsetStrength } from "../grid/onset";
import { highBandOnsets } from "../grid/highBandOnsets";
import { estimateGrid } from "../grid/estimateGrid";
import { estimateTempo } from "../grid/tempo";
import type { TempoEstimate } from "../grid/tempoEstimate";
import { lowEndBand, measureLowEnd } from "../lowEnd";
import { estimateLowEnd } from "../lowEnd/estimateLowEnd";
import { pitchSalience } from "../harmony/pitchSalience";
import { levelCurves, measureLoudness } from "../loudness";
import { planOf } from "../plan/estimatePlan";
import { averageSpectrum, spectralSlope, wholeOf } from "../tone";
import { wobbleGatherer } from "../tone/wobble";
import { resonanceGatherer } from "../tone/resonances";
import { fractionalOctaveSpectrogram, frameSizeFor } from "../tone/fractionalOctaveSpectrogram";
import type { Bpm, Fraction } from "../units";
import type { EarlyFindings } from "./early";
import {
  analysisStages,
  analysisVersion,
  type AnalysisStage,
  type TrackAnalysis,
  type TrackCurves,
} from "./result";

/**
 * Analyses a decoded file.
 *
 * @param signal at least 1 s of finite samples.
 * @param onProgress called with the stage that runs and the share 0–1 of the whole that is done.
 * @param onEarly called with what is known already, as soon as it is.
 */
export async function analyse(
  signal: Signal,
  onProgress: (stage: AnalysisStage, done: Fraction) => void = () => {},
  onEarly: (findings: EarlyFindings) => void = () => {},
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
  // What is compared and heard is the stereo downmix, so that is what every measure is of.
  const stereo = downmix(signal);
  const levels = levelCurves({
    sampleRate: signal.sampleRate,
    channels: [...stereo],
    layout: ["left", "right"],
  });
  const loudness = measureLoudness(levels);
  const overview = waveformOverview(stereo);
  const frameSize = frameSizeFor(signal.sampleRate);
  const peaks = resonanceGatherer(signal.sampleRate / frameSize, frameSize / 2);
  const bands = fractionalOctaveSpectrogram(stereo, signal.sampleRate, stage(1), peaks.add);
  const spectrum = averageSpectrum(bands);
  const early: EarlyFindings = {
    integratedLufs: loudness.integratedLufs,
    truePeakDbtp: loudness.truePeakDbtp,
    slopeDbPerOctave: spectralSlope(wholeOf(spectrum)),
  };
  onEarly(early);
  const drumBands = drumBandGatherer(stereo[0].length, signal.sampleRate);
  const { size, hop } = onsetFrames(stereo[0].length, signal.sampleRate);
  const wobble = wobbleGatherer(size, hop, signal.sampleRate);
  const onsets = onsetStrength(stereo, signal.sampleRate, stage(2), (spectrum, frame) => {
    drumBands.add(spectrum, frame);
    wobble.add(spectrum);
  });
  const heard = hearDrums(drumBands.finish(), stage(3));
  stage(4);
  // Strokes say where beats and bars lie more plainly than onsets of anything do.
  const strokes = strokeCurves(heard.activations);
  let tempo = estimateTempo(onsets, strokes);
  const firstSound = firstSoundOf(stereo, signal.sampleRate);
  const attacks = tempo && highBandOnsets(stereo, signal.sampleRate);
  const lastSound = lastSoundOf(stereo, signal.sampleRate);
  const gridAt = (bpm: Bpm, metre: Metre | null = null) =>
    estimateGrid(onsets, attacks!, bpm, firstSound ?? 0, lastSound, strokes, metre);
  let grid = tempo && gridAt(tempo.bpm);
  // The beats, fitted over the whole length, say the tempo more exactly than its first estimate.
  if (tempo && grid?.steady) tempo.bpm = Math.round(grid.bpm * 100) / 100;
  const durationSeconds = durationOf(signal);
  let ownGrid = gridOf(grid, durationSeconds);
  let sounding = soundingHits(heard, ownGrid);
  const struck = sounding.withStrays.filter(({ confidence }) => confidence >= leastConfidence);
  const counted = ownGrid && countedOtherwise(struck, ownGrid);
  const other = counted
    ? gridAt(counted.bpm, counted.metre)
    : grid && ownGrid && compoundGrid(struck, grid, ownGrid, firstSound ?? 0);
  if (tempo && other) {
    tempo = otherReading(tempo, Math.round(other.bpm * 100) / 100);
    grid = other;
    ownGrid = gridOf(grid, durationSeconds);
    sounding = soundingHits(heard, ownGrid);
  }
  const drums = drumsOf(sounding, heard, ownGrid);
  const countedHits = () => countedDrums(drums, {}, ownGrid).hits;
  if (grid && ownGrid) grid.swing = sharpenedSwing(grid.swing, countedHits(), ownGrid);
  onEarly({ ...early, grid: ownGrid && { bpm: ownGrid.bpm, beatsPerBar: ownGrid.beatsPerBar } });
  const pitches = pitchSalience(stereo, signal.sampleRate, stage(5));
  const envelopes = bandEnvelopes(stereo, signal.sampleRate);
  stage(6);
  const plan = planOf(
    ownGrid,
    { onsets, pitches, bands, kWeightedMeanSquares: levels.kWeightedMeanSquares },
    durationSeconds,
  );
  const beat = ownGrid && 60 / ownGrid.bpm;
  const kicks = countedHits().flatMap(({ voice, time }) => (voice === "kick" ? time : []));
  const { lowEnd, bass } = estimateLowEnd(stereo, signal.sampleRate, drums.bassNotes, kicks, {
    curves: strokes,
    framesPerSecond: heard.bands.framesPerSecond,
  });
  onProgress("plan", 1);

  return {
    analysis: {
      analysisVersion,
      durationSeconds,
      sampleRate: signal.sampleRate,
      channels: signal.channels.length,
      silent: loudness.integratedLufs === null,
      leadInSeconds: firstSound,
      tempo,
      grid,
      tuningCents: Math.round(pitches.tuningCents * 10) / 10,
      plan,
      drums,
      loudness,
      clippedRuns: levels.clippedRuns,
      clippedPlaces: levels.clippedPlaces,
      dcOffsets: levels.dcOffsets,
      spectrum: {
        mid: Array.from(spectrum.mid),
        side: Array.from(spectrum.side),
        cross: Array.from(spectrum.cross),
      },
      slopeDbPerOctave: early.slopeDbPerOctave,
      narrowPeaks: peaks.finish(),
      wobble: wobble.finish(),
      envelopes: measureEnvelopes(envelopes, asHits(drums), beat),
      bass,
      lowEnd: measureLowEnd(lowEndBand(lowEnd), kicks, bass, beat),
    },
    curves: {
      levels: {
        kWeightedMeanSquares: levels.kWeightedMeanSquares,
        meanSquares: levels.meanSquares,
        truePeaks: levels.truePeaks,
      },
      bands,
      envelopes,
      lowEnd,
      onsets,
      pitches,
      overview,
    },
  };
}

/** How sure a reading is that the hits speak for, at least; the one before keeps the rest at most. */
const otherConfidence: Fraction = 0.6;

/** A tempo with another reading in front; the one before is an alternative. */
function otherReading({ bpm, confidence, alternatives }: TempoEstimate, next: Bpm): TempoEstimate {
  if (Math.abs(bpm / next - 1) < 0.02) return { bpm: next, confidence, alternatives };
  const rest = alternatives.filter((other) => Math.abs(other.bpm / next - 1) > 0.02);
  return {
    bpm: next,
    confidence: otherConfidence,
    alternatives: [{ bpm, confidence: Math.min(confidence, 1 - otherConfidence) }, ...rest],
  };
}

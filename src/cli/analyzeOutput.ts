/** What `analyze` prints; times in seconds. */
import { z } from "zod";
import type { TrackAnalysis } from "@/core/analysis/result";
import { planTimes } from "@/core/formats/planTimes";
import { countedDrums, drumVoiceSchema } from "@/core/drums";
import type { DrumVoice } from "@/core/drums/voices";
import { type MeasuredHit } from "@/core/hits";
import { gridOf } from "@/core/grid/correction";
import { mainSwing } from "@/core/grid/swing";
import { tempoEstimateSchema } from "@/core/grid/tempoEstimate";
import { harteLabel } from "@/core/harmony/chords";
import { plainName } from "@/core/harmony/notes";
import { countedPlan } from "@/core/plan";
import { spaceRanges } from "@/core/envelopes";
import { bassLineSchema } from "@/core/lowEnd";
import { octaves, stereoByOctave } from "@/core/stereo";
import { bands, widenBands } from "@/core/tone";
import { finiteOrNull, powerToDecibels } from "@/core/units";

const level = z.number().nullable();

const keyOutput = z.object({ tonic: z.string(), mode: z.enum(["major", "minor"]) });

export const analyzeOutputSchema = z.object({
  durationSeconds: z.number(),
  sampleRate: z.number(),
  channels: z.number(),
  tempo: tempoEstimateSchema.extend({ beatsPerBar: z.number().optional() }).nullable(),
  beats: z.array(z.number()),
  downbeats: z.array(z.number()),
  /** Null where nothing is pitched. */
  key: keyOutput
    .extend({ confidence: z.number(), alternatives: z.array(keyOutput.extend({ confidence: z.number() })) })
    .nullable(),
  tuningCents: z.number(),
  /** In Harte's syntax. */
  chords: z.array(z.object({ start: z.number(), end: z.number(), label: z.string() })),
  sections: z.array(z.object({ start: z.number(), end: z.number(), label: z.string() })),
  drums: z.object({
    swingPercent: z.number(),
    hits: z.array(
      z.object({
        time: z.number(),
        voice: drumVoiceSchema,
        velocity: z.number(),
        confidence: z.number(),
        kind: z.string(),
      }),
    ),
  }),
  tone: z.object({
    /** Third-octave bands of the whole file, dBFS. */
    bands: z.array(z.object({ hz: z.number(), levelDb: level })),
    slopeDbPerOctave: level,
    /** How much of the time each stays there: 0–1. */
    resonances: z.array(z.object({ hz: z.number(), heightDb: z.number(), steady: z.number() })),
  }),
  stereo: z.object({
    /** Octave bands. */
    bands: z.array(z.object({ hz: z.number(), sideToMidDb: level, correlation: level, balanceDb: level })),
  }),
  dynamics: z.object({
    crestDb: level,
    /** The first hundreds of runs of samples at full scale. */
    clippedRuns: z.array(z.object({ start: z.number(), samples: z.number() })),
    /** How held sounds above 150 Hz dip at each kick; null where none plainly does. */
    ducking: z.object({ depthDb: z.number(), recoveryMs: z.number() }).nullable(),
    /** Kicks and back-beats over the mean level, and what is left of them a tenth of a second later. */
    attackDb: level,
    sustainDb: level,
    /** By range: level in the gaps of a beat, level after hits, time to fall by 60 dB. */
    space: z.array(
      z.object({ fromHz: z.number(), toHz: z.number(), gapDb: level, lateDb: level, decaySeconds: level }),
    ),
  }),
  /** The bass line as heard. */
  bass: z.object({ notes: bassLineSchema }),
  /** Kick and bass below 100 Hz; null where one of them is not there. */
  lowEnd: z.object({
    kickLengthBeats: level,
    kickToBassDb: level,
    bassEvennessDb: level,
    below30Db: level,
    monoCorrelation: level,
    duckingDb: level,
    duckingMs: level,
  }),
  /** The typical hit of each drum that is struck often enough. */
  hits: z.array(
    z.object({
      voice: drumVoiceSchema,
      kind: z.string(),
      count: z.number(),
      fundamentalHz: level,
      glideSemitones: level,
      attackMs: z.number(),
      /** To −20 dB. */
      decayMs: level,
      brightnessHz: z.number(),
      clean: z.number(),
    }),
  ),
  loudness: z.object({
    integratedLufs: level,
    loudnessRangeLu: level,
    truePeakDbtp: level,
    maxMomentaryLufs: level,
    maxShortTermLufs: level,
  }),
});

export type AnalyzeOutput = z.infer<typeof analyzeOutputSchema>;

const kindName = (voice: DrumVoice, kind: number): string => `${voice}-${kind + 1}`;

export const analyzeOutput = (
  {
    durationSeconds,
    sampleRate,
    channels,
    tempo,
    grid,
    tuningCents,
    plan,
    drums,
    loudness,
    spectrum,
    slopeDbPerOctave,
    narrowPeaks,
    clippedPlaces,
    envelopes,
    bass,
    lowEnd,
  }: TrackAnalysis,
  typical: readonly MeasuredHit[],
): AnalyzeOutput => {
  const ducking = envelopes.pumping?.ducking.high;
  const times = planTimes(countedPlan(plan), gridOf(grid, durationSeconds), durationSeconds);
  const options = (plan.harmony.key?.options ?? []).map(({ key, confidence }) => ({
    tonic: plainName(key.tonic),
    mode: key.mode,
    confidence,
  }));
  return analyzeOutputSchema.parse({
    durationSeconds,
    sampleRate,
    channels,
    tempo: tempo && { ...tempo, ...(grid ? { beatsPerBar: grid.beatsPerBar } : {}) },
    beats: grid?.beats ?? [],
    downbeats: grid?.downbeats ?? [],
    key: options[0] ? { ...options[0], alternatives: options.slice(1) } : null,
    tuningCents,
    chords: times.chords.map(({ start, end, chord }) => ({ start, end, label: harteLabel(chord) })),
    sections: times.sections.map(({ start, end, name }) => ({ start, end, label: name })),
    drums: {
      swingPercent: grid ? mainSwing(grid.swing).percent : 50,
      hits: countedDrums(drums, {}, null).hits.map(({ time, voice, velocity, confidence, kind }) => ({
        time,
        voice,
        velocity,
        confidence,
        kind: kindName(voice, kind ?? 0),
      })),
    },
    tone: {
      bands: thirdOctaveLevels(spectrum),
      slopeDbPerOctave,
      resonances: narrowPeaks.resonances.map(({ hz, heightDb, constancy }) => ({
        hz,
        heightDb,
        steady: constancy,
      })),
    },
    stereo: {
      bands: stereoByOctave(spectrum).map(({ sideToMidDb, correlation, balanceDb }, o) => ({
        hz: Math.round(10 * octaves[o]!.centre) / 10,
        sideToMidDb,
        correlation,
        balanceDb,
      })),
    },
    dynamics: {
      crestDb: loudness.crestFactorDb,
      clippedRuns: clippedPlaces,
      ducking: ducking ? { depthDb: ducking.depthDb, recoveryMs: ducking.recoveryMs } : null,
      attackDb: envelopes.punch?.attackDb ?? null,
      sustainDb: envelopes.punch?.sustainDb ?? null,
      space: envelopes.space.ranges.map(({ gapDb, lateDb, decaySeconds }, i) => ({
        fromHz: spaceRanges[i]!.low,
        toHz: spaceRanges[i]!.high,
        gapDb,
        lateDb,
        decaySeconds,
      })),
    },
    bass: { notes: bass },
    lowEnd: {
      kickLengthBeats: lowEnd.kickLengthBeats,
      kickToBassDb: lowEnd.kickToBassDb,
      bassEvennessDb: lowEnd.bassEvennessDb,
      below30Db: lowEnd.below30Db,
      monoCorrelation: lowEnd.monoCorrelation,
      duckingDb: lowEnd.ducking?.depthDb ?? null,
      duckingMs: lowEnd.ducking?.recoveryMs ?? null,
    },
    hits: typical.map(({ hit, measures }) => ({
      voice: hit.voice,
      kind: kindName(hit.voice, hit.kind),
      count: hit.count,
      fundamentalHz: measures.fundamentalHz,
      glideSemitones: measures.glideSemitones,
      attackMs: measures.attackMs,
      decayMs: measures.decay.to20,
      brightnessHz: measures.brightnessHz,
      clean: Math.round(100 * hit.clean) / 100,
    })),
    loudness,
  });
};

/** Mid and side together, per third-octave band; null in silence. */
function thirdOctaveLevels({ mid, side }: TrackAnalysis["spectrum"]) {
  const widened = widenBands(
    mid.map((power, b) => power + side[b]!),
    3,
  );
  return bands(3).map(({ centre }, b) => ({
    hz: Math.round(10 * centre) / 10,
    levelDb: finiteOrNull(Math.round(10 * powerToDecibels(widened[b]!)) / 10),
  }));
}

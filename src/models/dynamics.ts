/** What the Loudness view shows of hits: how they stand out, and how everything else moves at the kicks. */
import {
  framesBefore,
  pumpingBands,
  pumpingGap,
  typicalCurve,
  type Ducking,
  type Punch,
  type PumpingBand,
  type PumpingGap,
} from "@/core/envelopes";
import { cutOut, integratedLoudness, kWeightedStepsPerSecond, levelStepsPerSecond } from "@/core/loudness";
import { measureRules, type MixAspect, type TrackMeasures } from "@/core/match";
import { barStart, type BarRange } from "@/core/grid/grid";
import type { AlignedBars } from "@/core/study";
import { amplitudeToDecibels } from "@/core/units";
import { fixed } from "./format";

/** The level around the kicks, all laid over one another. */
export interface KickPicture {
  /** Milliseconds from the kick. */
  at: number;
  reference: number | null;
  version: number | null;
}

export interface DynamicsModel {
  scores: Record<"punch" | "pumping", number | null>;
  punch: Record<"reference" | "version", Punch | null>;
  /** Null where one side has too few kicks. */
  pumping: {
    kicks: Record<"reference" | "version", number>;
    curves: Record<PumpingBand, KickPicture[]>;
    gap: PumpingGap;
    /** What is heard on one side alone. */
    ducking: Record<"reference" | "version", Ducking | null>;
    beatSeconds: number;
  } | null;
}

export function dynamicsModel(
  reference: TrackMeasures,
  version: TrackMeasures,
  aspects: readonly { name: MixAspect; score: number | null }[],
): DynamicsModel {
  const scoreOf = (name: MixAspect) => aspects.find((aspect) => aspect.name === name)?.score ?? null;
  const [ours, theirs] = [reference.envelopes.pumping, version.envelopes.pumping];
  const bpm = version.bpm ?? reference.bpm;
  const curveOf = (band: PumpingBand): KickPicture[] => {
    const [a, b] = [typicalCurve(ours!, band), typicalCurve(theirs!, band)];
    return a.map((level, t) => ({
      at: Math.round((1000 * (t - framesBefore)) / ours!.framesPerSecond),
      reference: level,
      version: b[t]!,
    }));
  };
  return {
    scores: { punch: scoreOf("punch"), pumping: scoreOf("pumping") },
    punch: { reference: reference.envelopes.punch, version: version.envelopes.punch },
    pumping:
      ours && theirs && bpm
        ? {
            kicks: { reference: ours.kicks, version: theirs.kicks },
            curves: Object.fromEntries(pumpingBands.map((band) => [band, curveOf(band)])) as Record<
              PumpingBand,
              KickPicture[]
            >,
            gap: pumpingGap(ours, theirs, 60 / bpm),
            ducking: { reference: ours.ducking.high, version: theirs.ducking.high },
            beatSeconds: 60 / bpm,
          }
        : null,
  };
}

const ofBeat = (ms: number, beatSeconds: number) => `${fixed(ms / 1000 / beatSeconds, 2)} of a beat`;

/** What to know about pumping, in sentences. */
export function pumpingSentences({ pumping }: DynamicsModel): string[] {
  if (!pumping) return ["One side has too few kicks to lay over one another."];
  const { gap, ducking, beatSeconds } = pumping;
  const size = fixed(Math.abs(gap.gapDb));
  const back =
    gap.recoveryMs === null
      ? ""
      : ` and is back after ${gap.recoveryMs} ms, ${ofBeat(gap.recoveryMs, beatSeconds)}`;
  const sentences = [
    Math.abs(gap.gapDb) < measureRules.pumping.justNoticeable
      ? "Above 150 Hz nothing dips more at the kicks than in the reference, nor less."
      : gap.gapDb > 0
        ? `Everything above 150 Hz dips ${size} dB deeper at each kick than in the reference${back}.`
        : `Everything above 150 Hz dips ${size} dB less at each kick: in the reference it makes way${back}.`,
  ];
  const alone = (own: Ducking | null, whose: string) =>
    own
      ? [
          `Held sounds dip ${fixed(own.depthDb)} dB for ${own.recoveryMs} ms (${fixed(own.beats, 2)} of a beat) in ${whose}.`,
        ]
      : [];
  return [...sentences, ...alone(ducking.reference, "the reference"), ...alone(ducking.version, "yours")];
}

/** What to do about the hits. */
export function punchSentences({ punch: { reference, version } }: DynamicsModel): string[] {
  if (!reference || !version) return ["One side has too few kicks and back-beats to compare."];
  const attack = version.attackDb - reference.attackDb;
  const sustain = version.sustainDb - reference.sustainDb;
  const sentences: string[] = [];
  if (Math.abs(attack) >= measureRules.attack.justNoticeable)
    sentences.push(
      attack < 0
        ? `Kicks and back-beats stand out ${fixed(-attack)} dB less: give them a slower attack, ease the limiter, or turn them up.`
        : `Kicks and back-beats stand out ${fixed(attack)} dB more: soften their attack or turn them down.`,
    );
  if (Math.abs(sustain) >= measureRules.sustain.justNoticeable)
    sentences.push(
      sustain > 0
        ? `They ring on ${fixed(sustain)} dB louder after a tenth of a second: shorten them, or their room.`
        : `They die away ${fixed(-sustain)} dB faster: lengthen them, or give them room.`,
    );
  return sentences.length > 0 ? sentences : ["Hits stand out and ring on as in the reference."];
}

/** Peak to loudness of each bar and of what answers it, LU; null in silence and where nothing answers. */
export interface BarPeak {
  bar: number;
  reference: number | null;
  version: number | null;
}

/** How far the peaks of each bar stand above its loudness. */
export function peaksOverBars(
  bars: BarRange,
  { reference, version, spans }: AlignedBars,
  curves: Record<"reference" | "version", { kWeighted: Float32Array; truePeaks: Float32Array }>,
): BarPeak[] {
  const of = (side: "reference" | "version", grid: AlignedBars["reference"], bar: number): number | null => {
    const span = { from: barStart(grid, bar), to: barStart(grid, bar + 1) };
    const loudness = integratedLoudness(cutOut(curves[side].kWeighted, kWeightedStepsPerSecond, [span]));
    const peak = cutOut(curves[side].truePeaks, levelStepsPerSecond, [span]).reduce(
      (a, b) => Math.max(a, b),
      0,
    );
    return loudness === null || peak === 0 ? null : amplitudeToDecibels(peak) - loudness;
  };
  return Array.from({ length: bars.last - bars.first + 1 }, (_, i) => {
    const bar = bars.first + i;
    const span = spans.find(
      ({ referenceFirst, bars: count }) => bar >= referenceFirst && bar < referenceFirst + count,
    );
    return {
      bar,
      reference: of("reference", reference, bar),
      version: span ? of("version", version, bar - span.referenceFirst + span.versionFirst) : null,
    };
  });
}

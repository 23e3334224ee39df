/** How right key, chords, sections and who plays in them are. */
import type { TrackAnalysis } from "@/core/analysis/result";
import { planTimes } from "@/core/formats/planTimes";
import { gridOf } from "@/core/grid/correction";
import type { Signal } from "@/core/audio/signal";
import { pitchSalience } from "@/core/harmony/pitchSalience";
import { harteLabel } from "@/core/harmony/chords";
import { readNote } from "@/core/harmony/notes";
import { countedPlan } from "@/core/plan";
import { measuresOfSection } from "@/core/sections";
import { elementGroups, type HeardGroup } from "@/core/sections/presence";
import { styleSong } from "@/demo/songs/styles";
import { rolesIn } from "@/demo/truth";
import { beatAt } from "@/core/grid/grid";
import { boundaryF, keyScore, majorMinorOverlap } from "./metrics";
import type { DevelopmentSong } from "./songs";

export interface MeasuredPlan {
  keyScore: number;
  keyRight: boolean;
  keyConfidence: number | null;
  chordOverlap: number;
  /** Each chord found: how sure, and whether it is right for most of its length. */
  chordAnswers: { confidence: number; right: boolean }[];
  /** Cents off 440 Hz. */
  tuningError: number;
  boundaryF3: number;
  boundaryF05: number;
  /** True sections, and in how many of them it is rightly said whether each group plays. */
  sections: number;
  presenceRight: Record<HeardGroup, number>;
}

/**
 * How exactly a change of tuning is measured, cents: the same samples taken for another sample rate
 * sound higher or lower by a known amount, whatever the instruments themselves are tuned to.
 */
export function tuningStepError({ channels, sampleRate }: Signal, measured: number, seed: number): number {
  const moved = ((seed * 37) % 61) - 30;
  const [left, right = left] = channels as [Float32Array, Float32Array?];
  const { tuningCents } = pitchSalience([left, right], sampleRate * 2 ** (moved / 1200));
  const error = tuningCents - measured - moved;
  // A semitone's worth of cents more or less is the same tuning.
  return Math.abs(error - 100 * Math.round(error / 100));
}

export function measurePlan(song: DevelopmentSong, analysis: TrackAnalysis): MeasuredPlan {
  const { truth } = song;
  const { plan, durationSeconds } = analysis;
  const grid = gridOf(analysis.grid, durationSeconds);
  const times = planTimes(countedPlan(plan), grid, durationSeconds);
  const labelled = times.chords.map(({ start, end, chord }) => ({ start, end, label: harteLabel(chord) }));
  const truthKey = { tonic: readNote(truth.key.tonic)!, mode: truth.key.mode };
  const best = plan.harmony.key?.options[0] ?? null;
  const score = best ? keyScore(truthKey, best.key) : 0;
  const begins = (sections: readonly { start: number }[]) => sections.slice(1).map(({ start }) => start);
  const boundaries = [begins(truth.sections), begins(times.sections)] as const;
  const presenceRight: Record<HeardGroup, number> = { drums: 0, bass: 0, chords: 0, lead: 0 };
  const roles = rolesIn(styleSong(song.style, Number(song.name.split("-").at(-1))));
  truth.sections.forEach(({ start, end }, i) => {
    const bar = (seconds: number) => Math.round(beatAt(grid!, seconds) / grid!.beatsPerBar) + 1;
    const measures =
      grid && plan.form
        ? measuresOfSection({ firstBar: bar(start), lastBar: bar(end) - 1 }, plan.form)
        : null;
    for (const group of elementGroups) {
      if (measures && measures.presence[group] > 0.5 === roles[i]!.includes(group)) presenceRight[group]++;
    }
  });
  return {
    keyScore: score,
    keyRight: score === 1,
    keyConfidence: best?.confidence ?? null,
    chordOverlap: majorMinorOverlap(truth.chords, labelled),
    chordAnswers: times.chords.flatMap(({ confidence }, i) => {
      const own = labelled[i]!;
      // The truth as far as this chord reaches.
      const there = truth.chords.flatMap(({ start, end, label }) =>
        Math.min(end, own.end) > Math.max(start, own.start)
          ? [{ start: Math.max(start, own.start), end: Math.min(end, own.end), label }]
          : [],
      );
      return there.length > 0 ? [{ confidence, right: majorMinorOverlap(there, [own]) > 0.5 }] : [];
    }),
    tuningError: Math.abs(analysis.tuningCents),
    boundaryF3: boundaryF(...boundaries, 3),
    boundaryF05: boundaryF(...boundaries, 0.5),
    sections: truth.sections.length,
    presenceRight,
  };
}

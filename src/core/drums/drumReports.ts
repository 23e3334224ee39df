/** What is worth saying of two drum parts: what differs, where, and by how much. */
import type { Decibels, Fraction, Seconds } from "../units";
import type { ComparedDrums, ComparedHit } from "./compareDrums";
import { velocityLevel } from "./groove";
import { leastForMean } from "./pairing";
import { stepInBar, type BarShape } from "./patterns";
import { stepsPerBeat } from "./steps";
import { byVoice, type DrumVoice } from "./voices";

const { abs, max, sqrt } = Math;

/** Something worth saying of one voice: what differs, and where. */
export interface DrumReport {
  kind: "missing" | "extra" | "early" | "late" | "loud" | "soft" | "even" | "accented" | "otherVoice";
  voice: DrumVoice;
  /** Where it is: written places in beats of the reference. */
  places: number[];
  /** Seconds, dB, or nothing where it is a matter of being there. */
  amount: number | null;
  otherVoice?: DrumVoice;
  /** Of what is early or late: how far behind (+) its step each side is on average. */
  offsets?: { reference: Seconds; version: Seconds };
}

/** A step must be off by this much on average to be named: about what listeners notice between two voices. */
const leastLate: Seconds = 0.005;
/** A single hit must be off by this much, since it cannot be averaged. */
const leastLateAlone: Seconds = 0.02;
const leastHarder: Decibels = 5;
const leastHarderAlone: Decibels = 15;
/** Accents narrower than this (as standard deviation) are hardly heard, and cannot be lost. */
const leastSpread: Decibels = 1;
/** Fewer steps than this make no accents: two back-beats differ by what sounds with them. */
const leastSteps = 3;
/** Share of the accents that is left where a voice is called even, and from which on it is called uneven. */
const flattened: Fraction = 0.3;
const exaggerated = 1.8;

/** How wide the accents of a voice are in the reference, and which share of them the version has; null where there are none. */
function accentsKept(
  agreed: readonly ComparedHit[],
  shape: BarShape,
): { spread: Decibels; kept: number } | null {
  const steps = new Map<number, { count: number; reference: number; version: number }>();
  for (const { reference, version } of agreed) {
    const step = stepInBar(reference!, shape);
    const sum = steps.get(step) ?? { count: 0, reference: 0, version: 0 };
    sum.count++;
    sum.reference += velocityLevel(reference!.hit.velocity);
    sum.version += velocityLevel(version!.hit.velocity);
    steps.set(step, sum);
  }
  const usual = [...steps.values()].filter(({ count }) => count >= leastForMean);
  const count = usual.reduce((sum, own) => sum + own.count, 0);
  if (usual.length < leastSteps) return null;
  const mean = (side: "reference" | "version") => usual.reduce((sum, own) => sum + own[side], 0) / count;
  const [a, b] = [mean("reference"), mean("version")];
  let variance = 0;
  let common = 0;
  for (const own of usual) {
    const x = own.reference / own.count - a;
    variance += own.count * x * x;
    common += own.count * x * (own.version / own.count - b);
  }
  const spread = sqrt(variance / count);
  return spread >= leastSpread ? { spread, kept: common / variance } : null;
}

/** Standard errors that a mean must stand off from nothing to be a habit. */
const certainty = 3;
/** The mean of what happens at one step, where it is large enough and comes again; else null. */
function habitOf(values: readonly number[], least: number, leastAlone: number): number | null {
  const mean = values.reduce((a, b) => a + b, 0) / values.length;
  if (values.length < leastForMean) {
    return values.every((value) => abs(value) >= leastAlone && value * mean > 0) ? mean : null;
  }
  const deviation = sqrt(values.reduce((sum, value) => sum + (value - mean) ** 2, 0) / (values.length - 1));
  return abs(mean) >= max(least, (certainty * deviation) / sqrt(values.length)) ? mean : null;
}

/** What sounds with a voice that is off by more than itself is drawn along by up to this much. */
const drawnAlong: Seconds = 0.01;
/** By how much more the other must be off. */
const drawing = 1.3;

/** Mean lateness of each voice at each step of the bar. */
function lateBySteps(hits: readonly ComparedHit[], shape: BarShape): Map<number, Map<DrumVoice, Seconds>> {
  const sums = new Map<number, Map<DrumVoice, { sum: number; count: number }>>();
  for (const { reference, voice, timingDeviation } of hits) {
    if (timingDeviation === null) continue;
    const step = stepInBar(reference!, shape);
    const own = sums.get(step) ?? new Map<DrumVoice, { sum: number; count: number }>();
    const known = own.get(voice) ?? { sum: 0, count: 0 };
    own.set(voice, { sum: known.sum + timingDeviation, count: known.count + 1 });
    sums.set(step, own);
  }
  return new Map(
    [...sums].map(([step, own]) => [
      step,
      new Map([...own].map(([voice, { sum, count }]) => [voice, sum / count])),
    ]),
  );
}

/** Whether a voice at a step of the bar is only drawn along by what sounds with it and is off by more. */
type IsDrawn = (voice: DrumVoice, step: number, late: Seconds) => boolean;

const isDrawnBy =
  (lateness: ReturnType<typeof lateBySteps>): IsDrawn =>
  (voice, step, late) =>
    abs(late) < drawnAlong &&
    [...lateness.get(step)!].some(
      ([other, own]) => other !== voice && own * late > 0 && abs(own) >= drawing * abs(late),
    );

/** What lacks or is too much of a voice, as far as it is sure and not intended. */
function lackingReports(voice: DrumVoice, own: readonly ComparedHit[]): DrumReport[] {
  return (["missing", "extra"] as const).flatMap((kind): DrumReport[] => {
    const places = own
      .filter((hit) => hit.kind === kind && hit.reliable && !hit.intended)
      .map((hit) => (hit.reference ?? hit.version)!.quantised);
    return places.length > 0 ? [{ kind, voice, places, amount: null }] : [];
  });
}

/** That a voice is mostly played by another of its kind. */
function otherVoiceReports(voice: DrumVoice, agreed: readonly ComparedHit[]): DrumReport[] {
  const others = agreed.filter(({ otherVoice }) => otherVoice !== null);
  if (others.length <= agreed.length / 2) return [];
  const places = others.map(({ reference }) => reference!.quantised);
  const otherVoice = others[others.length >> 1]!.otherVoice!;
  return [{ kind: "otherVoice", voice, places, amount: null, otherVoice }];
}

/** That the accents of a voice are gone, or exaggerated. */
function accentReports(voice: DrumVoice, agreed: readonly ComparedHit[], shape: BarShape): DrumReport[] {
  const open = agreed.filter(({ masked }) => !masked);
  const accent = accentsKept(open, shape);
  if (!accent || (accent.kept > flattened && accent.kept < exaggerated)) return [];
  const places = agreed.map(({ reference }) => reference!.quantised);
  const amount = accent.spread * (accent.kept - 1);
  return [{ kind: accent.kept <= flattened ? "even" : "accented", voice, places, amount }];
}

/** Steps at which a voice is early or late, too loud or too soft as a habit. */
function stepReports(
  voice: DrumVoice,
  agreed: readonly ComparedHit[],
  isDrawn: IsDrawn,
  shape: BarShape,
): DrumReport[] {
  const steps = new Map<number, ComparedHit[]>();
  for (const hit of agreed) {
    const step = stepInBar(hit.reference!, shape);
    const known = steps.get(step);
    if (known) known.push(hit);
    else steps.set(step, [hit]);
  }
  const off = new Map<DrumReport["kind"], { group: ComparedHit[]; sum: number }>();
  const note = (kind: DrumReport["kind"], group: readonly ComparedHit[], amount: number) => {
    const known = off.get(kind) ?? { group: [], sum: 0 };
    off.set(kind, { group: [...known.group, ...group], sum: known.sum + amount * group.length });
  };
  for (const [step, group] of steps) {
    const late = habitOf(
      group.map((hit) => hit.timingDeviation!),
      leastLate,
      leastLateAlone,
    );
    if (late !== null && !isDrawn(voice, step, late)) note(late > 0 ? "late" : "early", group, late);
    const open = group.filter(({ masked }) => !masked);
    if (open.length === 0) continue;
    const harder = habitOf(
      open.map((hit) => hit.velocityDifference!),
      leastHarder,
      leastHarderAlone,
    );
    if (harder !== null) note(harder > 0 ? "loud" : "soft", open, harder);
  }
  return [...off].map(([kind, { group, sum }]) => {
    const amount = sum / group.length;
    const behind = group.reduce((total, hit) => total + hit.reference!.offset, 0) / group.length;
    return {
      kind,
      voice,
      places: group.map(({ reference }) => reference!.quantised).sort((a, b) => a - b),
      amount,
      ...(kind === "early" || kind === "late"
        ? { offsets: { reference: behind, version: behind + amount } }
        : {}),
    };
  });
}

/** All that is worth saying, voice by voice. */
export function drumReports({ hits }: ComparedDrums, beatsPerBar: number): DrumReport[] {
  const shape: BarShape = { beatsPerBar, stepsPerBeat: stepsPerBeat(beatsPerBar) };
  const isDrawn = isDrawnBy(lateBySteps(hits, shape));
  return byVoice(hits, ({ voice }) => voice).flatMap(([voice, own]): DrumReport[] => {
    const agreed = own.filter(({ kind }) => kind === "agrees");
    const accents = accentReports(voice, agreed, shape);
    // One word for the accents of a whole voice says more than many for its steps.
    const steps = stepReports(voice, agreed, isDrawn, shape).filter(
      ({ kind }) => accents.length === 0 || (kind !== "loud" && kind !== "soft"),
    );
    return [...lackingReports(voice, own), ...otherVoiceReports(voice, agreed), ...accents, ...steps];
  });
}

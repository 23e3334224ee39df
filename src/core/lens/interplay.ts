/** Which parts never sound together, and which answer one another, on either side. */
import type { CoverageSpan } from "../align/coverage";
import { quantile, median } from "../median";
import type { Decibels, Seconds } from "../units";
import { drumParts, lensParts, type LensPart } from "./parts";
import { barLevels, isPresenceTold } from "./presence";

const { max, min } = Math;

/** A part sounds in beats that are within this of its loud ones, and not below the second. */
const soundsWithin: Decibels = 12;
const quietest: Decibels = -65;

/**
 * In which beats a part sounds, from bar 1 on: "1" for each in which it does, "0" for the others.
 *
 * @param levels ten a second.
 * @param starts of all beats in order, and where the last ends.
 */
export function soundingBeats(levels: Float32Array, starts: readonly Seconds[]): string {
  const ofBeats = barLevels(levels, starts);
  const sounding = ofBeats.filter((level) => level > quietest);
  const least = sounding.length === 0 ? Infinity : max(quietest, quantile(sounding, 0.8) - soundsWithin);
  return ofBeats.map((level) => (level >= least ? "1" : "0")).join("");
}

/** Beats in which a part sounds, of both sides. */
export interface PartBeats {
  reference: string;
  version: string;
}

/** How two parts go together on one side. */
export interface Together {
  /** Beats in which the one sounds, the other, and both. */
  first: number;
  second: number;
  both: number;
  /** How often one takes over from the other, and for how many beats as a rule. */
  turns: number;
  turnBeats: number;
}

export interface Interplay {
  parts: readonly [LensPart, LensPart];
  /** `apart`: never together; `answers`: by turns of at most two bars. */
  kind: "apart" | "answers";
  /** The side on which it is so; on the other they sound together. */
  side: "reference" | "version" | "both";
  reference: Together;
  version: Together;
  /** Bars of the reference in which both sound on the side that has them together; none where both sides agree. */
  bars: number[];
}

/** Of the beats of the part that sounds less, at most this share with the other is none, at least this is together. */
const apartShare = 0.05;
const togetherShare = 0.25;
/** Parts that sound in fewer beats say nothing. */
const leastBeats = 8;
/** From so many changes on two parts answer one another, in turns of at most so many bars. */
const fewestTurns = 4;
const longestTurn = 2;
/** What follows within so many beats is an answer. */
const answersWithin = 4;

export function together(first: readonly boolean[], second: readonly boolean[]): Together {
  let [own, other, both, turns] = [0, 0, 0, 0];
  const lengths: number[] = [];
  let turn: "first" | "second" | null = null;
  let [length, rest] = [0, 0];
  first.forEach((sounds, i) => {
    const answers = second[i]!;
    if (sounds) own++;
    if (answers) other++;
    if (sounds && answers) both++;
    const now = sounds === answers ? null : sounds ? "first" : "second";
    if (now === null) {
      rest++;
      return;
    }
    if (now !== turn) {
      if (turn !== null && rest <= answersWithin) turns++;
      if (turn !== null) lengths.push(length);
      [turn, length] = [now, 0];
    }
    length++;
    rest = 0;
  });
  if (turn !== null) lengths.push(length);
  return { first: own, second: other, both, turns, turnBeats: lengths.length > 0 ? median(lengths) : 0 };
}

const lesser = ({ first, second }: Together): number => min(first, second);
const isApart = (own: Together): boolean => lesser(own) >= leastBeats && own.both <= apartShare * lesser(own);
const isTogether = (own: Together): boolean =>
  lesser(own) >= leastBeats && own.both >= togetherShare * lesser(own);
const isDrum = (part: LensPart): boolean => drumParts.some((own) => own === part);

/**
 * Pairs of parts that never sound together on one side or on both, over the bars that answer each other.
 * What drums do among themselves is told by their strokes instead.
 *
 * @param freeDb how far each part stands free on the side where it does less; null where one has none of it.
 * @param beatsPerBar of both sides.
 * @param chosen whether a bar of the reference counts.
 */
export function interplay(
  beats: Record<LensPart, PartBeats>,
  freeDb: Record<LensPart, Decibels | null>,
  spans: readonly CoverageSpan[],
  beatsPerBar: number,
  chosen: (bar: number) => boolean,
): Interplay[] {
  const pairs = spans.flatMap(({ referenceFirst, versionFirst, bars }) =>
    Array.from({ length: bars }, (_, i) => [referenceFirst + i, versionFirst + i] as const).filter(([bar]) =>
      chosen(bar),
    ),
  );
  const over = (own: string, side: 0 | 1): boolean[] =>
    pairs.flatMap((pair) =>
      Array.from({ length: beatsPerBar }, (_, k) => own[(pair[side] - 1) * beatsPerBar + k] === "1"),
    );
  const told = lensParts
    .filter((part) => isPresenceTold(freeDb[part]))
    .map((part) => ({
      part,
      reference: over(beats[part].reference, 0),
      version: over(beats[part].version, 1),
    }));
  return told.flatMap((a, i) =>
    told.slice(i + 1).flatMap((b): Interplay[] => {
      if (isDrum(a.part) && isDrum(b.part)) return [];
      const [reference, version] = [together(a.reference, b.reference), together(a.version, b.version)];
      const side =
        isApart(reference) && isApart(version)
          ? "both"
          : isApart(reference) && isTogether(version)
            ? "reference"
            : isApart(version) && isTogether(reference)
              ? "version"
              : null;
      if (side === null) return [];
      const own = side === "version" ? version : reference;
      const [mixedA, mixedB] = side === "reference" ? [a.version, b.version] : [a.reference, b.reference];
      const isMixed = (place: number) =>
        Array.from({ length: beatsPerBar }, (_, k) => place * beatsPerBar + k).some(
          (beat) => mixedA[beat] && mixedB[beat],
        );
      return [
        {
          parts: [a.part, b.part],
          kind: own.turns >= fewestTurns && own.turnBeats <= longestTurn * beatsPerBar ? "answers" : "apart",
          side,
          reference,
          version,
          bars: side === "both" ? [] : pairs.flatMap(([bar], at) => (isMixed(at) ? bar : [])),
        },
      ];
    }),
  );
}

/**
 * Drums that both sides have under different names: a kind of the reference that is nowhere in the
 * version, and a kind of the version that is nowhere in the reference but struck at the same places,
 * are one drum with two names.
 */
import type { Fraction } from "../units";
import { pairUp, type Placed } from "./pairing";
import type { DrumVoice } from "./voices";

/** Fewer strokes in common say nothing. */
const leastStrokes = 6;
/** F-measure of the places of both drums from which they are the same. */
const sameAt: Fraction = 0.85;
/** A drum of which more than this has its counterpart under its own name keeps its name. */
const mostNamed: Fraction = 0.25;

/** Kicks and toms are low; what is low on one side is no high drum on the other, wherever it is struck. */
const isLow = (voice: DrumVoice): boolean => voice === "kick" || voice === "tom";

interface Drum {
  voice: DrumVoice;
  /** Its strokes without a counterpart, in order. */
  alone: Placed[];
}

const drumOf = ({ hit }: Placed): string => `${hit.voice} ${hit.kind ?? 0}`;

/** Drums that hardly any stroke of has its counterpart. */
function unmatched(alone: readonly Placed[], all: readonly Placed[]): Drum[] {
  const strokes = new Map<string, number>();
  for (const own of all) strokes.set(drumOf(own), (strokes.get(drumOf(own)) ?? 0) + 1);
  const drums = new Map<string, Drum>();
  for (const own of alone) {
    const drum = drums.get(drumOf(own)) ?? { voice: own.hit.voice, alone: [] };
    drum.alone.push(own);
    drums.set(drumOf(own), drum);
  }
  return [...drums].flatMap(([key, drum]) =>
    drum.alone.length >= leastStrokes && drum.alone.length >= (1 - mostNamed) * strokes.get(key)!
      ? [drum]
      : [],
  );
}

/**
 * Pairs the strokes of drums that are the same under two names, the likest first.
 *
 * @param missing hits of the reference without a counterpart, of `all.reference`.
 * @param extra hits of the version without one, of `all.version`, in beats of the reference.
 */
export function pairRenamed(
  missing: readonly Placed[],
  extra: readonly Placed[],
  all: { reference: readonly Placed[]; version: readonly Placed[] },
  near: Parameters<typeof pairUp>[3],
): [Placed, Placed][] {
  const theirs = unmatched(extra, all.version);
  const candidates = unmatched(missing, all.reference)
    .flatMap((a) =>
      theirs.flatMap((b) => {
        if (isLow(a.voice) !== isLow(b.voice)) return [];
        const { pairs } = pairUp(a.alone, b.alone, () => true, near);
        const f = (2 * pairs.length) / (a.alone.length + b.alone.length);
        return f >= sameAt && pairs.length >= leastStrokes ? [{ a, b, pairs, f }] : [];
      }),
    )
    .sort((x, y) => y.f - x.f);
  const used = new Set<Drum>();
  return candidates.flatMap(({ a, b, pairs }) => {
    if (used.has(a) || used.has(b)) return [];
    used.add(a).add(b);
    return pairs;
  });
}

/** The loop of chords that a track or a section goes round in. */
import { sameChord, type Chord } from "../harmony/chords";
import type { PlacedChord } from "../harmony/harmonyEstimate";

/** A loop of chords and how much of the music it accounts for. */
export interface ChordLoop {
  chords: { chord: Chord | null; beats: number }[];
  beats: number;
  /** Share of the beats with a chord on which it is the one that sounds, 0–1. */
  share: number;
}

const loopBars = [1, 2, 4, 8] as const;
/** A longer loop must account for so much more. */
const gainOfLonger = 0.06;
const leastShare = 0.55;

/**
 * The shortest loop of 1, 2, 4 or 8 bars that accounts for most of some beats, counted from the
 * first of them; null where nothing goes round.
 */
export function chordLoop(
  chords: readonly PlacedChord[],
  firstBeat: number,
  lastBeat: number,
  beatsPerBar: number,
): ChordLoop | null {
  const beats = Math.round(lastBeat - firstBeat);
  const at: (Chord | null)[] = Array.from({ length: beats }, (_, i) => {
    const middle = firstBeat + i + 0.5;
    return chords.find(({ startBeat, endBeat }) => middle >= startBeat && middle < endBeat)?.chord ?? null;
  });
  const sounding = at.filter((chord) => chord !== null).length;
  if (sounding === 0) return null;
  let best: ChordLoop | null = null;
  for (const bars of loopBars) {
    const period = bars * beatsPerBar;
    // It must come round at least twice.
    if (2 * period > beats) break;
    const loop = Array.from({ length: period }, (_, place) => commonest(at, place, period));
    const agreed = at.filter((chord, i) => chord !== null && sameChord(chord, loop[i % period]!)).length;
    const share = agreed / sounding;
    if (share >= leastShare && (!best || share > best.share + gainOfLonger)) {
      best = { chords: runs(loop), beats: period, share };
    }
  }
  return best;
}

/**
 * The loop that most of a track goes round in: each section's own, the same ones taken together.
 *
 * @returns the loop with its share of all beats of sections, and whether it is that of every section.
 */
export function mainLoop(
  chords: readonly PlacedChord[],
  sections: readonly { firstBar: number; lastBar: number }[],
  beatsPerBar: number,
): ChordLoop | null {
  const loops: { loop: ChordLoop; beats: number }[] = [];
  let whole = 0;
  for (const { firstBar, lastBar } of sections) {
    const beats = (lastBar - firstBar + 1) * beatsPerBar;
    whole += beats;
    const loop = chordLoop(chords, (firstBar - 1) * beatsPerBar, lastBar * beatsPerBar, beatsPerBar);
    if (!loop) continue;
    const known = loops.find((own) => sameLoop(own.loop, loop));
    if (known) known.beats += beats;
    else loops.push({ loop, beats });
  }
  const best = loops.reduce<(typeof loops)[number] | null>(
    (most, own) => (most && most.beats >= own.beats ? most : own),
    null,
  );
  return best && { ...best.loop, share: best.beats / whole };
}

const sameLoop = (a: ChordLoop, b: ChordLoop): boolean =>
  a.chords.length === b.chords.length &&
  a.chords.every(
    ({ chord, beats }, i) => beats === b.chords[i]!.beats && sameChord(chord, b.chords[i]!.chord),
  );

/** The chord that stands most often at one place of the loop. */
function commonest(at: readonly (Chord | null)[], place: number, period: number): Chord | null {
  const counts: { chord: Chord; count: number }[] = [];
  for (let i = place; i < at.length; i += period) {
    const chord = at[i];
    if (!chord) continue;
    const known = counts.find((c) => sameChord(c.chord, chord));
    if (known) known.count++;
    else counts.push({ chord, count: 1 });
  }
  return (
    counts.reduce<(typeof counts)[number] | null>(
      (best, own) => (best && best.count >= own.count ? best : own),
      null,
    )?.chord ?? null
  );
}

function runs(loop: readonly (Chord | null)[]): ChordLoop["chords"] {
  const result: ChordLoop["chords"] = [];
  for (const chord of loop) {
    const last = result.at(-1);
    if (last && sameChord(last.chord, chord)) last.beats++;
    else result.push({ chord, beats: 1 });
  }
  return result;
}

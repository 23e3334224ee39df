/** What kind of major or minor chord it is, and which note is its bass, from all that sounds while it lasts. */
import { chromaSize, type BeatChroma } from "./beatChroma";
import type { Chord, ChordQuality } from "./chords";
import { asPitchClass, type PitchClass } from "./notes";

const { max } = Math;

/** Strengths against the strongest note from which on a note belongs to the chord. */
const sounds = { seventh: 0.5, suspended: 0.45, fifth: 0.4, thirdOfPower: 0.22 } as const;
/** How much stronger one note must be than the one it stands in for. */
const instead = { third: 1.7, fifth: 1.4 } as const;
/** A bass sounds where its strongest note has this share of the strongest above it. */
const leastBass = 0.3;
/** A bass other than the root must be so much stronger than the root. */
const bassInstead = 1.8;

/** Strength of each pitch class above a root in the middle and top ranges, and in the bass, 0–1 each. */
function strengthsAbove({ values }: BeatChroma, from: number, to: number, root: PitchClass) {
  const upper = new Float32Array(12);
  const bass = new Float32Array(12);
  for (let beat = from; beat < to; beat++) {
    for (let i = 0; i < chromaSize; i++) {
      const above = asPitchClass(i - root);
      if (i < 12) bass[above]! += values[beat * chromaSize + i]!;
      else upper[above]! += values[beat * chromaSize + i]!;
    }
  }
  const hasBass = max(...bass) > leastBass * max(...upper);
  for (const strengths of [upper, bass]) {
    const largest = max(...strengths);
    if (largest > 0) for (let i = 0; i < 12; i++) strengths[i]! /= largest;
  }
  return { upper, bass, hasBass };
}

function qualityOf(s: Float32Array, minor: boolean): ChordQuality {
  const third = max(s[3]!, s[4]!);
  if (third < sounds.thirdOfPower || max(s[2]!, s[5]!) > instead.third * third) {
    if (s[5]! > sounds.suspended && s[5]! > s[2]! && s[5]! > instead.third * third) return "sus4";
    if (s[2]! > sounds.suspended && s[2]! > instead.third * third) return "sus2";
    if (third < sounds.thirdOfPower && s[7]! > sounds.fifth) return "5";
  }
  if (minor && s[6]! > sounds.fifth && s[6]! > instead.fifth * s[7]!) return "dim";
  if (!minor && s[8]! > sounds.fifth && s[8]! > instead.fifth * s[7]!) return "aug";
  if (minor) return s[10]! > sounds.seventh ? "min7" : "min";
  if (s[11]! > sounds.seventh && s[11]! >= s[10]!) return "maj7";
  return s[10]! > sounds.seventh ? "7" : "maj";
}

/**
 * @param from first beat of the chord.
 * @param to beat after its last.
 */
export function wholeChord(
  chroma: BeatChroma,
  from: number,
  to: number,
  root: PitchClass,
  minor: boolean,
): Chord {
  const { upper, bass, hasBass } = strengthsAbove(chroma, from, to, root);
  const lowest = bass.indexOf(max(...bass));
  const quality = qualityOf(upper, minor);
  // Only a note of the chord is taken for its bass: a walking bass is not.
  const isOther = hasBass && bass[lowest]! > bassInstead * bass[0]! && [3, 4, 7].includes(lowest);
  // A suspended second over its fifth is what is called a suspended fourth.
  if (isOther && quality === "sus2" && lowest === 7) {
    return { root: asPitchClass(root + 7), quality: "sus4", bass: asPitchClass(root + 7) };
  }
  return { root, quality, bass: asPitchClass(root + (isOther ? lowest : 0)) };
}

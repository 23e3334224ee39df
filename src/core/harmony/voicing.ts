/** Notes at which a chord is sounded or written: a close voicing over its bass. */
import { chordNotes, type Chord } from "./chords";

/** Lowest MIDI pitches of the bass and of the chord above it. */
const bassFrom = 36;
const chordFrom = 55;

const atOrAbove = (pitchClass: number, lowest: number) => lowest + ((((pitchClass - lowest) % 12) + 12) % 12);

/** MIDI pitches, rising. */
export const voicing = (chord: Chord): { bass: number; notes: number[] } => ({
  bass: atOrAbove(chord.bass, bassFrom),
  notes: chordNotes(chord)
    .map((pitchClass) => atOrAbove(pitchClass, chordFrom))
    .sort((a, b) => a - b),
});

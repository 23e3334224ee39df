import { asPitchClass, noteName, type PitchClass, type Spelling } from "@/core/harmony/notes";

const whites = [0, 2, 4, 5, 7, 9, 11];
/** Black keys and the white key that each stands behind. */
const blacks: readonly [pitchClass: number, after: number][] = [
  [1, 0],
  [3, 1],
  [6, 3],
  [8, 4],
  [10, 5],
];
const keyWidth = 17;
const keyHeight = 62;
const octaves = 2;

/** Two octaves from C with the notes of a chord marked, its bass with a ring. */
export function Keyboard({
  notes,
  bass,
  spelling,
}: {
  /** From the root up. */
  notes: readonly PitchClass[];
  bass: PitchClass;
  spelling: Spelling;
}) {
  // Each note above the one before it, from the root in the first octave on.
  const pitches: number[] = [];
  for (const note of notes) {
    const last = pitches.at(-1) ?? asPitchClass(notes[0]!) - 1;
    pitches.push(last + 1 + asPitchClass(note - last - 1));
  }
  const place = (pitch: number): { x: number; y: number } => {
    const octave = Math.floor(pitch / 12);
    const black = blacks.find(([own]) => own === asPitchClass(pitch));
    const white = black ? black[1] + 1 : whites.indexOf(asPitchClass(pitch)) + 0.5;
    return { x: (octave * 7 + white) * keyWidth, y: black ? keyHeight * 0.42 : keyHeight * 0.8 };
  };
  const names = notes.map((note) => noteName(note, spelling)).join(" ");
  return (
    <svg
      viewBox={`0 0 ${octaves * 7 * keyWidth + 2} ${keyHeight + 2}`}
      className="chord-keyboard"
      role="img"
      aria-label={`Keys ${names}`}
    >
      {Array.from({ length: octaves * 7 }, (_, i) => (
        <rect key={i} className="white" x={i * keyWidth + 1} y={1} width={keyWidth} height={keyHeight} />
      ))}
      {Array.from({ length: octaves }, (_, octave) =>
        blacks.map(([own, after]) => (
          <rect
            key={`${octave} ${own}`}
            className="black"
            x={(octave * 7 + after + 1) * keyWidth - keyWidth * 0.3}
            y={1}
            width={keyWidth * 0.62}
            height={keyHeight * 0.6}
          />
        )),
      )}
      {pitches.map((pitch) => {
        const { x, y } = place(pitch);
        return (
          <circle
            key={pitch}
            className={asPitchClass(pitch) === bass ? "note bass" : "note"}
            cx={x + 1}
            cy={y}
            r={5.2}
          />
        );
      })}
    </svg>
  );
}

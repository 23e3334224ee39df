import { Midi } from "@/core/formats/midiFile";
import { bassOfMidi } from "./bassTruth";

/** A file of parts: program, and notes by time and pitch, half a second long. */
function fileOf(
  parts: readonly (readonly [program: number, notes: readonly (readonly [number, number])[]])[],
) {
  const midi = new Midi();
  parts.forEach(([program, notes], i) => {
    const track = midi.addTrack();
    track.channel = i;
    track.instrument.number = program;
    for (const [time, pitch] of notes) track.addNote({ midi: pitch, time, duration: 0.5 });
  });
  return midi;
}
const bass = 33;
const piano = 0;

it("is the lowest of bass parts that play together", () => {
  const { notes } = bassOfMidi(
    fileOf([
      [
        bass,
        [
          [0, 45],
          [1, 40],
        ],
      ],
      [bass, [[0.01, 33]]],
      [piano, [[0, 60]]],
    ]),
  );
  expect(notes.map(({ pitch }) => pitch)).toEqual([33, 40]);
});

it("is no part of a bass program that plays high", () => {
  expect(
    bassOfMidi(
      fileOf([
        [
          bass,
          [
            [0, 70],
            [1, 72],
          ],
        ],
      ]),
    ).notes,
  ).toEqual([]);
});

it("says beneath how much of it another part sounds", () => {
  const { beneath } = bassOfMidi(
    fileOf([
      [
        bass,
        [
          [0, 45],
          [1, 45],
          [2, 45],
          [3, 45],
        ],
      ],
      // Beneath the second, above the third, and over before the fourth has begun.
      [
        piano,
        [
          [1, 33],
          [2, 57],
          [2.52, 33],
        ],
      ],
    ]),
  );
  expect(beneath).toBe(0.25);
});

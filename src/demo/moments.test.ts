/** Moments that are written into songs: the notes and the truth say the same. */
import { addMoments, momentsIn } from "./moments";
import { barsOf, sectionSpans, straightTimeOf } from "./song";
import { styleSong, styles } from "./songs/styles";
import { rolesIn } from "./truth";

const early = 0.06;

/** A song with its moments, and the notes that begin in some beats of it. */
function written(style: string, seed: number) {
  const song = styleSong(style, seed);
  const added = addMoments(song);
  const notesIn = (startBeat: number, beats: number, drumsOnly = false) => {
    const [from, to] = [straightTimeOf(song, startBeat), straightTimeOf(song, startBeat + beats)];
    return song.parts
      .filter(({ sound }) => !drumsOnly || sound === "drums")
      .flatMap(({ notes }) => notes)
      .filter(({ time }) => time >= from - early && time < to - early);
  };
  return { song, added, all: momentsIn(song, added), notesIn };
}

describe("moments", () => {
  it.each([...styles])("of %s: stops are silent, drums are out where it is said, crashes crash", (style) => {
    for (const seed of [1, 2, 3]) {
      const { song, all, notesIn } = written(style, seed);
      for (const { kind, startBeat, beats } of all) {
        expect(startBeat).toBeGreaterThanOrEqual(0);
        expect(startBeat + beats).toBeLessThanOrEqual(barsOf(song) * song.beatsPerBar);
        if (kind === "stop") expect(notesIn(startBeat, beats)).toEqual([]);
        if (kind === "drumsOut") {
          expect(notesIn(startBeat, beats, true)).toEqual([]);
          expect(notesIn(startBeat - song.beatsPerBar, song.beatsPerBar, true).length).toBeGreaterThan(0);
        }
        if (kind === "crash") {
          expect(notesIn(startBeat, 1).some(({ pitch, voice }) => voice === "cymbal" && pitch === 49)).toBe(
            true,
          );
        }
      }
    }
  });

  it("are of every kind over some songs, each the same for the same seed", () => {
    const kinds = new Set<string>();
    for (const style of styles) {
      const { added } = written(style, 5);
      for (const { kind } of added) kinds.add(kind);
      expect(written(style, 5).added).toEqual(added);
    }
    expect([...kinds].sort()).toEqual(["crash", "drumsOut", "filterOpening", "riser", "stop"]);
  });

  it("begin or end where sections begin", () => {
    for (const style of styles) {
      const { song, added } = written(style, 4);
      const starts = new Set(sectionSpans(song).map(({ startBeat }) => startBeat));
      for (const { kind, startBeat, beats } of added) {
        expect(starts.has(kind === "crash" ? startBeat : startBeat + beats)).toBe(true);
      }
    }
  });
});

it("the groups that play in a section are those whose parts have notes there", () => {
  const song = styleSong("house", 2);
  const roles = rolesIn(song);
  const names = sectionSpans(song).map(({ name }) => name);
  // The break of house has its pad alone; the intro has the kick under it.
  expect(roles[names.indexOf("break")]).toEqual(["chords"]);
  expect(new Set(roles[names.indexOf("intro")])).toEqual(new Set(["drums", "chords"]));
  expect(new Set(roles[names.indexOf("chorus")])).toEqual(new Set(["drums", "bass", "chords"]));
});

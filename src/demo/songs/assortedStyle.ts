/** A style that is none: forms, patterns and sounds as they come. */
import { bass, comp, drums, harmony, melody, pad, part } from "../writing";
import { songForm, groove, type StylePlan } from "./stylePlan";

export const assorted: StylePlan = {
  bpm: [76, 166],
  swing: { of: 16, percent: [50, 60] },
  sections: songForm,
  looseness: [0.004, 0.09],
  write(song, c, loop) {
    // Any kick with any back-beat and any top: grooves that no one style has.
    harmony(song, "all", loop, c.pick([4, 4, 8]));
    const kick = part(song, "kick", "drums", { gainDb: c.between(1, 5), room: 0 });
    drums(song, kick, c.pick(["kick", "deepKick"]), groove, [
      c.pick([
        "X...X...X...X...",
        "X.....x.X.......",
        "X..x..x.X...x...",
        "X.......X.......",
        "X.x.....x.X.....",
        "X...x.....x..x..",
      ]),
      c.pick(["X...X...X...X..x", "X.....x.X.....x.", "X.........X....."]),
    ]);
    const back = part(song, "back-beat", "drums", { gainDb: c.between(-1, 3), room: c.between(0, 0.3) });
    drums(song, back, c.pick(["snare", "clap", "rim", "electricSnare", "tambourine"]), groove, [
      c.pick([
        "....X.......X...",
        "....X.......X...",
        "....X..o.o..X...",
        "........X.......",
        "....x..x....x..o",
      ]),
    ]);
    const top = part(song, "top", "drums", { gainDb: c.between(-6, -1), pan: c.between(-0.3, 0.3) });
    drums(song, top, c.pick(["hat", "ride", "shaker", "pedalHat", "openHat"]), c.pick(["all", groove]), [
      c.pick([
        "x.x.x.x.x.x.x.x.",
        "x.o.x.o.x.o.x.o.",
        "..x...x...x...x.",
        "xoxoxoxoxoxoxoxo",
        ".xo..xo..xo..xo.",
        "x...x...x...x...",
      ]),
    ]);
    if (c.next() < 0.6) {
      const more = part(song, "percussion", "drums", { gainDb: -4, pan: c.between(-0.5, 0.5), room: 0.2 });
      drums(
        song,
        more,
        c.pick(["openConga", "lowConga", "cowbell", "tambourine", "lowTom"]),
        ["verse", "chorus"],
        [c.pick(["...x..x....x.x..", "x..x..x...x.x...", "..x...x...x...x.", "x.....x.....x..."])],
      );
    }
    const low = part(song, "bass", c.pick([32, 33, 36, 38, 39]), { gainDb: c.between(0, 3), room: 0 });
    bass(
      song,
      low,
      c.pick([groove, "all"]),
      [
        c.pick([
          "1.......1.......",
          "1..1..1...1.1...",
          "..1...1...1...1.",
          "1.1.1.1.1.1.1.1.",
          "1.....8...1.5...",
          "1..........1.1..",
        ]),
      ],
      c.pick([1, 2, 4]),
      28,
    );
    const chords = part(song, "chords", c.pick([0, 4, 16, 24, 27, 81]), { gainDb: -3, room: 0.15 });
    comp(
      song,
      chords,
      c.pick(["all", groove]),
      [
        c.pick([
          "x.......x.......",
          "..x...x...x...x.",
          "x..x..x...x.....",
          "....x.......x...",
          "x.x.x.x.x.x.x.x.",
          "..x..x....x..x..",
        ]),
      ],
      c.pick([1, 2, 4]),
    );
    if (c.next() < 0.7) {
      const held = part(song, "held", c.pick([48, 50, 89, 52]), { gainDb: -6, room: 0.4 });
      pad(song, held, c.pick(["all", ["chorus"], ["intro", "chorus"]]), 60);
    }
    if (c.next() < 0.7) {
      const lead = part(song, "lead", c.pick([11, 22, 56, 65, 73, 80]), { gainDb: -4, room: 0.3 });
      melody(song, lead, ["verse", "chorus"], ["x..x..x...x.x...", "x.....x.x......."], 3);
    }
  },
};

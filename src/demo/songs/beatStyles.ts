/** Styles of beats under a voice. */
import { bass, comp, drums, harmony, melody, pad, part } from "../writing";
import { songForm, groove, type StylePlan } from "./stylePlan";

export const boomBap: StylePlan = {
  bpm: [80, 96],
  swing: { of: 16, percent: [54, 62] },
  mode: "minor",
  sections: [
    ["intro", 4],
    ["verse", 8],
    ["chorus", 4],
    ["verse 2", 8],
  ],
  looseness: [0.006, 0.1],
  write(song, c, loop) {
    harmony(song, "all", loop, 8);
    const kick = part(song, "kick", "drums", { gainDb: 4, room: 0 });
    drums(
      song,
      kick,
      "deepKick",
      ["verse", "chorus"],
      c.pick([
        ["X......xX.x.....", "X..x....x.X....x"],
        ["X.x.......xX....", "X.........X..x.."],
      ]),
    );
    const snare = part(song, "snare", "drums", { gainDb: 2, room: 0.1 });
    drums(song, snare, "snare", ["verse", "chorus"], ["....X.......X...", "....X.......X..o"], 0.008);
    const hats = part(song, "hats", "drums", { gainDb: -4, pan: 0.1 });
    drums(
      song,
      hats,
      "hat",
      ["intro", "verse", "chorus"],
      [c.pick(["x.x.x.x.x.x.x.x.", "x.xox.x.x.xox.x."])],
    );
    const low = part(song, "bass", c.pick([32, 33]), { gainDb: 2, room: 0 });
    bass(song, low, ["verse", "chorus"], [c.pick(["1......11.1.....", "1..1......5.1..."])], 3, 28);
    const keys = part(song, "keys", c.pick([4, 0, 11]), { gainDb: -3, room: 0.2 });
    comp(song, keys, "all", [c.pick(["x.....x.........", "x...............", "..x...x...x....."])], 6);
    const lead = part(song, "flute", c.pick([73, 65]), { gainDb: -6, room: 0.3 });
    melody(song, lead, ["chorus"], ["x..x....x.x....."], 3);
  },
};

export const drill: StylePlan = {
  bpm: [138, 146],
  mode: "minor",
  sections: [
    ["intro", 4],
    ["verse", 12],
    ["chorus", 8],
    ["verse 2", 8],
  ],
  write(song, c, loop) {
    harmony(song, "all", loop, 8);
    const kick = part(song, "kick", "drums", { gainDb: 4, room: 0 });
    drums(
      song,
      kick,
      "deepKick",
      ["verse", "chorus"],
      c.pick([
        ["X..x......x.....", "X.....x...x..x.."],
        ["X.....x.....x...", "X..x......X....."],
      ]),
    );
    const snare = part(song, "snare", "drums", { gainDb: 2, room: 0.1 });
    drums(song, snare, "snare", ["verse", "chorus"], ["........X.......", "........X.....x."]);
    const hats = part(song, "hats", "drums", { gainDb: -2, pan: 0.15 });
    drums(
      song,
      hats,
      "hat",
      ["verse", "chorus"],
      [c.pick(["x..x..x.x..x..x.", "x..x..x...x.x.x."]), "x..x..x.x..xxxx."],
    );
    const perc = part(song, "rim", "drums", { gainDb: -6, pan: -0.3 });
    drums(song, perc, "rim", ["chorus"], ["...x.....x....x."]);
    const low = part(song, "bass", c.pick([38, 39]), { gainDb: 3, room: 0 });
    bass(song, low, ["verse", "chorus"], ["1..1......1.....", "1.....1...8..1.."], 3, 26);
    const piano = part(song, "piano", c.pick([0, 46, 11]), { gainDb: -4, room: 0.4 });
    melody(song, piano, "all", ["x...x...x...x...", "x.....x.x.....x."], 3, 66);
    const strings = part(song, "pad", 48, { gainDb: -9, room: 0.4 });
    pad(song, strings, ["chorus"], 60);
  },
};

export const trap: StylePlan = {
  bpm: [128, 156],
  mode: "minor",
  sections: [
    ["intro", 4],
    ["verse", 12],
    ["chorus", 8],
    ["verse 2", 8],
    ["outro", 4],
  ],
  write(song, c, loop) {
    harmony(song, "all", loop, c.pick([4, 8]));
    const kick = part(song, "kick", "drums", { gainDb: 4, room: 0 });
    drums(
      song,
      kick,
      "deepKick",
      ["verse", "chorus"],
      c.pick([
        ["X.....X...X.....", "X..X......X..X.."],
        ["X.........X..X..", "X.....X......X.."],
        ["X..x..x.........", "X......x..X....."],
      ]),
    );
    const snare = part(song, "snare", "drums", { gainDb: 2, room: 0.15 });
    drums(song, snare, c.pick(["clap", "snare", "electricSnare"]), ["verse", "chorus"], ["........X......."]);
    const hats = part(song, "hats", "drums", { gainDb: -2, pan: 0.15 });
    drums(
      song,
      hats,
      "hat",
      ["verse", "chorus"],
      [
        "x.x.x.x.x.x.x.x.",
        c.pick(["x.x.x.x.x.x.xxxx", "x.x.xxx.x.x.x.x."]),
        "x...x...x...x...x...x...xxxxxxxx",
        c.pick(["x..x..x..x..x..x..x..x..", "x.x.x.x.x.xxx.x."]),
      ],
    );
    const low = part(song, "bass", c.pick([38, 39]), { gainDb: 4, room: 0, lowPassHz: 1500 });
    bass(
      song,
      low,
      ["verse", "chorus"],
      [c.pick(["1.........1.....", "1.....1...1..1..", "1..1......1....."])],
      5,
      24,
    );
    const bell = part(song, "bell", c.pick([11, 14, 0, 46]), { gainDb: -4, room: 0.4 });
    melody(song, bell, "all", [c.pick(["x...x...x...x...", "x..x..x...x.....", "x.x...x.x...x..."])], 3, 68);
    const strings = part(song, "pad", c.pick([48, 52, 91]), { gainDb: -7, room: 0.4 });
    pad(song, strings, ["intro", "chorus", "outro"], 58);
  },
};

export const reggaeton: StylePlan = {
  bpm: [86, 104],
  mode: "minor",
  sections: songForm,
  looseness: [0.003, 0.07],
  write(song, c, loop) {
    harmony(song, "all", loop, 4);
    const kick = part(song, "kick", "drums", { gainDb: 4, room: 0 });
    drums(song, kick, "kick", groove, ["X...X...X...X..."]);
    const snare = part(song, "snare", "drums", { gainDb: 1, room: 0.1 });
    drums(song, snare, c.pick(["snare", "rim", "electricSnare"]), groove, [
      c.pick(["...x..x....x..x.", "...X..x....X..x."]),
    ]);
    const hats = part(song, "hats", "drums", { gainDb: -4, pan: 0.2 });
    drums(
      song,
      hats,
      c.pick(["hat", "shaker"]),
      ["intro", "chorus"],
      [c.pick(["x.x.x.x.x.x.x.x.", "xoxoxoxoxoxoxoxo"])],
    );
    const low = part(song, "bass", c.pick([33, 38]), { gainDb: 2, room: 0 });
    bass(song, low, groove, [c.pick(["1..1..1.1..1..1.", "1.....1.1.......", "1...1..5..1.1..."])], 2, 28);
    const pluck = part(song, "pluck", c.pick([24, 45, 4]), { gainDb: -3, pan: -0.2, room: 0.2 });
    comp(song, pluck, "all", [c.pick(["x..x..x.x..x..x.", "x.......x..x....", "..x...x...x...x."])], 2);
    const lead = part(song, "lead", c.pick([73, 80, 11]), { gainDb: -5, room: 0.3 });
    melody(song, lead, ["verse", "chorus"], ["x..x..x...x.x..."], 2);
  },
};

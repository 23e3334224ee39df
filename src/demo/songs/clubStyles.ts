/** Styles of the dance floor. */
import { bass, comp, drums, harmony, melody, pad, part } from "../writing";
import { clubForm, songForm, groove, type StylePlan } from "./stylePlan";

export const house: StylePlan = {
  bpm: [118, 129],
  swing: { of: 16, percent: [50, 58] },
  mode: "minor",
  sections: clubForm,
  write(song, c, loop) {
    harmony(song, "all", loop, 4);
    const kick = part(song, "kick", "drums", { gainDb: 4, room: 0 });
    drums(song, kick, "kick", ["intro", "verse", "chorus"], ["X...X...X...X..."]);
    const clap = part(song, "clap", "drums", { gainDb: 0, room: 0.2 });
    drums(song, clap, c.pick(["clap", "snare"]), ["verse", "chorus"], ["....X.......X..."]);
    const hats = part(song, "hats", "drums", { gainDb: -2, pan: 0.1 });
    drums(song, hats, "openHat", ["verse", "chorus"], ["..x...x...x...x."]);
    drums(song, hats, "hat", ["chorus"], [c.pick(["xo.oxo.oxo.oxo.o", "x,x,x,x,x,x,x,x,"])]);
    const perc = part(song, "perc", "drums", { gainDb: -7, pan: -0.3 });
    drums(song, perc, c.pick(["shaker", "tambourine", "mutedConga"]), ["chorus"], ["..xo..xo..xo..xo"]);
    const low = part(song, "bass", c.pick([38, 39, 33]), { gainDb: 1, room: 0 });
    bass(
      song,
      low,
      ["verse", "chorus"],
      [c.pick(["..1...1...1...1.", "1..1..1.1..1..1.", "..11..11..11..18"])],
      1,
      30,
    );
    const keys = part(song, "keys", c.pick([4, 16, 0]), { gainDb: -3, highPassHz: 150 });
    comp(
      song,
      keys,
      ["verse", "chorus"],
      [c.pick(["..x..x....x..x..", "x..x..x...x.....", "....x.....x....."])],
      2,
    );
    const strings = part(song, "pad", c.pick([48, 89, 90]), { gainDb: -6, room: 0.4 });
    pad(song, strings, "all", 60);
  },
};

export const discoFunk: StylePlan = {
  bpm: [108, 124],
  swing: { of: 16, percent: [50, 57] },
  sections: songForm,
  looseness: [0.004, 0.09],
  write(song, c, loop) {
    harmony(song, "all", loop, c.pick([4, 8]));
    const kick = part(song, "kick", "drums", { gainDb: 3, room: 0 });
    drums(song, kick, "kick", groove, [c.pick(["X...X...X...X...", "X..x....X..x..x.", "X.....x.X.x....."])]);
    const snare = part(song, "snare", "drums", { gainDb: 0, room: 0.15 });
    drums(song, snare, "snare", groove, ["....X.......X...", "....X..,.,..X..,"], 0.005);
    const hats = part(song, "hats", "drums", { gainDb: -3, pan: 0.2 });
    drums(song, hats, "hat", "all", [c.pick(["xoxoxoxoxoxoxoxo", "x.x.x.x.x.x.x.x.", "xoo,xoo,xoo,xoo,"])]);
    const congas = part(song, "congas", "drums", { gainDb: -5, pan: -0.4 });
    drums(song, congas, "openConga", ["intro", "verse"], ["...x..x....x.x.."]);
    const low = part(song, "bass", c.pick([33, 36]), { gainDb: 1, room: 0 });
    bass(song, low, groove, [c.pick(["1.8.1.8.1.8.1.8.", "1..1.8..1.1..8.5", "1...1..8.8..1.5."])], 1, 30);
    const guitar = part(song, "guitar", 28, { gainDb: -3, pan: 0.4, highPassHz: 200 });
    comp(song, guitar, groove, ["x.xx.xx.x.xx.xx."], 1, 60);
    const brass = part(song, "brass", c.pick([61, 48]), { gainDb: -5, room: 0.2, highPassHz: 200 });
    comp(song, brass, ["chorus"], ["x.....x........."], 3, 60);
  },
};

export const drumAndBass: StylePlan = {
  bpm: [169, 176],
  mode: "minor",
  sections: [
    ["intro", 8],
    ["verse", 16],
    ["break", 8],
    ["chorus", 16],
  ],
  write(song, c, loop) {
    harmony(song, "all", loop, 8);
    const kick = part(song, "kick", "drums", { gainDb: 3, room: 0 });
    drums(
      song,
      kick,
      "kick",
      ["verse", "chorus"],
      [c.pick(["X.........X.....", "X.x.......X.....", "X.........X..x.."]), "X.........X....."],
    );
    const snare = part(song, "snare", "drums", { gainDb: 2, room: 0.1 });
    drums(
      song,
      snare,
      c.pick(["snare", "electricSnare"]),
      ["verse", "chorus"],
      [c.pick(["....X.......X...", "....X..o.o..X..o"])],
    );
    const hats = part(song, "hats", "drums", { gainDb: -3, pan: 0.1 });
    drums(
      song,
      hats,
      "hat",
      ["intro", "verse", "chorus"],
      [c.pick(["x.x.x.x.x.x.x.x.", "x.o.x.o.x.o.x.o.", "xox.xox.xox.xoxo"])],
    );
    const low = part(song, "bass", c.pick([38, 39, 87]), { gainDb: 2, room: 0 });
    bass(
      song,
      low,
      ["verse", "chorus"],
      [c.pick(["1...............", "1.....1...1.....", "1..1......1...8."])],
      c.pick([3, 5]),
      28,
    );
    const strings = part(song, "pad", c.pick([48, 89, 91]), { gainDb: -6, room: 0.5 });
    pad(song, strings, "all", 60);
    const lead = part(song, "lead", c.pick([80, 11, 4]), { gainDb: -6, room: 0.3 });
    melody(song, lead, ["intro", "chorus"], ["x..x..x.....x..."], 3);
  },
};

export const speedGarage: StylePlan = {
  bpm: [129, 136],
  swing: { of: 16, percent: [55, 62] },
  mode: "minor",
  sections: clubForm,
  write(song, c, loop) {
    harmony(song, "all", loop, 4);
    const kick = part(song, "kick", "drums", { gainDb: 4, room: 0 });
    drums(
      song,
      kick,
      "kick",
      ["intro", "verse", "chorus"],
      c.pick([["X...X...X...X..."], ["X.........x....."], ["X.....x...x....."]]),
    );
    const snare = part(song, "snare", "drums", { gainDb: 1, room: 0.1 });
    drums(
      song,
      snare,
      c.pick(["snare", "clap", "rim"]),
      ["verse", "chorus"],
      [c.pick(["....X.......X...", "....X..o....X..o"])],
    );
    const hats = part(song, "hats", "drums", { gainDb: -2, pan: 0.15 });
    drums(song, hats, "openHat", ["chorus"], ["..x...x...x...x."]);
    drums(
      song,
      hats,
      "hat",
      ["intro", "verse", "chorus"],
      [c.pick(["x.xox.xox.xox.xo", ".xx..xx..xx..xx.", "x.x.x.x.x.x.x.x."])],
    );
    const low = part(song, "bass", c.pick([38, 39, 87]), { gainDb: 2, room: 0 });
    bass(song, low, ["verse", "chorus"], [c.pick(["..1..1....1.1...", "1..1...1..1..8.."])], 2, 28);
    const organ = part(song, "organ", c.pick([16, 17, 4]), { gainDb: -3, room: 0.2, highPassHz: 150 });
    comp(song, organ, ["verse", "chorus"], [c.pick(["..x..x.....x....", "x..x...x..x....."])], 1);
    const strings = part(song, "pad", 89, { gainDb: -7, room: 0.4 });
    pad(song, strings, ["intro", "break", "chorus"], 60);
  },
};

export const techno: StylePlan = {
  bpm: [126, 146],
  mode: "minor",
  sections: clubForm,
  write(song, c, loop) {
    harmony(song, "all", loop, c.pick([8, 16]));
    const kick = part(song, "kick", "drums", { gainDb: 5, room: 0 });
    drums(song, kick, c.pick(["kick", "deepKick"]), ["intro", "verse", "chorus"], ["X...X...X...X..."]);
    const hats = part(song, "hats", "drums", { gainDb: -1, pan: 0.1 });
    drums(song, hats, "openHat", ["verse", "chorus"], [c.pick(["..X...X...X...X.", "..x...x...x...xo"])]);
    drums(
      song,
      hats,
      "hat",
      ["intro", "chorus"],
      [c.pick(["xxxxxxxxxxxxxxxx", "x.xxx.xxx.xxx.xx", "oxoxoxoxoxoxoxox"])],
    );
    const perc = part(song, "perc", "drums", { gainDb: -4, pan: -0.3, room: 0.3 });
    drums(
      song,
      perc,
      c.pick(["rim", "clap", "cowbell", "highTom"]),
      ["verse", "chorus"],
      [c.pick(["....x.......x...", "...x..x....x..x.", "...x.......x....", "x..x..x..x..x..x"])],
    );
    const low = part(song, "bass", c.pick([38, 39, 87]), { gainDb: 1, room: 0 });
    bass(
      song,
      low,
      ["verse", "chorus"],
      [c.pick(["..1...1...1...1.", ".111.111.111.111", "..11..11..11..11", "1.1.1.1.1.1.1.1."])],
      1,
      28,
    );
    const stab = part(song, "stab", c.pick([81, 62, 90]), { gainDb: -5, room: 0.4, highPassHz: 200 });
    comp(
      song,
      stab,
      ["verse", "chorus", "break"],
      [c.pick(["..x.......x.....", "...x..x.........", "x..x..x..x..x.x."])],
      1,
    );
    const strings = part(song, "pad", c.pick([89, 91, 95]), { gainDb: -8, room: 0.5 });
    pad(song, strings, ["break", "chorus"], 60);
  },
};

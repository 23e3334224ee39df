/** Styles that are played by a band, or as if. */
import { bass, comp, drums, harmony, melody, pad, part } from "../writing";
import { songForm, groove, type StylePlan } from "./stylePlan";

export const popRock: StylePlan = {
  bpm: [96, 152],
  mode: "major",
  sections: songForm,
  looseness: [0.007, 0.1],
  write(song, c, loop) {
    harmony(song, "all", loop, 4);
    const kick = part(song, "kick", "drums", { gainDb: 3, room: 0.05 });
    drums(
      song,
      kick,
      "deepKick",
      groove,
      c.pick([["X.....x.X......."], ["X.......X.x....."], ["X...x...X.x....."]]),
    );
    const snare = part(song, "snare", "drums", { gainDb: 1, room: 0.2 });
    drums(song, snare, "snare", groove, ["....X.......X..."], 0.004);
    const hats = part(song, "hats", "drums", { gainDb: -3, pan: 0.25 });
    drums(song, hats, "hat", ["intro", "verse"], ["x.o.x.o.x.o.x.o."]);
    drums(song, hats, c.pick(["ride", "openHat"]), ["chorus"], ["x...x...x...x..."]);
    const crash = part(song, "cymbals", "drums", { gainDb: -5 });
    drums(
      song,
      crash,
      "crash",
      ["chorus"],
      ["X...............", ...Array<string>(7).fill("................")],
    );
    const low = part(song, "bass", c.pick([33, 34]), { gainDb: 2, room: 0 });
    bass(song, low, groove, ["1.1.1.1.1.1.1.1."], 2, 28);
    const guitar = part(song, "guitar", c.pick([29, 30, 27]), { gainDb: -4, pan: -0.4, highPassHz: 120 });
    comp(song, guitar, groove, [c.pick(["x.x.x.x.x.x.x.x.", "x...x.x...x.x..."])], 2, 52);
    const keys = part(song, "piano", c.pick([0, 24]), { gainDb: -4, pan: 0.3 });
    comp(song, keys, "all", ["x.......x......."], 8, 60);
    const lead = part(song, "lead", c.pick([65, 73, 22]), { gainDb: -4, room: 0.3 });
    melody(song, lead, ["verse", "chorus"], ["x...x.x...x.x...", "x.....x.x......."], 3);
  },
};

export const shuffle: StylePlan = {
  bpm: [84, 126],
  swing: { of: 8, percent: [62, 67] },
  mode: "major",
  sections: songForm,
  looseness: [0.006, 0.1],
  write(song, c, loop) {
    harmony(song, "all", loop, 4);
    const kick = part(song, "kick", "drums", { gainDb: 3, room: 0.05 });
    drums(song, kick, "deepKick", groove, [c.pick(["X...x...", "X..xx...", "X.X.X.X."])]);
    const snare = part(song, "snare", "drums", { gainDb: 1, room: 0.2 });
    drums(song, snare, "snare", groove, ["..X...X."], 0.005);
    const hats = part(song, "hats", "drums", { gainDb: -3, pan: 0.25 });
    drums(song, hats, c.pick(["hat", "ride"]), "all", [c.pick(["xoxoxoxo", "x.xox.xo"])]);
    const low = part(song, "bass", 32, { gainDb: 3, room: 0 });
    bass(song, low, groove, [c.pick(["1..15..5", "1.5.8.5.", "11551155"])], 1, 28);
    const piano = part(song, "piano", c.pick([0, 16]), { gainDb: -3 });
    comp(song, piano, "all", [c.pick([".x.x.x.x", "x..x...x"])], 1, 58);
    const lead = part(song, "lead", c.pick([22, 65, 56]), { gainDb: -4, room: 0.3 });
    melody(song, lead, ["verse", "chorus"], ["x..x.x..", "x.....x."], 2);
  },
};

export const waltz: StylePlan = {
  bpm: [92, 168],
  beatsPerBar: 3,
  sections: [
    ["intro", 8],
    ["verse", 16],
    ["chorus", 16],
    ["outro", 8],
  ],
  looseness: [0.007, 0.1],
  write(song, c, loop) {
    harmony(song, "all", loop, 6);
    const kick = part(song, "kick", "drums", { gainDb: 2, room: 0.05 });
    drums(song, kick, "deepKick", groove, ["X....."]);
    const snare = part(song, "snare", "drums", { gainDb: -3, room: 0.2 });
    drums(song, snare, c.pick(["snare", "rim"]), groove, ["..x.x."]);
    const hats = part(song, "hats", "drums", { gainDb: -5, pan: 0.2 });
    drums(song, hats, c.pick(["hat", "ride"]), ["chorus"], ["x.x.xo"]);
    const low = part(song, "bass", 32, { gainDb: 2, room: 0 });
    bass(song, low, "all", ["1....."], 4, 28);
    const piano = part(song, "piano", c.pick([0, 21, 24]), { gainDb: -2 });
    comp(song, piano, "all", ["..x.x."], 2, 58);
    const lead = part(song, "lead", c.pick([40, 73, 68]), { gainDb: -3, room: 0.3 });
    melody(song, lead, ["verse", "chorus"], ["x.x.x.", "x...x."], 2);
  },
};

export const synthPop: StylePlan = {
  bpm: [98, 124],
  sections: songForm,
  write(song, c, loop) {
    harmony(song, "all", loop, 4);
    const kick = part(song, "kick", "drums", { gainDb: 3, room: 0 });
    drums(song, kick, "kick", groove, [c.pick(["X.......X.......", "X...X...X...X...", "X.......X.x....."])]);
    const snare = part(song, "snare", "drums", { gainDb: 1, room: 0.4 });
    drums(song, snare, "electricSnare", groove, ["....X.......X..."]);
    const hats = part(song, "hats", "drums", { gainDb: -5, pan: 0.1 });
    drums(song, hats, "hat", ["verse", "chorus"], ["x.x.x.x.x.x.x.x."]);
    const low = part(song, "bass", 38, { gainDb: 1, room: 0 });
    bass(song, low, "all", [c.pick(["1.1.1.1.1.1.1.1.", "1.8.1.8.1.8.1.8.", "1111111111111111"])], 1, 30);
    const strings = part(song, "pad", c.pick([50, 90, 91]), { gainDb: -5, room: 0.4 });
    pad(song, strings, "all", 57);
    const arpeggio = part(song, "arpeggio", c.pick([81, 80]), { gainDb: -8, pan: 0.3, room: 0.2 });
    melody(song, arpeggio, ["chorus", "intro"], ["xoxoxoxoxoxoxoxo"], 1, 66);
  },
};

export const slowSoul: StylePlan = {
  bpm: [48, 72],
  beatsPerBar: 2,
  sections: [
    ["intro", 4],
    ["verse", 16],
    ["chorus", 16],
    ["outro", 4],
  ],
  looseness: [0.007, 0.1],
  write(song, c, loop) {
    harmony(song, "all", loop, c.pick([2, 4]));
    const kick = part(song, "kick", "drums", { gainDb: 3, room: 0.05 });
    drums(song, kick, "deepKick", groove, c.pick([["X....."], ["X....x"], ["X.x..x", "X....."]]));
    const snare = part(song, "snare", "drums", { gainDb: 0, room: 0.25 });
    drums(song, snare, c.pick(["snare", "rim"]), groove, ["...X.."], 0.005);
    const hats = part(song, "hats", "drums", { gainDb: -3, pan: 0.2 });
    drums(song, hats, c.pick(["hat", "ride"]), "all", [c.pick(["xooxoo", "xxxxxx", "x,ox,o"])]);
    const low = part(song, "bass", c.pick([32, 33]), { gainDb: 2, room: 0 });
    bass(song, low, groove, [c.pick(["1.....", "1....1", "1..5.8"])], 2, 28);
    const piano = part(song, "piano", c.pick([0, 4, 16]), { gainDb: -2, room: 0.2 });
    comp(song, piano, "all", [c.pick(["xooxoo", "x..x..", "xxxxxx"])], 1, 57);
    const strings = part(song, "strings", 48, { gainDb: -6, room: 0.4 });
    pad(song, strings, ["chorus"], 60);
    const lead = part(song, "lead", c.pick([65, 73, 26]), { gainDb: -4, room: 0.3 });
    melody(song, lead, ["verse", "chorus"], ["x.xx..", "x..x.x"], 2);
  },
};

export const liveBand: StylePlan = {
  bpm: [88, 132],
  mode: "major",
  sections: songForm,
  looseness: [0.008, 0.12],
  drift: 0.012,
  write: (song, c, loop) => popRock.write(song, c, loop),
};

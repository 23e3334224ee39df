/**
 * Development songs: one writer a style. A seed chooses tempo, key, chords, patterns, sounds and
 * how loosely it is played, so that no two songs of a style are alike.
 */
import { chance, type Chance } from "../random";
import { startSong, type SectionPlan, type Song } from "../song";
import { bass, comp, drums, harmony, melody, pad, part } from "../writing";

const minorLoops = [
  ["0m", "8", "3", "10"],
  ["0m", "10", "8", "10"],
  ["0m", "5m", "8", "7m"],
  ["0m7", "5m7", "10", "3maj7"],
  ["0m", "0m", "8", "10"],
];
const majorLoops = [
  ["0", "7", "9m", "5"],
  ["0", "9m", "5", "7"],
  ["0", "5", "7", "5"],
  ["9m", "5", "0", "7"],
  ["0maj7", "9m7", "2m7", "7"],
];

interface StylePlan {
  bpm: [number, number];
  swing?: { of: 8 | 16; percent: [number, number] };
  mode?: "major" | "minor";
  beatsPerBar?: 2 | 3 | 4;
  sections: readonly (readonly [string, number])[];
  looseness?: [number, number];
  drift?: number;
  write(song: Song, c: Chance, loop: string[]): void;
}

const clubForm = [
  ["intro", 4],
  ["verse", 8],
  ["chorus", 8],
  ["break", 4],
  ["chorus 2", 8],
] as const;
const songForm = [
  ["intro", 4],
  ["verse", 8],
  ["chorus", 8],
  ["verse 2", 8],
  ["outro", 4],
] as const;
const groove = ["verse", "chorus", "outro"];

const plans: Record<string, StylePlan> = {
  house: {
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
  },
  "disco-funk": {
    bpm: [108, 124],
    swing: { of: 16, percent: [50, 57] },
    sections: songForm,
    looseness: [0.004, 0.09],
    write(song, c, loop) {
      harmony(song, "all", loop, c.pick([4, 8]));
      const kick = part(song, "kick", "drums", { gainDb: 3, room: 0 });
      drums(song, kick, "kick", groove, [
        c.pick(["X...X...X...X...", "X..x....X..x..x.", "X.....x.X.x....."]),
      ]);
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
  },
  "drum-and-bass": {
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
  },
  "boom-bap": {
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
  },
  drill: {
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
  },
  "speed garage": {
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
  },
  "pop-rock": {
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
  },
  shuffle: {
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
  },
  waltz: {
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
  },
  "synth-pop": {
    bpm: [98, 124],
    sections: songForm,
    write(song, c, loop) {
      harmony(song, "all", loop, 4);
      const kick = part(song, "kick", "drums", { gainDb: 3, room: 0 });
      drums(song, kick, "kick", groove, [
        c.pick(["X.......X.......", "X...X...X...X...", "X.......X.x....."]),
      ]);
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
  },
  techno: {
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
  },
  trap: {
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
      drums(
        song,
        snare,
        c.pick(["clap", "snare", "electricSnare"]),
        ["verse", "chorus"],
        ["........X......."],
      );
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
      melody(
        song,
        bell,
        "all",
        [c.pick(["x...x...x...x...", "x..x..x...x.....", "x.x...x.x...x..."])],
        3,
        68,
      );
      const strings = part(song, "pad", c.pick([48, 52, 91]), { gainDb: -7, room: 0.4 });
      pad(song, strings, ["intro", "chorus", "outro"], 58);
    },
  },
  reggaeton: {
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
  },
  "slow soul": {
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
  },
  assorted: {
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
  },
  "live band": {
    bpm: [88, 132],
    mode: "major",
    sections: songForm,
    looseness: [0.008, 0.12],
    drift: 0.012,
    write: (song, c, loop) => plans["pop-rock"]!.write(song, c, loop),
  },
};

/** Names of the styles that development songs are written in. */
export const styles = Object.keys(plans);

const tonics = ["C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B"];

/**
 * Writes the development song of a style that belongs to a seed.
 *
 * @param change makes the same notes at another tempo or in another key.
 */
export function styleSong(
  style: string,
  seed: number,
  change: { tempoRatio?: number; semitones?: number } = {},
): Song {
  const plan = plans[style];
  if (!plan) throw new Error(`Unknown style ${style}; known are ${styles.join(", ")}`);
  const c = chance(seed * 7919 + styles.indexOf(style) * 104729);
  const mode = plan.mode ?? c.pick(["major", "minor"] as const);
  const exact = c.between(...plan.bpm);
  const [looseSeconds, looseVelocity] = plan.looseness ?? [0.002, 0.05];
  const wholeBpm = c.next() < 0.7;
  const bpm = wholeBpm ? Math.round(exact) : Math.round(exact * 100) / 100;
  const tonic = tonics.indexOf(c.pick(tonics));
  const song = startSong({
    title: `${style} ${seed}`,
    artist: "Development",
    style,
    seed,
    // Most produced music sits on whole tempi; some was recorded or pitched to anything.
    bpm: Math.round(bpm * (change.tempoRatio ?? 1) * 100) / 100,
    beatsPerBar: plan.beatsPerBar ?? 4,
    tonic: tonics[(tonic + (change.semitones ?? 0) + 12) % 12]!,
    mode,
    swing: plan.swing
      ? { of: plan.swing.of, percent: Math.round(c.between(...plan.swing.percent) * 10) / 10 }
      : { of: 16, percent: 50 },
    sections: plan.sections.map(([name, bars]): SectionPlan => ({ name, bars })),
    leadInSeconds: c.next() < 0.3 ? 0 : Math.round(c.between(0, 1.5) * 1000) / 1000,
    drift: plan.drift ?? 0,
    looseness: { seconds: looseSeconds * c.between(0.5, 1.3), velocity: looseVelocity },
  });
  plan.write(song, c, c.pick(mode === "minor" ? minorLoops : majorLoops));
  return song;
}

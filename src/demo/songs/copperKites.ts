import { startSong, type Song } from "../song";
import { bass, comp, drums, harmony, melody, pad, part } from "../writing";

/** The reference of the first demo study: instrumental disco-funk, 118 BPM, F♯ minor. */
export function copperKites(bpm = 118): Song {
  const song = startSong({
    title: "Copper Kites",
    artist: "The Slow Ferries",
    style: "disco-funk",
    seed: 1187,
    bpm,
    beatsPerBar: 4,
    tonic: "F#",
    mode: "minor",
    swing: { of: 16, percent: 54 },
    sections: [
      { name: "intro", bars: 4 },
      { name: "verse 1", bars: 16 },
      { name: "chorus 1", bars: 8 },
      { name: "verse 2", bars: 16 },
      { name: "break", bars: 8 },
      { name: "chorus 2", bars: 16 },
      { name: "outro", bars: 8 },
    ],
    leadInSeconds: 0.21,
    drift: 0,
    looseness: { seconds: 0.003, velocity: 0.07 },
  });
  const playing = ["verse", "chorus", "outro"];
  harmony(song, ["intro", "verse", "break", "outro"], ["0m7", "5m7", "8maj7", "10"], 8);
  harmony(song, ["chorus"], ["8maj7", "10", "0m7", "3"], 4);

  const kick = part(song, "kick", "drums", { gainDb: 3, room: 0 });
  drums(song, kick, "kick", ["verse", "outro"], ["X...X...X...X...", "X...X...X...X..o"]);
  drums(song, kick, "kick", ["chorus"], ["X...X...X...X..."]);
  const clap = part(song, "claps", "drums", { gainDb: 0, room: 0.25 });
  drums(song, clap, "clap", playing, ["....X.......X..."], 0.006);
  const hats = part(song, "hats", "drums", { gainDb: -3, pan: 0.2, room: 0.08 });
  drums(song, hats, "openHat", playing, ["..x...x...x...x."]);
  drums(song, hats, "hat", ["chorus", "verse 2"], ["x,.,x,.,x,.,x,.,"]);
  const congas = part(song, "congas", "drums", { gainDb: -4, pan: -0.4, room: 0.2 });
  drums(song, congas, "openConga", ["intro", "verse", "chorus"], ["...x..x....x.x..", "...x..x.....x.x."]);
  drums(song, congas, "lowConga", ["intro", "verse", "chorus"], ["x.......o.x.....", "x.......x.o....."]);
  const cymbals = part(song, "cymbals", "drums", { gainDb: -6, pan: 0.3, room: 0.3 });
  drums(
    song,
    cymbals,
    "crash",
    ["chorus", "break"],
    ["X...............", ...Array<string>(7).fill("................")],
  );

  const low = part(song, "bass", 33, { gainDb: 2, room: 0, lowPassHz: 4000 });
  bass(song, low, ["verse", "outro"], ["1.8.1.8.1.8.1.88", "1.8.1.8.1.8.5.8."], 1, 30);
  bass(song, low, ["chorus"], ["1.8.1.8.1.8.1.8."], 1, 30);
  bass(song, low, ["break"], ["1..............."], 14, 30);

  const electricPiano = part(song, "electric piano", 4, {
    gainDb: -1,
    pan: -0.2,
    room: 0.2,
    highPassHz: 150,
  });
  comp(song, electricPiano, ["intro", "verse", "outro"], ["x.....x...x....."], 3, 57);
  comp(song, electricPiano, ["chorus"], ["X..x..x.X..x..x."], 2, 57);
  pad(song, electricPiano, ["break"], 57, 74);
  const strings = part(song, "strings", 48, { gainDb: -3, pan: 0.15, room: 0.4, highPassHz: 250 });
  pad(song, strings, ["chorus", "break"], 64, 88);
  const guitar = part(song, "muted guitar", 28, { gainDb: -1, pan: 0.5, room: 0.1, highPassHz: 250 });
  comp(song, guitar, ["verse", "chorus"], ["x.xx.xx.x.xx.x,x", "x.xx.xx.xx.x.xx."], 1, 60);
  const vibraphone = part(song, "vibraphone", 11, { gainDb: 0, pan: -0.1, room: 0.35, highPassHz: 250 });
  melody(song, vibraphone, ["verse 2", "chorus", "break"], ["x..x..x...x.x...", "x...x.....x....."], 3, 71);
  return song;
}

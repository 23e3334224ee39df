import { startSong, type SectionPlan, type Song } from "../song";
import { bass, comp, drums, harmony, melody, pad, part } from "../writing";

/** The reference of the second demo study: a shuffle at 92 BPM in B♭ major. */
export function paperTram(sections?: SectionPlan[], leadInSeconds = 0.35): Song {
  const song = startSong({
    title: "Paper Tram",
    artist: "North Pier Band",
    style: "shuffle",
    seed: 920,
    bpm: 92,
    beatsPerBar: 4,
    tonic: "A#",
    mode: "major",
    swing: { of: 8, percent: 65 },
    sections: sections ?? [
      { name: "intro", bars: 4 },
      { name: "verse 1", bars: 8 },
      { name: "chorus 1", bars: 8 },
      { name: "verse 2", bars: 8 },
      { name: "chorus 2", bars: 8 },
      { name: "outro", bars: 4 },
    ],
    leadInSeconds,
    drift: 0,
    looseness: { seconds: 0.005, velocity: 0.09 },
  });
  harmony(song, ["intro", "verse", "outro"], ["0", "9m", "5", "7"], 4);
  harmony(song, ["chorus"], ["5", "7", "0", "9m", "5", "7", "0", "0"], 4);
  const kick = part(song, "kick", "drums", { gainDb: 2, room: 0.05 });
  drums(song, kick, "deepKick", ["verse", "outro"], ["X...x...", "X..ox..."]);
  drums(song, kick, "deepKick", ["chorus"], ["X..xx...", "X..xx..x"]);
  const snare = part(song, "snare", "drums", { gainDb: 0, room: 0.2 });
  drums(song, snare, "snare", ["verse", "chorus", "outro"], ["..X...X."], 0.008);
  const hats = part(song, "hats", "drums", { gainDb: -5, pan: 0.25, room: 0.1 });
  drums(song, hats, "hat", "all", ["x,x,x,x,"]);
  const tambourine = part(song, "tambourine", "drums", { gainDb: -8, pan: -0.3, room: 0.2 });
  drums(song, tambourine, "tambourine", ["chorus"], ["..x...x."]);
  const low = part(song, "bass", 32, { gainDb: 4, room: 0, lowPassHz: 3000 });
  bass(song, low, ["verse", "outro"], ["1..15..5"], 1, 29);
  bass(song, low, ["chorus"], ["1..18..5"], 1, 29);
  const organ = part(song, "organ", 16, { gainDb: -5, pan: -0.25, room: 0.2, highPassHz: 180 });
  pad(song, organ, ["chorus", "verse 2", "outro"], 58, 72);
  const piano = part(song, "piano", 0, { gainDb: -1, pan: 0.15, room: 0.15, highPassHz: 150 });
  comp(song, piano, "all", [".x.x.x.x"], 1, 58);
  const harmonica = part(song, "harmonica", 22, { gainDb: -4, pan: 0, room: 0.3, highPassHz: 300 });
  melody(song, harmonica, ["verse", "chorus"], ["x..x.x..", "x.....x."], 2, 70);
  return song;
}

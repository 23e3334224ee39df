/** The demo: two studies, their references and the versions of their recreations, all made up. */
import type { PartMix, Song } from "./song";
import { addHits, flattenVelocities, removeHits, shiftHits, straighten } from "./drumChanges";
import { copperKites } from "./songs/copperKites";
import { paperTram } from "./songs/paperTram";
import { mixDown, type MasterSettings } from "./mix";
import { secondsOf } from "./makeSong";
import { renderParts, renderRate, type StereoTrack } from "./render";
import { sectionSpans, straightTimeOf } from "./song";

/** A file of the demo before it is written. */
export interface DemoFile {
  name: string;
  note: string;
  track: StereoTrack;
  /** Parts of it by themselves. */
  stems?: DemoFile[];
}

export interface DemoStudy {
  title: string;
  artist: string;
  reference: DemoFile;
  versions: DemoFile[];
  /** What the producer has set and noted about elements, by name. */
  elements: Record<
    string,
    { state: "not started" | "in work" | "close enough" | "done" | "left out"; note?: string }
  >;
}

/** Changes of a recreation's mix against the reference's, by part; parts not named are left out. */
type Recreated = Record<string, Partial<PartMix>>;

function mixWith(
  song: Song,
  tracks: readonly StereoTrack[],
  parts: Recreated,
  master: MasterSettings,
): StereoTrack {
  const settings = song.parts.map((part): PartMix | null => {
    const change = parts[part.name];
    if (!change) return null;
    return { ...part.mix, ...change, gainDb: part.mix.gainDb + (change.gainDb ?? 0) };
  });
  return mixDown(tracks, settings, master);
}

/** Parts of a mix by themselves, as they are before it is mastered. */
const stemsOf = (
  song: Song,
  tracks: readonly StereoTrack[],
  parts: Recreated,
  names: readonly string[],
): DemoFile[] =>
  names.map((name) => ({
    name: `${name}.wav`,
    note: "",
    track: mixWith(song, tracks, { [name]: parts[name] ?? {} }, { driveDb: 0, ceilingDb: 0 }),
  }));

const everything = (song: Song): Recreated => Object.fromEntries(song.parts.map((part) => [part.name, {}]));

async function copperKitesStudy(): Promise<DemoStudy> {
  const song = copperKites();
  const tracks = await renderParts(song.parts, secondsOf(song));
  const fast = copperKites(120);
  const drumNames = ["kick", "claps", "hats"];
  const fastDrums = fast.parts.filter((part) => drumNames.includes(part.name));
  const fastTracks = await renderParts(fastDrums, secondsOf(fast));
  // The newest drums are played in by hand, and not all as in the reference.
  const played = copperKites();
  removeHits(played, "kick", (beat) => beat % 4 === 3.75 && beat > 100);
  straighten(played, "hat");
  flattenVelocities(played, "hat");
  shiftHits(played, "clap", -0.014, (beat) => beat % 4 === 3);
  addHits(
    played,
    "openHat",
    Array.from({ length: 4 }, (_, i) => 16 * i + 31),
  );
  const playedTracks = await renderParts(played.parts, secondsOf(played));
  const version = (note: string, track: StereoTrack, number: number, stems: DemoFile[] = []): DemoFile => ({
    name: `copper kites rebuild ${number}.wav`,
    note,
    track,
    stems,
  });
  const newest: Recreated = {
    ...everything(song),
    kick: { gainDb: -2.5 },
    hats: { gainDb: 2.5 },
    bass: { gainDb: 2 },
    strings: { gainDb: -4 },
    vibraphone: { gainDb: -3 },
    "electric piano": { gainDb: 1 },
  };
  return {
    title: "Copper Kites",
    artist: "The Slow Ferries",
    reference: {
      name: "The Slow Ferries - Copper Kites.wav",
      note: "",
      track: mixWith(song, tracks, everything(song), { driveDb: 9, ceilingDb: -0.6, tiltDb: 0.5 }),
      stems: stemsOf(song, tracks, {}, ["kick", "bass"]),
    },
    versions: [
      version(
        "drums at 120 BPM, too loud",
        mixWith(
          { ...fast, parts: fastDrums },
          fastTracks,
          { kick: { gainDb: 3 }, claps: { gainDb: 2 }, hats: { gainDb: 3 } },
          { driveDb: 16, ceilingDb: -0.1 },
        ),
        1,
      ),
      version(
        "tempo right, bass and congas in",
        mixWith(
          song,
          tracks,
          {
            kick: { gainDb: 2 },
            claps: {},
            hats: { gainDb: 2 },
            congas: { gainDb: -2 },
            bass: { gainDb: 4 },
            cymbals: {},
          },
          { driveDb: 12, ceilingDb: -0.1 },
        ),
        2,
      ),
      version(
        "electric piano and guitar, limiter on hard",
        mixWith(
          song,
          tracks,
          {
            kick: { gainDb: 1 },
            claps: {},
            hats: { gainDb: 1.5 },
            congas: {},
            bass: { gainDb: 2 },
            cymbals: {},
            "electric piano": { gainDb: 1 },
            "muted guitar": { gainDb: -1 },
          },
          { driveDb: 17, ceilingDb: -0.1, tiltDb: 1 },
        ),
        3,
      ),
      version(
        "strings and vibraphone in, softer kick, hats played in by hand",
        mixWith(played, playedTracks, newest, { driveDb: 10.5, ceilingDb: -0.8, tiltDb: 1.4 }),
        4,
        stemsOf(played, playedTracks, newest, ["kick", "claps", "bass"]),
      ),
    ],
    elements: {
      Kick: { state: "close enough", note: "softer since v4, maybe 1 dB too far" },
      Bass: { state: "in work", note: "octaves right, still a little loud" },
      "Snare or clap": { state: "done" },
      Hats: { state: "in work", note: "open hats a shade too bright" },
      Percussion: { state: "close enough" },
      Chords: { state: "in work" },
      "Lead or vocal": { state: "in work", note: "vibraphone sits low" },
      Effects: { state: "left out" },
    },
  };
}

async function paperTramStudy(): Promise<DemoStudy> {
  const song = paperTram();
  const tracks = await renderParts(song.parts, secondsOf(song));
  const chorus = sectionSpans(song).find((section) => section.name === "chorus 1")!;
  const from = Math.round(straightTimeOf(song, chorus.startBeat) * renderRate);
  const to = Math.round(straightTimeOf(song, chorus.startBeat + 8 * song.beatsPerBar) * renderRate);
  const loop = mixWith(
    song,
    tracks,
    {
      kick: {},
      snare: { gainDb: 1.5 },
      hats: { gainDb: -1 },
      bass: { gainDb: -1.5 },
      piano: { gainDb: 1 },
      organ: {},
    },
    { driveDb: 7, ceilingDb: -1 },
  ).map((samples) => samples.slice(from, to)) as StereoTrack;
  return {
    title: "Paper Tram",
    artist: "North Pier Band",
    reference: {
      name: "North Pier Band - Paper Tram.wav",
      note: "",
      track: mixWith(song, tracks, everything(song), { driveDb: 8, ceilingDb: -1 }),
    },
    versions: [
      { name: "tram loop.wav", note: "eight bars of the first chorus, no tambourine yet", track: loop },
    ],
    elements: { Kick: { state: "in work" }, Effects: { state: "left out" } },
  };
}

/** Writes, plays and mixes the whole demo; about 30 s of one core. */
export const demoStudies = async (): Promise<DemoStudy[]> => [
  await paperTramStudy(),
  await copperKitesStudy(),
];

/** What singing and speech cost: over the own songs, and over their drums alone. */
import { analyse } from "@/core/analysis/analyse";
import type { TrackAnalysis } from "@/core/analysis/result";
import { decodeFile } from "@/server/decoding/decode";
import { drumStemOf, fOfCounts, measureDrums, type DrumGroup } from "../drums";
import { voiceFile, voiceOver } from "../material/voices";
import { eventF } from "../metrics";
import { measurePlan } from "../plans";
import { developmentSongs, type DevelopmentSong } from "../songs";
import { mean, table } from "../tables";
import { firstSeed, type PartOptions, type Sections } from "./part";

const groups = ["kick", "snare and clap", "hats"] as const satisfies readonly DrumGroup[];
/** A lead's level against the whole mix, and against drums alone: decibels of RMS while it sounds. */
const levelOverMix = -3;
const levelOverDrums = 0;

const columns = ["chords", "beats", "boundaries", ...groups, "hits a minute"] as const;
type Measured = Record<(typeof columns)[number], number>;

async function heardIn(file: string, song: DevelopmentSong): Promise<Measured> {
  const decoded = await decodeFile(file);
  if (!decoded.ok) throw new Error(`${file}: ${decoded.refusal.sentence}`);
  const { analysis } = await analyse(decoded.value.signal);
  const { chordOverlap, boundaryF3 } = measurePlan(song, analysis);
  const drums = measureDrums(song, analysis);
  const by = Object.fromEntries(groups.map((group) => [group, fOfCounts([drums.groups[group]])]));
  return {
    chords: chordOverlap,
    beats: eventF(song.truth.beats, analysis.grid?.beats ?? []),
    boundaries: boundaryF3,
    ...(by as Record<(typeof groups)[number], number>),
    "hits a minute": perMinute(analysis, drums),
  };
}

/** False hits of all voices. */
const perMinute = ({ durationSeconds }: TrackAnalysis, { groups: own }: ReturnType<typeof measureDrums>) =>
  (60 * Object.values(own).reduce((sum, { found, right }) => sum + found - right, 0)) / durationSeconds;

export async function voiceSections({ styles }: PartOptions): Promise<Sections> {
  const rows: Record<string, Measured[]> = {
    "the song": [],
    "with a sung lead": [],
    "its drums alone": [],
    "drums with speech": [],
    "drums with singing": [],
  };
  for (const style of styles) {
    const [song] = await developmentSongs([firstSeed], [style]);
    // Singing is made at one tempo.
    if (!song || !song.truth.steady) continue;
    const begin = song.truth.beats[0]!;
    const sung = await voiceFile("sung", song.name, song.truth, firstSeed);
    const spoken = await voiceFile("spoken", "speech", song.truth, firstSeed);
    if (!sung || !spoken) return {};
    const drums = await drumStemOf(song);
    const files: [string, string][] = [
      ["the song", song.file],
      ["with a sung lead", voiceOver(song.file, sung, begin, levelOverMix)],
      ["its drums alone", drums],
      ["drums with speech", voiceOver(drums, spoken, 0, levelOverDrums)],
      ["drums with singing", voiceOver(drums, sung, begin, levelOverDrums)],
    ];
    for (const [row, file] of files) {
      const own = await heardIn(file, song);
      rows[row]!.push(own);
      console.log(song.name, row, columns.map((name) => `${name} ${own[name].toFixed(3)}`).join(", "));
    }
  }
  return {
    Voices: `One steady song of each style with a lead sung on its chords (festival; ${-levelOverMix} dB below the mix while it sounds, compressed, in a small room), and its drums alone with speech (espeak-ng) and singing as loud as they are. Nothing was fitted on voices. Chords: overlap; beats and hits: F-measure; boundaries at ±3 s; the last column false hits of all voices. Targets: a sung lead costs at most 0.03 of the chords and 0.02 of any hit's F; speech or singing adds at most 15 hits a minute.

${table(
  ["", "songs", ...columns],
  Object.entries(rows).map(([name, all]) => [
    name,
    all.length,
    ...columns.map((column) => mean(all.map((own) => own[column]))),
  ]),
)}`,
  };
}

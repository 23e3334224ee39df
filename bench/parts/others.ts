/** Music by others of which every note is known: tempo, beats and hits, by source, on pieces that nothing was fitted on. */
import { analyse } from "@/core/analysis/analyse";
import { countedDrums, type DrumVoice } from "@/core/drums";
import { gridOf } from "@/core/grid/correction";
import { barStart, barsOf, secondsAt } from "@/core/grid/grid";
import { decodeFile } from "@/server/decoding/decode";
import { correlation, eventF, matchedEvents, tempoAccuracy1, tempoAccuracy2 } from "../metrics";
import { midiGrid, trackerGrid, type GridTruth } from "../material/gridTruth";
import {
  midiPieces,
  playedSeconds,
  soundFontNames,
  playedTracker,
  playedWhole,
  trackerPieces,
  type Piece,
  type SoundFont,
  type Stroke,
} from "../material/pieces";
import { table } from "../tables";
import { thinned, type PartOptions, type Sections } from "./part";

const groups = {
  kick: ["kick"],
  "snare and clap": ["snare", "clap"],
  hats: ["hat", "openHat"],
} as const satisfies Record<string, readonly DrumVoice[]>;
type Group = keyof typeof groups;

/** What is known of a piece. */
interface Truth {
  /** Null where the file says nothing about it. */
  grid: GridTruth | null;
  strokes: Stroke[];
  unsure: { time: number; voice: DrumVoice }[];
  known: readonly DrumVoice[];
}

/** What was measured of one. */
interface Row {
  source: string;
  /** What it is played by. */
  font: SoundFont | null;
  name: string;
  grid: {
    tempo: [boolean, boolean];
    beatF: number;
    downbeatF: number;
    /** Whether, at the right tempo, beats lie beside the true ones and the program is sure of them. */
    isSurelyBeside: boolean;
  } | null;
  hits: Partial<Record<Group, number>>;
  velocities: Partial<Record<Group, number>>;
  /** Share of a sample's strokes that carry its commonest name, weighted by strokes. */
  oneName: number | null;
  /** Hits a minute where nothing is struck: of kick, snare, clap and hats, and of all voices. */
  falseHits: [grouped: number, all: number] | null;
}

async function midiSides(piece: Piece, font: SoundFont): Promise<{ file: string; truth: Truth } | null> {
  const whole = await playedWhole(piece, font);
  return (
    whole && {
      file: whole.file,
      truth: {
        grid: await midiGrid(piece, whole.seconds),
        strokes: whole.strokes,
        unsure: [],
        known: ["kick", "snare", "clap", "hat", "openHat"],
      },
    }
  );
}

async function trackerSides(piece: Piece): Promise<{ file: string; truth: Truth }> {
  const { mix, truth } = await playedTracker(piece);
  return {
    file: mix,
    truth: {
      grid: trackerGrid(truth),
      strokes: truth.strokes,
      unsure: truth.unsure,
      known: truth.isDrumless ? ["kick", "snare", "clap", "hat", "openHat"] : truth.known,
    },
  };
}

const merged = (times: readonly number[]) =>
  times.filter((time, i) => i === 0 || time - times[i - 1]! > 0.02);

/** Strokes that are all as hard have no order to be found: the least deviation of true velocities. */
const leastSpread = 0.02;
const leastPairs = 20;

function velocityCorrelation(pairs: readonly (readonly [number, number])[]): number | null {
  const mean = pairs.reduce((sum, [real]) => sum + real, 0) / pairs.length;
  const variance = pairs.reduce((sum, [real]) => sum + (real - mean) ** 2, 0) / pairs.length;
  return variance > leastSpread ** 2 ? correlation(pairs, leastPairs) : null;
}

async function measured(
  { source, font, name }: Pick<Row, "source" | "font" | "name">,
  file: string,
  truth: Truth,
): Promise<Row> {
  const decoded = await decodeFile(file);
  if (!decoded.ok) throw new Error(`${file}: ${decoded.refusal.sentence}`);
  const { analysis } = await analyse(decoded.value.signal);
  const grid = gridOf(analysis.grid, analysis.durationSeconds);
  const found = countedDrums(analysis.drums, {}, grid).hits;
  const bars = grid && barsOf(grid);
  const beatTimes = grid
    ? Array.from({ length: (bars!.last - bars!.first + 1) * grid.beatsPerBar }, (_, i) =>
        secondsAt(grid, (bars!.first - 1) * grid.beatsPerBar + i),
      )
    : [];
  const barTimes = grid
    ? Array.from({ length: bars!.last - bars!.first + 1 }, (_, i) => barStart(grid, bars!.first + i))
    : [];
  const hits: Row["hits"] = {};
  const velocities: Row["velocities"] = {};
  const names = new Map<string, Map<string, number>>();
  const isDrumless = truth.strokes.every(({ voice }) => voice === "bass");
  for (const [group, voices] of Object.entries(groups) as [Group, readonly DrumVoice[]][]) {
    if (!truth.known.includes(voices[0]!)) continue;
    const real = truth.strokes.filter(({ voice }) => voices.includes(voice as DrumVoice));
    const own = found.filter(({ voice }) => voices.includes(voice));
    const unsure = truth.unsure.filter(({ voice }) => voices.includes(voice));
    const a = merged(real.map(({ time }) => time));
    const all = merged(own.map(({ time }) => time));
    const pairs = matchedEvents(a, all, 0.05);
    const right = new Set(pairs.map(([, k]) => k));
    const b = all.filter((time, k) => right.has(k) || !unsure.some((u) => Math.abs(u.time - time) <= 0.05));
    if (a.length >= 8) hits[group] = (2 * pairs.length) / (a.length + b.length);
    const velocity = velocityCorrelation(
      pairs.map(([i, k]) => [
        real.find(({ time }) => time === a[i])!.velocity,
        own.find(({ time }) => time === all[k])!.velocity,
      ]),
    );
    if (velocity !== null) velocities[group] = velocity;
  }
  for (const stroke of truth.strokes) {
    if (stroke.voice === "bass") continue;
    const near = found
      .filter(({ time }) => Math.abs(time - stroke.time) <= 0.03)
      .sort((a, b) => Math.abs(a.time - stroke.time) - Math.abs(b.time - stroke.time));
    // Where several sound at once nobody can say which hit is which stroke.
    const alone = !truth.strokes.some(
      (other) => other !== stroke && other.voice !== "bass" && Math.abs(other.time - stroke.time) <= 0.03,
    );
    if (!alone || near.length === 0) continue;
    const counts = names.get(stroke.sample) ?? new Map<string, number>();
    names.set(stroke.sample, counts.set(near[0]!.voice, (counts.get(near[0]!.voice) ?? 0) + 1));
  }
  const isGrouped = (voice: DrumVoice) => Object.values(groups).some((own) => own.includes(voice as never));
  const perMinute = (counts: (voice: DrumVoice) => boolean) =>
    (60 * found.filter(({ voice }) => counts(voice)).length) / analysis.durationSeconds;
  const named = [...names.values()].map((counts) => [...counts.values()]);
  const count = named.flat().reduce((x, y) => x + y, 0);
  const gridRow = (own: GridTruth): Row["grid"] => {
    const bpm = analysis.tempo?.bpm;
    const beatF = eventF(own.beats, beatTimes);
    const isRight = bpm !== undefined && tempoAccuracy1(bpm, own.bpm);
    return {
      tempo: [isRight, bpm !== undefined && tempoAccuracy2(bpm, own.bpm)],
      beatF,
      downbeatF: eventF(own.downbeats, barTimes),
      isSurelyBeside: isRight && beatF < 0.3 && (analysis.grid?.confidence ?? 0) > 0.8,
    };
  };
  return {
    source,
    font,
    name,
    grid: truth.grid && gridRow(truth.grid),
    hits,
    velocities,
    oneName: count > 0 ? named.reduce((sum, own) => sum + Math.max(...own), 0) / count : null,
    falseHits: isDrumless ? [perMinute(isGrouped), perMinute(() => true)] : null,
  };
}

const meanOf = (numbers: readonly (number | null | undefined)[]): string => {
  const known = numbers.filter((x): x is number => typeof x === "number");
  return known.length === 0 ? "–" : (known.reduce((a, b) => a + b, 0) / known.length).toFixed(3);
};

function rowOf(name: string, rows: readonly Row[]): (string | number)[] {
  const grids = rows.flatMap(({ grid }) => grid ?? []);
  return [
    name,
    rows.length,
    grids.length,
    meanOf(grids.map((own) => Number(own.tempo[0]))),
    meanOf(grids.map((own) => Number(own.tempo[1]))),
    meanOf(grids.map((own) => own.beatF)),
    meanOf(grids.map((own) => own.downbeatF)),
    meanOf(grids.map((own) => Number(own.isSurelyBeside))),
    ...(Object.keys(groups) as Group[]).map((group) => meanOf(rows.map((own) => own.hits[group]))),
    (Object.keys(groups) as Group[])
      .map((group) => meanOf(rows.map((own) => own.velocities[group])))
      .join(" / "),
    meanOf(rows.map((own) => own.oneName)),
    [0, 1].map((all) => meanOf(rows.map((own) => own.falseHits?.[all]))).join(" / "),
  ];
}

export async function othersSections({ oneIn }: PartOptions): Promise<Sections> {
  const rows: Row[] = [];
  const take = async (
    piece: Pick<Row, "source" | "font" | "name">,
    own: { file: string; truth: Truth } | null,
  ) => {
    if (!own) return;
    const { source, name } = piece;
    const row = await measured(piece, own.file, own.truth);
    rows.push(row);
    console.log(
      source,
      name,
      row.grid?.tempo.map(Number).join("") ?? "–",
      row.grid?.beatF.toFixed(2) ?? "–",
      row.grid?.downbeatF.toFixed(2) ?? "–",
      (Object.keys(groups) as Group[]).map((g) => `${g} ${row.hits[g]?.toFixed(2) ?? "–"}`).join(" "),
    );
  };
  const ofMeasuringHalf = <T extends { half: string }>(pieces: readonly T[]) =>
    thinned(
      pieces.filter(({ half }) => half === "measure"),
      oneIn,
    );
  const midi = ofMeasuringHalf(await midiPieces());
  for (const [i, piece] of midi.entries()) {
    const font = soundFontNames[i % soundFontNames.length]!;
    await take({ source: "MIDI", font, name: `${piece.name} (${font})` }, await midiSides(piece, font));
  }
  for (const piece of ofMeasuringHalf(await trackerPieces()))
    await take({ source: "tracker", font: null, name: piece.name }, await trackerSides(piece));
  const sources = [...new Set(rows.map(({ source }) => source))];
  return {
    "Music by others": `Pieces of the measuring half, which nothing was fitted on: MIDI pieces through sound fonts (one a piece, by turns; the first ${playedSeconds} s), tracker pieces with their own samples whole. Tempo, beats and downbeats as the file has them, where what is played keeps to them at all (some were played without looking at the tempo of the file); surely beside: share whose beats lie beside the true ones at the right tempo, with a confidence above 0.8. Hits: F-measure at ±50 ms, mean over pieces with at least 8; velocity: correlation within kick / snare and clap / hats, over pieces whose strokes differ; one name: share of a sample's strokes, where it sounds alone, that carry its commonest name; false: hits a minute where nothing is struck, of kick, snare, clap and hats / of all voices. Targets: 0.90, 0.97, 0.93, 0.85, at most 0.03; 0.88, 0.80, 0.82; 0.6; 0.92; at most 3 / 10.

${table(
  [
    "source",
    "pieces",
    "with a tempo",
    "accuracy 1",
    "accuracy 2",
    "beat F",
    "downbeat F",
    "surely beside",
    "kick",
    "snare and clap",
    "hats",
    "velocity",
    "one name",
    "false",
  ],
  [
    ...sources.map((source) =>
      rowOf(
        source,
        rows.filter((own) => own.source === source),
      ),
    ),
    rowOf("all", rows),
    ...soundFontNames.map((font) =>
      rowOf(
        `MIDI, ${font}`,
        rows.filter((own) => own.font === font),
      ),
    ),
  ],
)}`,
  };
}

/** Takes that the bass network is fitted on: pieces of all sources, many with another bass than their own. */
import { mkdtemp, readFile, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import path from "node:path";
import { Midi } from "@/core/formats/midiFile";
import { developmentMaster, secondsOf } from "@/demo/makeSong";
import { mixDown } from "@/demo/mix";
import { chance, type Chance } from "@/demo/random";
import { renderParts, renderRate, type StereoTrack } from "@/demo/render";
import { styles, styleSong } from "@/demo/songs/styles";
import { decodeFile } from "@/server/decoding/decode";
import { bassOfSong, fewestNotes, mostBeneath } from "./bassPieces";
import { bassChannels, bassOfMidi, type TrueBassNote } from "./bassTruth";
import type { Half } from "./packages";
import {
  drumChannel,
  midiPieces,
  partOfMidi,
  playByFont,
  playedMidi,
  playedSeconds,
  playedWhole,
  soundFontNames,
  type Piece,
  type SoundFont,
} from "./pieces";
import { songWithSlides, type SlidBass } from "./slidBass";
import { synthBass } from "./synthBass";
import { resampled, treat } from "./treatment";

export interface BassTake {
  name: string;
  track: StereoTrack;
  notes: TrueBassNote[];
  /** Where the pitch of a note moves on its way, by so many semitones. */
  slides?: SlidBass["slides"];
}

/** General MIDI programs that play a bass line now and then: basses, low strings and brass, synthesisers. */
const programs = [32, 33, 33, 34, 34, 35, 36, 37, 38, 38, 39, 39, 43, 58, 80, 81, 87, 0, 26, 30, 42, 66];

const read = async (file: string): Promise<StereoTrack | null> => {
  const decoded = await decodeFile(file);
  if (!decoded.ok) return null;
  const [left, right] = decoded.value.signal.channels;
  return [left!, right ?? left!];
};

function add(to: StereoTrack, track: StereoTrack, gain: number): void {
  to.forEach((samples, side) => {
    const own = track[side]!;
    for (let i = 0; i < Math.min(samples.length, own.length); i++) samples[i]! += gain * own[i]!;
  });
}

const effective = (tracks: StereoTrack): number => {
  let sum = 0;
  for (const samples of tracks) for (const x of samples) sum += x * x;
  return Math.sqrt(sum / (2 * tracks[0].length)) + 1e-9;
};

/** The line played by another instrument, or by a synthesiser. */
async function otherBass(notes: readonly TrueBassNote[], seconds: number, c: Chance): Promise<StereoTrack> {
  if (c.next() < 0.5) {
    const mono = synthBass(notes, seconds, c);
    return [mono, Float32Array.from(mono)];
  }
  const part = {
    name: "bass",
    sound: c.pick(programs),
    notes: notes.map(({ time, end, pitch }) => ({
      time,
      duration: end - time,
      pitch,
      velocity: c.whole(70, 120),
    })),
    mix: { gainDb: 0, pan: 0, room: 0 },
  };
  const [track] = await renderParts([part], seconds);
  return track!;
}

/** Moved in pitch and time, and treated. */
function moved({ name, track, notes }: BassTake, c: Chance): BassTake {
  const semitones = c.next() < 0.5 ? c.whole(-5, 5) : 0;
  const ratio = 2 ** ((semitones + c.between(-0.2, 0.2)) / 12);
  const own = resampled(track, ratio);
  treat(own, c);
  return {
    name,
    track: own,
    notes: notes.map(({ time, end, pitch }) => ({
      time: time / ratio,
      end: end / ratio,
      pitch: pitch + semitones,
    })),
  };
}

/** A MIDI piece without its bass, played by a font. */
async function withoutBass(piece: Piece, channels: ReadonlySet<number>, font: SoundFont) {
  const folder = await mkdtemp(path.join(tmpdir(), "bass-"));
  try {
    const [midi, wav] = ["rest.mid", "rest.wav"].map((name) => path.join(folder, name)) as [string, string];
    const isHeard = (channel: number) => channel !== drumChannel && !channels.has(channel);
    await writeFile(midi, partOfMidi(await readFile(piece.file), playedSeconds, isHeard));
    await playByFont(font, midi, wav);
    return await read(wav);
  } finally {
    await rm(folder, { recursive: true });
  }
}

async function* midiTakes(half: Half, variants: number): AsyncGenerator<() => Promise<BassTake | null>> {
  const pieces = (await midiPieces()).filter((piece) => piece.half === half);
  for (const [i, piece] of pieces.entries()) {
    const midi = new Midi(await readFile(piece.file));
    const { notes, beneath } = bassOfMidi(midi);
    if (notes.length < fewestNotes || beneath > mostBeneath) continue;
    const fonts = half === "fit" ? soundFontNames : [soundFontNames[i % soundFontNames.length]!];
    for (const font of fonts)
      yield async () => {
        const whole = await playedWhole(piece, font);
        const track = whole && (await read(whole.file));
        return track && { name: `${piece.name} ${font}`, track, notes };
      };
    const channels = bassChannels(midi);
    if (half === "measure" || channels.size === 0) continue;
    for (let v = 0; v < variants; v++) {
      yield async () => {
        const c = chance(1000 * v + 7 * i + 1);
        const font = soundFontNames[(i + v) % soundFontNames.length]!;
        const drummed = await playedMidi(piece, soundFontNames[c.whole(0, 2)]!);
        const drums = drummed && (await read(drummed.drums));
        const track = await withoutBass(piece, channels, font);
        if (!drums || !track) return null;
        const bass = await otherBass(notes, track[0].length / renderRate, c);
        const level = effective(track);
        add(track, drums, c.between(0.5, 2));
        add(track, bass, (level / effective(bass)) * 10 ** (c.between(-9, 5) / 20));
        return moved({ name: `${piece.name} other ${v}`, track, notes }, c);
      };
    }
  }
}

async function* ownTakes(seeds: readonly number[]): AsyncGenerator<() => Promise<BassTake | null>> {
  for (const seed of seeds) {
    for (const style of styles) {
      yield async () => {
        const song = styleSong(style, seed);
        const c = chance(seed * 37 + style.length);
        const notes = bassOfSong(song);
        if (notes.length < fewestNotes) return null;
        const seconds = secondsOf(song);
        const isOther = seed % 2 === 0;
        const parts = isOther ? song.parts.filter(({ role }) => role !== "bass") : song.parts;
        const tracks = await renderParts(parts, seconds);
        const mixes = parts.map(({ mix }) => mix);
        if (isOther) {
          tracks.push(await otherBass(notes, seconds, c));
          mixes.push(song.parts.find(({ role }) => role === "bass")!.mix);
        }
        const track = mixDown(tracks, mixes, developmentMaster(seed));
        const take = { name: `${style} ${seed}`, track, notes };
        return isOther ? moved(take, c) : take;
      };
    }
  }
}

/** Own songs whose bass slides here and there. */
async function* slidTakes(seed: number): AsyncGenerator<() => Promise<BassTake | null>> {
  for (const style of styles)
    yield async () => {
      const song = await songWithSlides(style, seed);
      if (!song) return null;
      const { signal, notes, slides } = song;
      return {
        name: `${style} ${seed} slid`,
        track: [signal.channels[0]!, signal.channels[1]!],
        notes,
        slides,
      };
    };
}

/** What has no bass: drums by themselves, and noise of every colour. */
async function* emptyTakes(): AsyncGenerator<() => Promise<BassTake | null>> {
  const pieces = (await midiPieces()).filter(({ half }) => half === "fit");
  for (const [i, piece] of pieces.entries()) {
    if (i % 4 !== 0) continue;
    yield async () => {
      const played = await playedMidi(piece, soundFontNames[(i / 4) % soundFontNames.length]!);
      const track = played && (await read(played.drums));
      if (!track) return null;
      const c = chance(i + 11);
      return moved({ name: `${piece.name} drums`, track, notes: [] }, c);
    };
  }
  for (let i = 0; i < 6; i++)
    yield async () => {
      const c = chance(i + 71);
      const colour = c.between(0, 0.99);
      const track = [0, 1].map(() => {
        let last = 0;
        return Float32Array.from({ length: 60 * renderRate }, () => {
          last = colour * last + (1 - colour) * (2 * c.next() - 1);
          return 0.3 * last;
        });
      }) as StereoTrack;
      treat(track, c);
      return { name: `noise ${i}`, track, notes: [] };
    };
}

export const bassSources = ["midi", "own", "slid", "empty"] as const;

/** Takes to be made one by one. */
export function bassTakes(source: (typeof bassSources)[number], half: Half) {
  if (source === "midi") return midiTakes(half, 3);
  if (source === "own") return ownTakes(half === "fit" ? [3, 4, 6] : [101]);
  return source === "slid" ? slidTakes(3) : emptyTakes();
}

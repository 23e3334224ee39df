/**
 * Moments of an arrangement: a stop before a section, a riser into it, a crash on it, drums that
 * drop out, a filter that opens. They are written into a song whose notes are done.
 */
import { applyBiquad, designBiquad } from "@/core/dsp/biquad";
import { mixDown, type MasterSettings } from "./mix";
import { secondsOf } from "./makeSong";
import { chance } from "./random";
import { renderParts, renderRate, type StereoTrack } from "./render";
import { sectionSpans, straightTimeOf, type Part, type Song } from "./song";
import { part } from "./writing";

export type MomentKind = "stop" | "riser" | "crash" | "drumsOut" | "filterOpening";

/** A moment with its place in beats from bar 1. */
export interface SongMoment {
  kind: MomentKind;
  startBeat: number;
  beats: number;
}

const isDrums = ({ sound }: Part) => sound === "drums";
/** Notes are played up to so much early: seconds. */
const early = 0.06;

/** Takes out what begins in a span and cuts off what rings into it. */
function silence(parts: readonly Part[], from: number, to: number): void {
  for (const own of parts) {
    own.notes = own.notes
      .filter(({ time }) => time < from - early || time >= to - early)
      .map((note) =>
        note.time < from ? { ...note, duration: Math.min(note.duration, from - note.time) } : note,
      );
  }
}

/** Writes two to four moments at the beginnings of sections into a song, chosen by its seed. */
export function addMoments(song: Song): SongMoment[] {
  const c = chance(
    song.seed * 389 + [...song.style].reduce((sum, letter) => 31 * sum + letter.charCodeAt(0), 7),
  );
  const made: SongMoment[] = [];
  const starts = sectionSpans(song).slice(1);
  const at = (beat: number) => straightTimeOf(song, beat);
  const { beatsPerBar } = song;
  for (const { startBeat } of starts) {
    const before = c.pick<MomentKind | null>(["stop", "riser", "drumsOut", "filterOpening", null]);
    if (before === "stop") {
      const beats = c.pick(beatsPerBar === 4 ? [1, 2, 4] : [1, beatsPerBar]);
      silence(song.parts, at(startBeat - beats), at(startBeat));
      made.push({ kind: before, startBeat: startBeat - beats, beats });
    } else if (before === "drumsOut") {
      const beats = c.pick([1, 2]) * beatsPerBar;
      silence(song.parts.filter(isDrums), at(startBeat - beats), at(startBeat));
      made.push({ kind: before, startBeat: startBeat - beats, beats });
    } else if (before !== null) {
      const beats = Math.min(startBeat, c.pick([2, 4]) * beatsPerBar);
      made.push({ kind: before, startBeat: startBeat - beats, beats });
    }
    if (c.next() < 0.45) {
      const cymbals = part(song, "crashes", "drums", {
        gainDb: c.between(-4, 1),
        pan: c.between(-0.3, 0.3),
        room: 0.3,
      });
      cymbals.role = "drums";
      cymbals.notes.push({
        time: Math.max(0, at(startBeat)),
        duration: 0.5,
        pitch: 49,
        velocity: 112,
        voice: "cymbal",
      });
      made.push({ kind: "crash", startBeat, beats: 1 });
    }
  }
  return made;
}

/** Noise that rises in pitch and level over some spans and breaks off. */
function riserTrack(song: Song, moments: readonly SongMoment[], length: number): StereoTrack {
  const c = chance(song.seed * 53 + 29);
  const track: StereoTrack = [new Float32Array(length), new Float32Array(length)];
  for (const { startBeat, beats } of moments) {
    const from = Math.round(straightTimeOf(song, startBeat) * renderRate);
    const to = Math.min(length, Math.round(straightTimeOf(song, startBeat + beats) * renderRate));
    const [low, high] = [c.between(300, 900), c.between(5000, 10000)];
    const peak = 10 ** (c.between(-21, -13) / 20);
    for (const samples of track) {
      const noise = Float32Array.from({ length: to - from }, () => 2 * c.next() - 1);
      // In short pieces, each with its own band: the filter moves on by a sixtieth of a second.
      const piece = Math.round(renderRate / 60);
      for (let at = 0; at < noise.length; at += piece) {
        const share = at / noise.length;
        const part = noise.subarray(at, Math.min(noise.length, at + piece));
        applyBiquad(designBiquad("highPass", renderRate, low * (high / low) ** share, 0.8), part);
        const gain = peak * 10 ** ((-26 * (1 - share)) / 20);
        for (let i = 0; i < part.length; i++) samples[from + at + i] = part[i]! * gain;
      }
    }
  }
  return track;
}

/** Low-passes whole spans, the corner rising from a few hundred hertz until nothing is held back. */
function openFilter(song: Song, moments: readonly SongMoment[], mix: StereoTrack): void {
  const c = chance(song.seed * 71 + 3);
  for (const { startBeat, beats } of moments) {
    const from = Math.round(straightTimeOf(song, startBeat) * renderRate);
    const to = Math.min(mix[0].length, Math.round(straightTimeOf(song, startBeat + beats) * renderRate));
    const low = c.between(180, 500);
    for (const samples of mix) {
      let [x1, x2, y1, y2] = [0, 0, 0, 0];
      let filter = designBiquad("lowPass", renderRate, low, 0.9);
      for (let i = from; i < to; i++) {
        if ((i - from) % 64 === 0) {
          filter = designBiquad(
            "lowPass",
            renderRate,
            low * (18000 / low) ** ((i - from) / (to - from)),
            0.9,
          );
        }
        const x = samples[i]!;
        const y = filter.b0 * x + filter.b1 * x1 + filter.b2 * x2 - filter.a1 * y1 - filter.a2 * y2;
        [x2, x1, y2, y1] = [x1, x, y1, y];
        samples[i] = y;
      }
    }
  }
}

/** Renders and mixes a song with its moments. */
export async function mixWithMoments(
  song: Song,
  moments: readonly SongMoment[],
  master: MasterSettings,
): Promise<StereoTrack> {
  const tracks = await renderParts(song.parts, secondsOf(song));
  const ofKind = (wanted: MomentKind) => moments.filter(({ kind }) => kind === wanted);
  const riser = riserTrack(song, ofKind("riser"), tracks[0]![0].length);
  const open: MasterSettings = { driveDb: 0, ceilingDb: 60 };
  const mix = mixDown(
    [...tracks, riser],
    [...song.parts.map(({ mix: own }) => own), { gainDb: 0, pan: 0, room: 0.2 }],
    open,
  );
  openFilter(song, ofKind("filterOpening"), mix);
  return mixDown(
    [mix],
    [{ gainDb: -20 * Math.log10(Math.SQRT2 * Math.cos(Math.PI / 4)), pan: 0, room: 0 }],
    master,
  );
}

/** All moments that a finished song has, those of its style included. */
export function momentsIn(song: Song, added: readonly SongMoment[]): SongMoment[] {
  const { beatsPerBar } = song;
  const bars = song.sections.reduce((sum, section) => sum + section.bars, 0);
  const found = added.filter(({ kind }) => kind === "riser" || kind === "filterOpening" || kind === "stop");
  const crashes = song.parts
    .flatMap(({ notes }) => notes)
    .filter(({ pitch, voice }) => voice === "cymbal" && pitch === 49)
    .map(({ time }) => time);
  const drumTimes = song.parts.filter(isDrums).flatMap(({ notes }) => notes.map(({ time }) => time));
  const inBar = (times: readonly number[], bar: number) => {
    const [from, to] = [
      straightTimeOf(song, bar * beatsPerBar),
      straightTimeOf(song, (bar + 1) * beatsPerBar),
    ];
    return times.some((time) => time >= from - early && time < to - early);
  };
  for (let bar = 0; bar < bars; bar++) {
    if (inBar(crashes, bar)) found.push({ kind: "crash", startBeat: bar * beatsPerBar, beats: 1 });
    if (bar === 0 || inBar(drumTimes, bar) || !inBar(drumTimes, bar - 1)) continue;
    let end = bar + 1;
    while (end < bars && !inBar(drumTimes, end)) end++;
    found.push({ kind: "drumsOut", startBeat: bar * beatsPerBar, beats: (end - bar) * beatsPerBar });
  }
  return found.sort((a, b) => a.startBeat - b.startBeat);
}

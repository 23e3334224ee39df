import { parseMidi } from "midi-file";
import { loadFft } from "../dsp/fft";
import { bassMidi } from "../formats/bassMidi";
import { Midi } from "../formats/midiFile";
import { steadyGrid, strokesAt } from "../testing/drums";
import { belowCutOff, lowEndBand, measureLowEnd, type LowEndMeasures } from ".";
import { estimateLowEnd } from "./estimateLowEnd";
import { packBass, unpackBass } from "./packedBass";

const { LN10, PI, abs, cos, exp, log10, max, min, pow, round, sin } = Math;
const rate = 44100;
const beat = 0.5;
const seconds = 20;
const length = seconds * rate;
const kicks = Array.from({ length: 36 }, (_, i) => 0.5 + beat * i);

beforeAll(loadFft);

interface Played {
  /** Kick: seconds until it has fallen by 20 dB. */
  kickFalls?: number;
  kickGain?: number;
  /** Where it settles, Hz. */
  kickHz?: number;
  /** Bass on every off-beat, or held through; levels in dB by turns. */
  levels?: readonly number[];
  pitches?: readonly number[];
  held?: boolean;
  duckDb?: number;
  /** Gain of the right channel. */
  right?: number;
}

/** A kick on every beat and a bass, with what is known of them. */
function played({
  kickFalls = 0.15,
  kickGain = 0.5,
  kickHz = 52,
  levels = [-12],
  pitches = [45, 45, 48, 43],
  held = false,
  duckDb = 0,
  right = 1,
}: Played = {}) {
  const kickSound = Float32Array.from({ length: round(0.45 * rate) }, (_, i) => {
    const t = i / rate;
    const rise = min(1, t / 0.002);
    return (
      kickGain * rise * sin(2 * PI * (kickHz * t + 2 * (1 - exp(-60 * t)))) * exp((-LN10 * t) / kickFalls)
    );
  });
  const bass = new Float32Array(length);
  const notes: { start: number; midi: number }[] = [];
  kicks.forEach((time, i) => {
    const start = held ? time : time + beat / 2;
    const duration = held ? beat : beat / 2 - 0.02;
    const midi = pitches[i % pitches.length]!;
    const hz = 440 * pow(2, (midi - 69) / 12);
    const level = pow(10, levels[i % levels.length]! / 20);
    notes.push({ start, midi });
    const first = round(start * rate);
    for (let k = 0; k < duration * rate && first + k < length; k++) {
      const t = k / rate;
      const edge = held ? 1 : min(1, t / 0.005, (duration - t) / 0.01);
      // Held notes go on through one another.
      const phase = held ? first + k : k;
      bass[first + k]! +=
        level * edge * (sin((2 * PI * hz * phase) / rate) + 0.3 * sin((4 * PI * hz * phase) / rate));
    }
  });
  if (duckDb > 0)
    for (let i = 0; i < length; i++) {
      const since = (i / rate - kicks[0]!) % beat;
      if (since >= 0) bass[i]! *= pow(10, (-duckDb * max(0, 1 - since / 0.2)) / 20);
    }
  const left = Float32Array.from(bass);
  for (const time of kicks) {
    const first = round(time * rate);
    for (let k = 0; k < kickSound.length && first + k < length; k++) left[first + k]! += kickSound[k]!;
  }
  const channels: [Float32Array, Float32Array] = [left, right === 1 ? left : left.map((x) => right * x)];
  const { lowEnd, bass: heard } = estimateLowEnd(
    channels,
    rate,
    notes.map(({ start }) => start),
    kicks,
    strokesAt(
      notes.map(({ start }) => start),
      kicks,
    ),
  );
  const measures = (cutOff?: number): LowEndMeasures =>
    measureLowEnd(lowEndBand(lowEnd, cutOff), kicks, heard, beat);
  return { lowEnd, heard, notes, measures };
}

describe("the low end", () => {
  it("is told apart: what is left without the kicks is the bass", () => {
    const { lowEnd } = played();
    const power = (samples: Float32Array, from: number, to: number) => {
      let sum = 0;
      for (let i = round(from * lowEnd.rate); i < round(to * lowEnd.rate); i++) sum += samples[i]! ** 2;
      return sum / (to - from) / lowEnd.rate;
    };
    let kickInRest = 0;
    let bassInKick = 0;
    for (const time of kicks.slice(4, -4)) {
      kickInRest += power(lowEnd.rest, time + 0.01, time + 0.1) / power(lowEnd.kick, time + 0.01, time + 0.1);
      bassInKick +=
        power(lowEnd.kick, time + 0.35, time + 0.45) / power(lowEnd.rest, time + 0.35, time + 0.45);
    }
    const count = kicks.length - 8;
    expect(10 * log10(kickInRest / count)).toBeLessThan(-20);
    expect(10 * log10(bassInKick / count)).toBeLessThan(-15);
  });

  it.each([0.1, 0.2, 0.35])(
    "has kicks as long as they are without bass, within a tenth: %d s",
    (kickFalls) => {
      const { kickLengthBeats, roomBeats, kickToBassDb } = played({ kickFalls }).measures();
      const alone = played({ kickFalls, levels: [-90] }).measures().kickLengthBeats! * beat;
      // The highest part has gone when what is below 100 Hz has its peak.
      expect(alone - kickFalls).toBeGreaterThan(0);
      expect(alone - kickFalls).toBeLessThan(0.045);
      expect(abs((kickLengthBeats! * beat) / alone - 1)).toBeLessThan(0.1);
      expect(roomBeats! + kickLengthBeats!).toBeCloseTo(1, 1);
      // Kick 0.5 at its peak, less what it has fallen by then; bass −12 dB: both as effective values.
      expect(kickToBassDb!).toBeGreaterThan(2);
    },
  );

  it.each([
    [42, 0.3],
    [52, 0.2],
    [110, 0.2],
  ])("has kicks at their pitch, also above the cut-off: %d Hz", (kickHz, kickFalls) => {
    // A bass between the kicks, and one that is held through them.
    for (const held of [false, true]) {
      const found = played({ kickHz, kickFalls, held, levels: [held ? -20 : -12] }).measures().kickHz!;
      expect(abs(found - kickHz)).toBeLessThan(2.5);
    }
  });

  it("follows the level of the kick against the bass decibel by decibel", () => {
    const [soft, loud] = [0.25, 0.5].map((kickGain) => played({ kickGain }).measures().kickToBassDb!);
    expect(loud! - soft!).toBeCloseTo(20 * log10(2), 0);
  });

  it("finds how far bass notes differ, within a tenth or a quarter of a decibel", () => {
    const even = played().measures().bassEvennessDb!;
    expect(even).toBeLessThan(0.5);
    const levels = [-10, -16, -10, -16];
    const uneven = played({ levels, pitches: [45, 45, 45, 45] }).measures().bassEvennessDb!;
    expect(abs(uneven - 3)).toBeLessThan(0.3);
  });

  it("finds the dip of a held bass at the kicks with depth and return", () => {
    const levels = [-14];
    const pitches = [40];
    const ducked = played({ held: true, duckDb: 6, levels, pitches, kickFalls: 0.08 }).measures(200).ducking!;
    expect(abs(ducked.depthDb - 6)).toBeLessThan(1);
    expect(abs(ducked.recoveryMs / 200 - 1)).toBeLessThan(0.2);
    expect(played({ held: true, levels, pitches, kickFalls: 0.08 }).measures(200).ducking).toBeNull();
  });

  it("tells mono from what is not", () => {
    expect(played().measures()).toMatchObject({ monoCorrelation: 1, monoLossDb: 0 });
    // One side of the other's polarity and half as loud.
    const { monoCorrelation, monoLossDb } = played({ right: -0.5 }).measures();
    expect(monoCorrelation).toBe(-1);
    // (0.25)² of mid against (0.75)² of side.
    expect(monoLossDb).toBeCloseTo(-10, 0);
  });

  it("measures what lies below 30 Hz", () => {
    const deep = played({ pitches: [22], kickGain: 0.01 }).measures();
    // A0 at 27.5 Hz, with an octave above it 10 dB softer, across the slope of the filter.
    expect(deep.below30Db!).toBeGreaterThan(-6);
    expect(played({ pitches: [45] }).measures().below30Db!).toBeLessThan(-15);
  });

  it("finds by how much the bass must move, and whether it must turn, to add up with the kick", () => {
    const low = 600;
    const kick = new Float32Array(20 * low);
    const times = Array.from({ length: 36 }, (_, i) => 0.5 + i / 2);
    for (const time of times)
      for (let i = 0; i < 0.3 * low; i++)
        kick[round(time * low) + i]! += sin((2 * PI * 50 * i) / low) * Math.exp((-9 * i) / low);
    // Three samples at 600 Hz are 5 ms.
    const late = kick.map((_, i) => -0.6 * (kick[i - 3] ?? 0));
    const of = (rest: Float32Array) =>
      measureLowEnd(
        lowEndBand({ rate: low, kick, rest, side: new Float32Array(kick.length) }),
        times,
        times.map((start) => ({ start, end: start + 0.3, midi: 31, cents: 0, levelDb: -12, sure: 1 })),
        beat,
      ).moved;
    const moved = of(late)!;
    expect(moved).toMatchObject({ ms: -5, inverted: true });
    expect(moved.gainDb).toBeGreaterThan(2);
    expect(of(kick.map((x) => 0.6 * x))).toBeNull();
  });

  it("says nothing of silence and of kicks alone", () => {
    const silent = new Float32Array(4 * rate);
    const { lowEnd, bass } = estimateLowEnd([silent, silent], rate, [], [], strokesAt([], []));
    expect(measureLowEnd(lowEndBand(lowEnd), [], bass, beat)).toMatchObject({
      kickLengthBeats: null,
      kickToBassDb: null,
      bassEvennessDb: null,
      below30Db: null,
      monoCorrelation: null,
      ducking: null,
    });
  });
});

describe("the bass line", () => {
  it("has every note with its pitch, on and off the kick", () => {
    for (const held of [false, true]) {
      const { heard, notes } = played({ pitches: [33, 36, 40, 45, 28, 50], held, kickFalls: 0.15 });
      const right = notes.filter(({ start, midi }) =>
        heard.some((own) => abs(own.start - start) < 0.01 && own.midi === midi),
      );
      expect(right.length / notes.length).toBeGreaterThan(0.95);
      expect(heard.length).toBeLessThanOrEqual(notes.length);
    }
  });

  it("says how clearly a pitch stands out", () => {
    for (const { sure } of played({ pitches: [33, 40] }).heard) expect(sure).toBeGreaterThan(0.3);
  });

  it.each([
    ["without its fundamental", [2, 3, 4, 5, 6, 7, 8], 0.05, 0],
    // Every fundamental is then too faint to count.
    ["30 dB under a tone far above it", [1, 2, 3, 4], 0.012, 0.4],
  ])("keeps a note %s in its pitch class", (_name, harmonics, level, above) => {
    const starts = Array.from({ length: 12 }, (_, i) => 0.5 + i / 2);
    const samples = Float32Array.from({ length: 7 * rate }, (_, i) => {
      const since = ((i / rate) % 0.5) - 0.01;
      if (since < 0 || since > 0.4) return 0;
      const tone = (hz: number) => sin((2 * PI * hz * i) / rate);
      // E1.
      return harmonics.reduce((sum, h) => sum + level * tone(h * 41.2), above * tone(700));
    });
    const { bass } = estimateLowEnd([samples, samples], rate, starts, [], strokesAt(starts, []));
    expect(bass.length).toBeGreaterThan(8);
    for (const { midi } of bass) expect(midi % 12).toBe(4);
  });

  it("keeps cents, lengths and levels", () => {
    const { heard } = played({ levels: [-12, -18], pitches: [40.3] });
    const own = heard.slice(4, -4);
    for (const { cents, start, end } of own) {
      expect(abs(cents - 30)).toBeLessThan(8);
      expect(abs(end - start - (beat / 2 - 0.02))).toBeLessThan(0.05);
    }
    expect(own[0]!.levelDb - own[1]!.levelDb).toBeCloseTo(6, 0);
  });

  it("goes out as MIDI, each note at its time", () => {
    const grid = steadyGrid(120, 4, 0.5);
    const file = new Midi(
      bassMidi(
        [
          { start: 0.2, end: 0.4, midi: 30, cents: 0, levelDb: -12, sure: 1 },
          { start: 0.75, end: 1.25, midi: 33, cents: -4, levelDb: -12, sure: 1 },
          { start: 1.5, end: 1.6, midi: 35, cents: 0, levelDb: -18, sure: 1 },
        ],
        grid,
        "made up",
      ),
    );
    const notes = file.tracks[0]!.notes;
    // What lies before bar 1 is left out.
    expect(notes.map(({ midi }) => midi)).toEqual([33, 35]);
    expect(notes.map(({ ticks }) => ticks / file.header.ppq)).toEqual([0.5, 2]);
    expect(notes[0]!.durationTicks / file.header.ppq).toBeCloseTo(1, 3);
    expect(notes[1]!.velocity).toBeLessThan(notes[0]!.velocity);
  });

  it("goes out with its slides as bends of as many semitones", () => {
    const grid = steadyGrid(120, 4, 0.5);
    const slide = { from: 0.9, to: 1.1, before: 0, after: 7 };
    const [events] = parseMidi(
      bassMidi(
        [
          { start: 0.75, end: 1.25, midi: 33, cents: 0, levelDb: -12, sure: 1, slide },
          { start: 1.5, end: 1.6, midi: 35, cents: 0, levelDb: -18, sure: 1 },
        ],
        grid,
        "made up",
      ),
    ).tracks.slice(-1);
    let ticks = 0;
    const told = events!.map((event) => ({ at: (ticks += event.deltaTime), event }));
    // Registered parameter 0 is chosen before it is set to 24 semitones (MIDI 1.0, "Pitch bend sensitivity").
    const controllers = told.flatMap(({ event }) =>
      event.type === "controller" ? [[event.controllerType, event.value]] : [],
    );
    expect(controllers.slice(0, 2).sort(([a], [b]) => a! - b!)).toEqual([
      [100, 0],
      [101, 0],
    ]);
    expect(controllers[2]).toEqual([6, 24]);
    const bends = told.flatMap(({ at, event }) =>
      event.type === "pitchBend" ? [{ at, semitones: (24 * event.value) / 8192 }] : [],
    );
    const beats = bends.map(({ at }) => at / 960);
    expect(bends[0]!.semitones).toBe(0);
    expect(Math.max(...bends.map(({ semitones }) => semitones))).toBeCloseTo(7, 1);
    // From 0.4 s after bar 1 to 0.6 s, and back when the next note begins.
    expect(beats[1]!).toBeGreaterThanOrEqual(0.8);
    expect(beats.at(-2)!).toBeCloseTo(1.2, 2);
    expect([beats.at(-1), bends.at(-1)!.semitones]).toEqual([2, 0]);
  });

  it("has notes that slide between kicks, and no others", () => {
    const samples = new Float32Array(length);
    const starts = kicks.filter((_, i) => i % 4 === 1);
    starts.forEach((start, i) => {
      let phase = 0;
      for (let k = 0; k < 1.4 * rate; k++) {
        const t = k / rate;
        // Every other note goes up by five semitones.
        const up = i % 2 === 0 ? 5 * min(1, max(0, (t - 0.7) / 0.15)) : 0;
        phase += (2 * PI * 440 * pow(2, (33 + up - 69) / 12)) / rate;
        const edge = min(1, t / 0.005, (1.4 - t) / 0.01);
        samples[round(start * rate) + k]! += 0.2 * edge * (sin(phase) + 0.4 * sin(2 * phase));
      }
    });
    for (const time of kicks)
      for (let k = 0; k < 0.3 * rate; k++) {
        const t = k / rate;
        samples[round(time * rate) + k]! +=
          0.4 * exp(-t / 0.05) * sin(2 * PI * (50 * t + 2 * (1 - exp(-60 * t))));
      }
    const { bass } = estimateLowEnd([samples, samples], rate, starts, kicks, strokesAt(starts, kicks));
    expect(bass).toHaveLength(starts.length);
    bass.forEach(({ slide }, i) => {
      if (i % 2 === 1) return expect(slide).toBeUndefined();
      expect(slide!.after - slide!.before).toBeCloseTo(5, 0);
      expect(abs(slide!.from - (starts[i]! + 0.7))).toBeLessThan(0.1);
    });
    expect(unpackBass(packBass(bass))).toEqual(bass);
  });
});

it("a cut-off lets what lies below through and holds what lies above back, without delay", () => {
  const low = 600;
  const tone = (hz: number) => Float32Array.from({ length: 6 * low }, (_, i) => cos((2 * PI * hz * i) / low));
  const gain = (hz: number) => {
    const whole = tone(hz);
    const out = belowCutOff(whole, low, 100);
    let [both, own] = [0, 0];
    for (let i = 2 * low; i < 4 * low; i++) {
      both += out[i]! * whole[i]!;
      own += whole[i]! ** 2;
    }
    return both / own;
  };
  expect(gain(50)).toBeCloseTo(1, 2);
  expect(20 * log10(abs(gain(100)))).toBeCloseTo(-6, 0);
  expect(20 * log10(max(1e-6, abs(gain(160))))).toBeLessThan(-35);
});

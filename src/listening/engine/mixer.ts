/**
 * Both sides in musical sync: the one place that decides which sample of which file sounds when.
 * Runs inside the audio thread and, for tests, anywhere else. Flips, jumps and loops are crossfades
 * of `fadeSeconds`; nothing else ever touches the samples.
 */
import type { Seconds } from "@/core/units";
import { Pieces } from "./deck";
import {
  beatIn,
  secondsIn,
  secondsPerBeat,
  sides,
  stretchAfter,
  stretchAt,
  type Side,
  type Stretch,
  type Timeline,
} from "./timeline";

const { floor, max, min, PI, round, sin, exp } = Math;

/** Length of every crossfade. */
export const fadeSeconds: Seconds = 0.008;

/** Which sides sound: the chosen one, each in one ear, or both mixed. Both are then kept together. */
export type Arrangement = "one" | "ears" | "blend";

/** A file as the mixer knows it. */
export interface DeckSetup {
  sampleRate: number;
  frames: number;
  timeline: Timeline;
}

export interface MixerSettings {
  /** The side that is heard, and in whose own tempo time passes unless `together`. */
  lead: Side;
  arrangement: Arrangement;
  /** Share of the recreation in a blend, 0–1. */
  blend: number;
  /** Whether the recreation is brought to the tempo of the reference. */
  together: boolean;
  /** Speed of play, 1 = as it is. The pitch changes with it and is corrected behind the mixer. */
  speed: number;
  /** Gain of each side for equal loudness. */
  trim: Record<Side, number>;
  /** Beats between which play goes round. */
  loop: { from: number; to: number } | null;
  /** Gain of the click; 0 = off. */
  click: number;
  beatsPerBar: number;
}

export const plainSettings: MixerSettings = {
  lead: "reference",
  arrangement: "one",
  blend: 0.5,
  together: false,
  speed: 1,
  trim: { reference: 1, recreation: 1 },
  loop: null,
  click: 0,
  beatsPerBar: 4,
};

/** Where play is, for those who watch. */
export interface MixerReport {
  playing: boolean;
  /** Whether samples that should sound have not arrived. */
  waiting: boolean;
  /** Beats of the reference from bar 1. */
  beat: number;
  /** Seconds in the file of the side that is heard. */
  seconds: Seconds;
  lead: Side;
}

/** A run through a file; old ones fade out while new ones fade in. */
interface Voice {
  /** In frames of the file. */
  position: number;
  gain: number;
  wanted: number;
  /** Frames of the file per frame of output, as it was last. */
  step: number;
}

interface Deck extends DeckSetup {
  pieces: Pieces;
  voices: Voice[];
}

const clickSeconds: Seconds = 0.03;

export class Mixer {
  settings: MixerSettings = plainSettings;
  private readonly decks: Partial<Record<Side, Deck>> = {};
  private playing = false;
  private waiting = false;
  private beat = 0;
  /** A flip that waits for the samples of the other side. */
  private wantedLead: Side | null = null;
  private clickAge = Infinity;
  private clickAccent = false;

  constructor(private readonly sampleRate: number) {}

  /** Sets or replaces the file of a side; pieces of another file are forgotten. */
  setDeck(side: Side, setup: DeckSetup | null, keepPieces: boolean): void {
    const old = this.decks[side];
    if (!setup) delete this.decks[side];
    else {
      this.decks[side] = {
        ...setup,
        pieces: keepPieces && old ? old.pieces : new Pieces(setup.frames),
        voices: keepPieces && old ? old.voices : [],
      };
    }
    // Where a side's place has moved under the playhead, it is taken up anew.
    if (this.playing && keepPieces) this.jumpTo(this.beat);
  }

  addPiece(side: Side, piece: number, channels: readonly [Float32Array, Float32Array]): void {
    this.decks[side]?.pieces.add(piece, channels);
  }

  dropPiece(side: Side, piece: number): void {
    this.decks[side]?.pieces.drop(piece);
  }

  /** Forgets all samples of both sides, as when another part of the sound is asked for. */
  clearPieces(): void {
    for (const side of sides) this.decks[side]?.pieces.clear();
  }

  change(next: Partial<MixerSettings>): void {
    const { lead, ...rest } = next;
    const before = this.settings;
    this.settings = { ...before, ...rest };
    if (lead !== undefined && lead !== before.lead && this.decks[lead]) {
      if (this.playing) this.wantedLead = lead;
      else this.settings.lead = lead;
    } else if (lead === before.lead) this.wantedLead = null;
    const wasKept = before.together || before.arrangement !== "one";
    if (this.playing && wasKept !== this.keptTogether) this.jumpTo(this.beat);
    else this.setGains();
  }

  play(): void {
    if (this.playing) return;
    this.playing = true;
    this.jumpTo(this.beat);
  }

  pause(): void {
    this.playing = false;
    this.waiting = false;
    for (const side of sides) this.fadeAll(side);
  }

  seek(beat: number): void {
    if (this.playing) this.jumpTo(beat);
    else this.beat = beat;
  }

  report(): MixerReport {
    const { lead } = this.settings;
    const stretch = this.decks[lead] && stretchAt(this.decks[lead].timeline, this.beat);
    return {
      playing: this.playing,
      waiting: this.waiting,
      beat: this.beat,
      seconds: stretch ? secondsIn(stretch, this.beat) : 0,
      lead,
    };
  }

  /** Whether both sides run at once. */
  private get keptTogether(): boolean {
    return this.settings.together || this.settings.arrangement !== "one";
  }

  /** The side in whose tempo time passes. */
  private get clock(): Side {
    return this.keptTogether && this.decks.reference ? "reference" : this.settings.lead;
  }

  private gainOf(side: Side): number {
    const { arrangement, blend, lead, trim } = this.settings;
    const share =
      arrangement === "ears"
        ? 1
        : arrangement === "blend"
          ? side === "reference"
            ? 1 - blend
            : blend
          : side === lead
            ? 1
            : 0;
    return share * trim[side];
  }

  private fadeAll(side: Side): void {
    for (const voice of this.decks[side]?.voices ?? []) voice.wanted = 0;
  }

  /** The newest voice of a deck is the one that goes on. */
  private setGains(): void {
    if (!this.playing) return;
    for (const side of sides) {
      const voice = this.decks[side]?.voices.at(-1);
      if (voice) voice.wanted = this.gainOf(side);
    }
  }

  /** Begins a new voice of a side at a beat, fading the old one out. */
  private start(side: Side, beat: number): void {
    const deck = this.decks[side];
    if (!deck) return;
    this.fadeAll(side);
    const stretch = stretchAt(deck.timeline, beat);
    if (!stretch) return;
    deck.voices.push({
      position: round(secondsIn(stretch, beat) * deck.sampleRate),
      gain: 0,
      wanted: this.gainOf(side),
      step: 0,
    });
  }

  /** Goes on at a beat; where the heard side has nothing there, at its next place. */
  private jumpTo(beat: number): void {
    const lead = this.decks[this.settings.lead];
    let to = beat;
    if (lead && !stretchAt(lead.timeline, to) && this.settings.arrangement === "one") {
      const { loop } = this.settings;
      const next = stretchAfter(lead.timeline, to);
      if (next && (!loop || next.beat < loop.to)) to = next.beat;
      else {
        const first = stretchAfter(lead.timeline, loop?.from ?? -Infinity);
        if (loop && first && first.beat < loop.to) to = first.beat;
        else {
          this.pause();
          return;
        }
      }
    }
    this.beat = to;
    for (const side of sides) {
      if (side === this.settings.lead || this.keptTogether) this.start(side, to);
      else this.fadeAll(side);
    }
  }

  /** Whether the samples that a side needs next are here. */
  private ready(side: Side, beat: number): boolean {
    const deck = this.decks[side];
    if (!deck) return true;
    const stretch = stretchAt(deck.timeline, beat);
    if (!stretch) return true;
    const frame = secondsIn(stretch, beat) * deck.sampleRate;
    return deck.pieces.has(frame) && deck.pieces.has(frame + 0.05 * deck.sampleRate);
  }

  /** Fills one block of output: a stereo pair a side, and the click. Outputs are overwritten. */
  process(
    reference: readonly [Float32Array, Float32Array],
    recreation: readonly [Float32Array, Float32Array],
    click: Float32Array,
  ): void {
    const length = click.length;
    for (const channel of [...reference, ...recreation, click]) channel.fill(0);
    const outputs = { reference, recreation };
    if (this.wantedLead && this.playing && this.ready(this.wantedLead, this.beat)) {
      this.settings = { ...this.settings, lead: this.wantedLead };
      this.wantedLead = null;
      if (this.keptTogether && stretchAt(this.decks[this.settings.lead]!.timeline, this.beat)) {
        this.setGains();
      } else this.jumpTo(this.beat);
    }
    const waits =
      this.playing &&
      (!this.ready(this.settings.lead, this.beat) ||
        (this.settings.arrangement !== "one" && sides.some((side) => !this.ready(side, this.beat))));
    // What is there still suffices to fade out, and in again when the rest has come.
    if (waits && !this.waiting) for (const side of sides) this.fadeAll(side);
    if (!waits && this.waiting && this.playing) this.jumpTo(this.beat);
    this.waiting = waits;
    let at = 0;
    while (at < length) {
      const running = this.playing && !this.waiting;
      const count = running ? this.runUntilChange(length - at) : length - at;
      for (const side of sides) this.mixSide(side, outputs[side], at, at + count, running);
      if (running) this.clicksBetween(click, at, at + count);
      at += count;
      if (running) this.afterRun();
    }
    this.ringClick(click);
  }

  private run = { beats: 0, stretch: null as Stretch | null };

  /** How many samples can pass until the clock's stretch or the loop ends; sets how far the beat moves. */
  private runUntilChange(most: number): number {
    const deck = this.decks[this.clock];
    const stretch = deck ? stretchAt(deck.timeline, this.beat) : null;
    this.run.stretch = stretch;
    if (!stretch) {
      this.run.beats = 0;
      return most;
    }
    const beatsPerSample = this.settings.speed / secondsPerBeat(stretch) / this.sampleRate;
    const { loop } = this.settings;
    const end = loop && this.beat < loop.to ? min(stretch.beatEnd, loop.to) : stretch.beatEnd;
    const left = max(1, Math.ceil((end - this.beat) / beatsPerSample - 1e-6));
    const count = min(most, left);
    this.run.beats = count * beatsPerSample;
    return count;
  }

  private mixSide(
    side: Side,
    output: readonly [Float32Array, Float32Array],
    from: number,
    to: number,
    running: boolean,
  ): void {
    const deck = this.decks[side];
    if (!deck) return;
    const fadeStep = 1 / (fadeSeconds * this.sampleRate);
    const newest = deck.voices.at(-1);
    const plain = (this.settings.speed * deck.sampleRate) / this.sampleRate;
    for (const voice of deck.voices) {
      if (!running && voice.wanted !== 0) continue;
      let step = voice.step || plain;
      if (running && voice === newest && voice.wanted !== 0) {
        step = plain;
        if (side !== this.clock) {
          // Kept at the place that the clock's beat says, so that nothing drifts.
          const target = stretchAt(deck.timeline, this.beat + this.run.beats * (1 - 1e-9));
          if (target) {
            const goal = secondsIn(target, this.beat + this.run.beats) * deck.sampleRate;
            step = (goal - voice.position) / (to - from);
            // A new stretch elsewhere in the file is a jump.
            if (step < 0 || step > 4 * plain) {
              this.start(side, this.beat);
              this.mixSide(side, output, from, to, running);
              return;
            }
          } else voice.wanted = 0;
        }
        voice.step = step;
      }
      this.mixVoice(deck, voice, output, from, to, step, fadeStep);
    }
    deck.voices = deck.voices.filter(
      (voice) => voice.gain > 0 || voice.wanted > 0 || (voice === newest && this.keptTogether),
    );
    // A side that had nothing to play comes in where it has.
    if (running && side !== this.clock && this.keptTogether) {
      const last = deck.voices.at(-1);
      const there = stretchAt(deck.timeline, this.beat);
      if (there && (!last || (last.wanted === 0 && this.gainOf(side) > 0))) this.start(side, this.beat);
    }
  }

  private mixVoice(
    deck: Deck,
    voice: Voice,
    output: readonly [Float32Array, Float32Array],
    from: number,
    to: number,
    step: number,
    fadeStep: number,
  ): void {
    let at = from;
    while (at < to) {
      const distance = voice.wanted - voice.gain;
      const full = Math.abs(distance) <= 1e-7;
      if (full) voice.gain = voice.wanted;
      const count = full ? to - at : min(to - at, Math.ceil(Math.abs(distance) / fadeStep));
      const gainStep = full ? 0 : distance > 0 ? fadeStep : -fadeStep;
      if (voice.gain > 0 || voice.wanted > 0) {
        deck.pieces.mixInto(output, at, at + count, voice.position, step, max(0, voice.gain), gainStep);
      }
      voice.position += count * step;
      if (!full) {
        const next = voice.gain + count * gainStep;
        voice.gain = distance > 0 ? min(voice.wanted, next) : max(voice.wanted, next);
      }
      at += count;
    }
  }

  /** Moves on in the music; goes round, on to the next place, or ends. */
  private afterRun(): void {
    const { stretch, beats } = this.run;
    const { loop, arrangement, lead } = this.settings;
    const before = this.beat;
    this.beat += beats;
    if (loop && before < loop.to && this.beat >= loop.to - 1e-9) {
      this.jumpTo(loop.from);
      return;
    }
    const clock = this.decks[this.clock];
    if (!stretch || !clock) {
      this.pause();
      return;
    }
    if (this.beat < stretch.beatEnd - 1e-9) {
      // The heard side may end before the clock's does.
      const heard = this.decks[lead];
      if (this.clock !== lead && arrangement === "one" && heard && !stretchAt(heard.timeline, this.beat)) {
        this.jumpTo(this.beat);
      }
      return;
    }
    this.beat = stretch.beatEnd;
    const next = stretchAt(clock.timeline, this.beat);
    // Neighbouring stretches of one run through the file need no new voice.
    if (next && Math.abs(next.seconds - stretch.secondsEnd) < 1e-6) return;
    this.jumpTo(this.beat);
  }

  /** Begins a click at each beat that passes. */
  private clicksBetween(output: Float32Array, from: number, to: number): void {
    const { beats } = this.run;
    if (this.settings.click <= 0 || beats <= 0) return;
    const next = Math.ceil(this.beat - 1e-9);
    if (next >= this.beat + beats - 1e-9) return;
    const place = from + round(((next - this.beat) / beats) * (to - from));
    this.ringClick(output.subarray(0, place));
    this.clickRung = place;
    this.clickAge = 0;
    const { beatsPerBar } = this.settings;
    this.clickAccent = ((next % beatsPerBar) + beatsPerBar) % beatsPerBar === 0;
  }

  /** How much of this block's click has been written. */
  private clickRung = 0;

  private ringClick(output: Float32Array): void {
    const length = clickSeconds * this.sampleRate;
    const frequency = this.clickAccent ? 1760 : 1175;
    for (let i = this.clickRung; i < output.length && this.clickAge < length; i++, this.clickAge++) {
      const time = this.clickAge / this.sampleRate;
      output[i]! +=
        this.settings.click *
        0.5 *
        exp(-time / 0.006) *
        sin(2 * PI * frequency * time) *
        min(1, time / 0.0005);
    }
    this.clickRung = 0;
  }
}

/** Which pieces of a side are wanted around a place in the music, the most urgent first. */
export function piecesAround(
  { sampleRate, frames, timeline }: DeckSetup,
  beat: number,
  seconds: Seconds,
  framesPerPiece: number,
): number[] {
  const at = stretchAt(timeline, beat);
  const stretch = at ?? stretchAfter(timeline, beat);
  if (!stretch) return [];
  const start = at ? secondsIn(at, beat) : stretch.seconds;
  const first = max(0, floor((start * sampleRate) / framesPerPiece));
  const last = min(
    floor((frames - 1) / framesPerPiece),
    floor(((start + seconds) * sampleRate) / framesPerPiece),
  );
  const wanted = Array.from({ length: max(0, last - first + 1) }, (_, i) => first + i);
  // Where play will jump to within that time, the place it jumps to.
  const end = stretch.beatEnd;
  const after = stretchAt(timeline, end) ?? stretchAfter(timeline, end);
  if (after && stretch.secondsEnd - start < seconds && beatIn(stretch, start) < end) {
    const jumpsTo = floor((after.seconds * sampleRate) / framesPerPiece);
    for (const piece of [jumpsTo, jumpsTo + 1]) {
      if (piece * framesPerPiece < frames && !wanted.includes(piece)) wanted.push(piece);
    }
  }
  return wanted;
}

/**
 * Both sides in musical sync: the one place that decides which sample of which file sounds when.
 * Runs inside the audio thread and, for tests, anywhere else. Flips, jumps and loops are crossfades
 * of `fadeSeconds`; nothing else ever touches the samples.
 */
import type { Seconds } from "@/core/units";
import { Click } from "./click";
import { Chunks, type Deck, type Voice } from "./deck";
import { kernelFor } from "./resampler";
import { plainSettings, type DeckSetup, type MixerReport, type MixerSettings } from "./settings";
import { sideInTurn } from "./turns";
import {
  secondsIn,
  secondsPerBeat,
  sides,
  segmentAfter,
  segmentAt,
  type Side,
  type Segment,
} from "./timeline";

const { max, min, round } = Math;

/** Length of every crossfade. */
export const fadeSeconds: Seconds = 0.008;

/** So long before its first stroke a side is taken up in its turn, so that the stroke is not in the fade. */
const turnAhead: Seconds = 1.5 * fadeSeconds;

export class Mixer {
  settings: MixerSettings = plainSettings;
  private readonly decks: Partial<Record<Side, Deck>> = {};
  private playing = false;
  private waiting = false;
  private beat = 0;
  /** A flip that waits for the samples of the other side. */
  private wantedSide: Side | null = null;

  private readonly click: Click;

  constructor(private readonly sampleRate: number) {
    this.click = new Click(sampleRate);
  }

  /** Sets or replaces the file of a side; pieces of another file are forgotten. */
  setDeck(side: Side, setup: DeckSetup | null, keepPieces: boolean): void {
    const old = this.decks[side];
    if (!setup) delete this.decks[side];
    else {
      this.decks[side] = {
        ...setup,
        pieces: keepPieces && old ? old.pieces : new Chunks(setup.frames),
        voices: keepPieces && old ? old.voices : [],
      };
    }
    // Made now, so that the audio thread does not have to while it plays.
    if (setup) kernelFor(setup.sampleRate / this.sampleRate);
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
  clearPieces(side: Side): void {
    this.decks[side]?.pieces.clear();
  }

  change(next: Partial<MixerSettings>): void {
    const { activeSide, ...rest } = next;
    const before = this.settings;
    this.settings = { ...before, ...rest };
    if (activeSide !== undefined && activeSide !== before.activeSide && this.decks[activeSide]) {
      if (this.playing) this.wantedSide = activeSide;
      else this.settings.activeSide = activeSide;
    } else if (activeSide === before.activeSide) this.wantedSide = null;
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
    const { activeSide } = this.settings;
    const stretch = this.decks[activeSide] && segmentAt(this.decks[activeSide].timeline, this.beat);
    return {
      playing: this.playing,
      waiting: this.waiting,
      beat: this.beat,
      seconds: stretch ? secondsIn(stretch, this.beat) : 0,
      activeSide,
    };
  }

  /** Whether both sides run at once. */
  private get keptTogether(): boolean {
    return this.settings.together || this.settings.arrangement !== "one";
  }

  /** The side in whose tempo time passes. */
  private get clock(): Side {
    return this.keptTogether && this.decks.reference ? "reference" : this.settings.activeSide;
  }

  private gainOf(side: Side): number {
    const { arrangement, blend, activeSide, trim } = this.settings;
    const share =
      arrangement === "ears"
        ? 1
        : arrangement === "blend"
          ? side === "reference"
            ? 1 - blend
            : blend
          : side === activeSide
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
    const stretch = segmentAt(deck.timeline, beat);
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
    const activeSide = this.decks[this.settings.activeSide];
    let to = beat;
    if (activeSide && !segmentAt(activeSide.timeline, to) && this.settings.arrangement === "one") {
      const { loop } = this.settings;
      const next = segmentAfter(activeSide.timeline, to);
      if (next && (!loop || next.beat < loop.to)) to = next.beat;
      else {
        const first = segmentAfter(activeSide.timeline, loop?.from ?? -Infinity);
        if (loop && first && first.beat < loop.to) to = first.beat;
        else {
          this.pause();
          return;
        }
      }
    }
    this.beat = to;
    for (const side of sides) {
      if (side === this.settings.activeSide || this.keptTogether) this.start(side, to);
      else this.fadeAll(side);
    }
  }

  /** Where sides take turns, has the one whose turn it is heard as soon as it can be. */
  private trade(): void {
    const { trade, activeSide, arrangement } = this.settings;
    if (trade === null || !this.playing || arrangement !== "one") return;
    const segment = this.decks[activeSide] && segmentAt(this.decks[activeSide].timeline, this.beat);
    const ahead = segment ? turnAhead / secondsPerBeat(segment) : 0;
    const due = sideInTurn(this.beat + ahead, trade, this.settings);
    const deck = this.decks[due];
    // Where the other has nothing there, this one goes on.
    this.wantedSide = due !== activeSide && deck && segmentAt(deck.timeline, this.beat) ? due : null;
  }

  /** Whether the samples that a side needs next are here. */
  private ready(side: Side, beat: number): boolean {
    const deck = this.decks[side];
    if (!deck) return true;
    const stretch = segmentAt(deck.timeline, beat);
    if (!stretch) return true;
    const frame = secondsIn(stretch, beat) * deck.sampleRate;
    return deck.pieces.has(frame) && deck.pieces.has(frame + 0.05 * deck.sampleRate);
  }

  /** Fills one block of output: a stereo pair a side, and the click. Outputs are overwritten. */
  process(
    reference: readonly [Float32Array, Float32Array],
    version: readonly [Float32Array, Float32Array],
    click: Float32Array,
  ): void {
    const length = click.length;
    for (const channel of [...reference, ...version, click]) channel.fill(0);
    const outputs = { reference, version };
    this.trade();
    if (this.wantedSide && this.playing && this.ready(this.wantedSide, this.beat)) {
      this.settings = { ...this.settings, activeSide: this.wantedSide };
      this.wantedSide = null;
      if (this.keptTogether && segmentAt(this.decks[this.settings.activeSide]!.timeline, this.beat)) {
        this.setGains();
      } else this.jumpTo(this.beat);
    }
    const waits =
      this.playing &&
      (!this.ready(this.settings.activeSide, this.beat) ||
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
    this.click.ring(click, this.settings.click);
  }

  private run = { beats: 0, stretch: null as Segment | null };

  /** How many samples can pass until the clock's stretch or the loop ends; sets how far the beat moves. */
  private runUntilChange(most: number): number {
    const deck = this.decks[this.clock];
    const stretch = deck ? segmentAt(deck.timeline, this.beat) : null;
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
          const target = segmentAt(deck.timeline, this.beat + this.run.beats * (1 - 1e-9));
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
      const there = segmentAt(deck.timeline, this.beat);
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
    const { loop, arrangement, activeSide } = this.settings;
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
      const heard = this.decks[activeSide];
      if (
        this.clock !== activeSide &&
        arrangement === "one" &&
        heard &&
        !segmentAt(heard.timeline, this.beat)
      ) {
        this.jumpTo(this.beat);
      }
      return;
    }
    this.beat = stretch.beatEnd;
    const next = segmentAt(clock.timeline, this.beat);
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
    const { beatsPerBar, click } = this.settings;
    this.click.begin(output, place, click, ((next % beatsPerBar) + beatsPerBar) % beatsPerBar === 0);
  }
}

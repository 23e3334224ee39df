/**
 * Plays both sides of a study in the browser: fetches pieces of samples as they are needed, hands
 * them to the mixer in the audio thread, and builds what comes behind it.
 */
import { framesPerPiece, unpackFrames, type ListeningPart } from "@/core/formats/pieces";
import { semitonesOfRatio } from "@/core/units";
import type { DrumVoice } from "@/core/drums/voices";
import { Companion, type Accompaniment } from "./companion";
import { processorName, type Order, type Report } from "./messages";
import { piecesAround, plainSettings, type DeckSetup, type MixerSettings } from "./mixer";
import { chainFor, throughs, type Chain, type Through } from "./through";
import { secondsPerBeat, sides, stretchAt, type Side } from "./timeline";

/** A file that can be played. */
export interface PlayerTrack extends DeckSetup {
  hash: string;
}

/** What the listener sets beyond the mixer's own settings. */
export interface PlayerSettings extends MixerSettings {
  /** Semitones by which both sides are shifted. */
  semitones: number;
  through: Through;
}

export const plainPlayerSettings: PlayerSettings = { ...plainSettings, semitones: 0, through: "everything" };

/** Node of the stretching package, which is served beside the pages. */
interface PitchNode extends AudioNode {
  schedule(change: { active?: boolean; semitones?: number }): Promise<unknown>;
  latency(): Promise<number>;
}

/** Seconds of samples kept ready ahead of play: of the side that is heard, and of the other. */
const ahead = { heard: 8, other: 4 } as const;
/** Pieces of one side that are kept at most: a little over a minute. */
const mostPieces = 60;
const mostRequests = 3;
/** Length of the change from one way of listening to another. */
const throughFade = 0.03;
/** Shifts below this are not corrected: a hundredth of a semitone cannot be heard. */
const leastShift = 0.01;

interface DeckState {
  track: PlayerTrack;
  loaded: Set<number>;
  asked: Set<number>;
}

export class Player {
  private context: AudioContext | null = null;
  private mixer: AudioWorkletNode | null = null;
  private building: Promise<void> | null = null;
  private readonly decks: Partial<Record<Side, DeckState>> = {};
  private readonly pitch: Partial<Record<Side, PitchNode>> = {};
  private readonly chains: Partial<Record<Side, Chain>> = {};
  private readonly places: Partial<Record<Side, GainNode>> = {};
  private companion: Companion | null = null;
  private accompaniment: Accompaniment | null = null;
  private clickDelay: DelayNode | null = null;
  private shifting = false;
  private latency = 0;
  private settings: PlayerSettings = plainPlayerSettings;
  private part: ListeningPart = "whole";
  private last: Report = {
    playing: false,
    waiting: false,
    beat: 0,
    seconds: 0,
    lead: "reference",
    time: 0,
  };
  /** Pieces that arrived before the audio thread was there. */
  private early: Order[] = [];
  private gone = false;

  constructor(
    private readonly onReport: (report: Report) => void,
    private readonly onTrouble: (sentence: string | null) => void,
  ) {}

  /** Sets what each side plays. The same file with another timeline keeps playing. */
  setTracks(tracks: Record<Side, PlayerTrack | null>): void {
    for (const side of sides) {
      const track = tracks[side];
      const old = this.decks[side];
      if (!track) {
        if (old) {
          delete this.decks[side];
          this.order({ kind: "deck", side, setup: null, keepPieces: false });
        }
        continue;
      }
      const same = old?.track.hash === track.hash;
      this.decks[side] = same ? { ...old, track } : { track, loaded: new Set(), asked: new Set() };
      const { sampleRate, frames, timeline } = track;
      this.order({ kind: "deck", side, setup: { sampleRate, frames, timeline }, keepPieces: same });
    }
    if (tracks.reference ?? tracks.recreation) void this.build();
    this.setShift();
    this.fetchWanted();
  }

  change(next: Partial<PlayerSettings>): void {
    const before = this.settings;
    this.settings = { ...before, ...next };
    const { semitones: _semitones, through: _through, ...mixer } = next;
    if (Object.keys(mixer).length > 0) this.order({ kind: "settings", settings: mixer });
    if (next.through !== undefined && next.through !== before.through) this.setThrough(next.through);
    if (next.arrangement !== undefined) this.setPlaces();
    this.setShift();
    this.fetchWanted();
  }

  async play(): Promise<void> {
    this.onTrouble(null);
    await this.build();
    await this.context?.resume();
    this.order({ kind: "play" });
  }

  pause(): void {
    this.order({ kind: "pause" });
  }

  seek(beat: number): void {
    this.last = { ...this.last, beat, time: this.context?.currentTime ?? 0 };
    this.order({ kind: "seek", beat });
    this.fetchWanted();
  }

  /** Beats of the reference from its bar 1, now. */
  beat(): number {
    const { beat, playing, waiting, time, lead } = this.last;
    if (!playing || waiting || !this.context) return beat;
    const clock =
      (this.settings.together || this.settings.arrangement !== "one") && this.decks.reference
        ? "reference"
        : lead;
    const stretch = this.decks[clock] && stretchAt(this.decks[clock].track.timeline, beat);
    if (!stretch) return beat;
    const passed = Math.min(0.2, Math.max(0, this.context.currentTime - time));
    const heard = passed - this.latency;
    return beat + (this.settings.speed * heard) / secondsPerBeat(stretch);
  }

  /** Plays strokes of the practice kit along with the music, or in its place; null ends it. */
  accompany(next: Accompaniment | null): void {
    this.accompaniment = next;
    this.companion?.play(next);
    this.setMusic();
    if (next) void this.build();
  }

  /** Sounds one stroke of the practice kit at once. */
  async strike(voice: DrumVoice, velocity: number): Promise<void> {
    await this.build();
    this.companion?.strike(voice, velocity);
  }

  /** Whether the music itself is heard. */
  private setMusic(): void {
    const { context } = this;
    if (!context) return;
    const level = this.accompaniment?.alone ? 0 : 1;
    for (const side of sides) this.places[side]?.gain.setTargetAtTime(level, context.currentTime, 0.01);
  }

  close(): void {
    this.gone = true;
    void this.context?.close();
    this.context = null;
    this.mixer = null;
  }

  private musicPlace() {
    const { playing, waiting, lead } = this.last;
    const beat = this.beat();
    const timeline = (this.decks.reference ?? this.decks[lead])?.track.timeline;
    const stretch = timeline && stretchAt(timeline, beat);
    return {
      playing: playing && !waiting,
      beat,
      beatSeconds: (stretch ? secondsPerBeat(stretch) : 0.5) / this.settings.speed,
      loop: this.settings.loop,
    };
  }

  private order(order: Order, transfer: Transferable[] = []): void {
    if (this.mixer) this.mixer.port.postMessage(order, transfer);
    else this.early.push(order);
  }

  /** Makes the audio context and the mixer, once. The context sleeps until something is played. */
  private build(): Promise<void> {
    this.building ??= (async () => {
      const rate = (this.decks.reference ?? this.decks.recreation)?.track.sampleRate;
      const usable = rate !== undefined && rate >= 22050 && rate <= 96000;
      const context = new AudioContext({
        latencyHint: "interactive",
        ...(usable ? { sampleRate: rate } : {}),
      });
      await context.audioWorklet.addModule("/listening/mixer.js");
      if (this.gone) {
        await context.close();
        return;
      }
      const mixer = new AudioWorkletNode(context, processorName, {
        numberOfInputs: 0,
        numberOfOutputs: 3,
        outputChannelCount: [2, 2, 1],
      });
      this.context = context;
      mixer.port.onmessage = ({ data }: MessageEvent<Report>) => {
        this.last = data;
        this.onReport(data);
        this.fetchWanted();
      };
      sides.forEach((side) => {
        const chain = chainFor(context, this.settings.through);
        const place = context.createGain();
        this.chains[side] = chain;
        this.places[side] = place;
        chain.output.connect(place);
        place.connect(context.destination);
      });
      this.clickDelay = context.createDelay(1);
      mixer.connect(this.clickDelay, 2);
      this.clickDelay.connect(context.destination);
      this.mixer = mixer;
      this.companion = new Companion(context, () => this.musicPlace());
      this.companion.play(this.accompaniment);
      this.setMusic();
      this.wire();
      this.setPlaces();
      for (const order of this.early) this.order(order);
      this.early = [];
      this.setShift();
    })().catch(() => {
      this.building = null;
      this.onTrouble("This browser cannot play here: its audio did not start.");
    });
    return this.building;
  }

  /** Connects the mixer to the chains, by way of the pitch correction where it is needed. */
  private wire(): void {
    const { mixer } = this;
    if (!mixer) return;
    sides.forEach((side, output) => {
      const chain = this.chains[side];
      if (!chain) return;
      mixer.disconnect(output);
      const pitch = this.pitch[side];
      pitch?.disconnect();
      if (this.shifting && pitch) {
        mixer.connect(pitch, output);
        pitch.connect(chain.input);
      } else mixer.connect(chain.input, output);
    });
    if (this.clickDelay) this.clickDelay.delayTime.value = this.shifting ? this.latency : 0;
  }

  /** Semitones by which a side must be corrected so that only the wanted shift is left. */
  private shiftOf(side: Side): number {
    const { speed, semitones, together, arrangement, lead } = this.settings;
    let rate = speed;
    const kept = together || arrangement !== "one";
    const own = this.decks[side]?.track.timeline;
    const clock = this.decks.reference?.track.timeline;
    if (kept && side === "recreation" && own && clock && own.length > 0 && clock.length > 0) {
      const middle = own[own.length >> 1]!;
      const beside = stretchAt(clock, (middle.beat + middle.beatEnd) / 2) ?? clock[0]!;
      rate *= secondsPerBeat(middle) / secondsPerBeat(beside);
    } else if (!kept && side !== lead) rate = speed;
    return semitones - semitonesOfRatio(rate);
  }

  private setShift(): void {
    const shifts = sides.map((side) => this.shiftOf(side));
    const needed = shifts.some((shift) => Math.abs(shift) > leastShift);
    if (needed && !this.pitch.reference) {
      void this.loadPitchNodes();
      return;
    }
    sides.forEach((side, i) => void this.pitch[side]?.schedule({ active: needed, semitones: shifts[i]! }));
    if (needed !== this.shifting) {
      this.shifting = needed;
      this.wire();
    }
  }

  private loadingPitch = false;

  private async loadPitchNodes(): Promise<void> {
    if (this.loadingPitch) return;
    this.loadingPitch = true;
    try {
      await this.build();
      const { context } = this;
      if (!context) return;
      const address = "/listening/SignalsmithStretch.mjs";
      const { default: make } = (await import(/* turbopackIgnore: true */ address)) as {
        default: (context: AudioContext, options: object) => Promise<PitchNode>;
      };
      for (const side of sides) {
        this.pitch[side] = await make(context, {
          numberOfInputs: 1,
          numberOfOutputs: 1,
          outputChannelCount: [2],
        });
      }
      this.latency = await this.pitch.reference!.latency();
      this.setShift();
    } catch {
      this.onTrouble("Playing at another speed or pitch is not possible in this browser.");
    } finally {
      this.loadingPitch = false;
    }
  }

  private setThrough(through: Through): void {
    const part = throughs.find(({ name }) => name === through)!.part;
    if (part !== this.part) {
      this.part = part;
      for (const side of sides) {
        this.decks[side]?.loaded.clear();
        this.decks[side]?.asked.clear();
      }
      this.early = this.early.filter((order) => order.kind !== "piece");
      this.order({ kind: "clear" });
    }
    const { context } = this;
    if (!context) return;
    const now = context.currentTime;
    for (const side of sides) {
      const old = this.chains[side];
      const place = this.places[side];
      if (!old || !place) continue;
      const next = chainFor(context, through);
      next.output.gain.setValueAtTime(0, now);
      next.output.gain.linearRampToValueAtTime(1, now + throughFade);
      next.output.connect(place);
      old.output.gain.setValueAtTime(1, now);
      old.output.gain.linearRampToValueAtTime(0, now + throughFade);
      const source = this.shifting ? this.pitch[side] : this.mixer;
      const output = this.shifting ? 0 : sides.indexOf(side);
      source?.connect(next.input, output);
      setTimeout(() => {
        try {
          source?.disconnect(old.input);
        } catch {
          // It was rewired meanwhile and is no longer connected.
        }
        old.output.disconnect();
      }, 200);
      this.chains[side] = next;
    }
  }

  /** Which ear each side is heard in. */
  private setPlaces(): void {
    const { context } = this;
    if (!context) return;
    const ears = this.settings.arrangement === "ears";
    sides.forEach((side, ear) => {
      const place = this.places[side];
      if (!place) return;
      place.disconnect();
      if (ears) {
        const merger = context.createChannelMerger(2);
        const mono = context.createGain();
        mono.channelCount = 1;
        mono.channelCountMode = "explicit";
        place.connect(mono).connect(merger, 0, ear);
        merger.connect(context.destination);
      } else place.connect(context.destination);
    });
  }

  /** Asks for the pieces that will be needed soon, and lets go of those far away. */
  private fetchWanted(): void {
    const { beat, lead } = this.last;
    const { loop } = this.settings;
    for (const side of sides) {
      const deck = this.decks[side];
      if (!deck) continue;
      const heard = side === lead || this.settings.together || this.settings.arrangement !== "one";
      const seconds = heard ? ahead.heard : ahead.other;
      const wanted = piecesAround(deck.track, beat, seconds, framesPerPiece);
      if (loop) {
        for (const piece of piecesAround(deck.track, loop.from, 2, framesPerPiece)) {
          if (!wanted.includes(piece)) wanted.push(piece);
        }
      }
      for (const piece of wanted) {
        if (deck.asked.size - deck.loaded.size >= mostRequests) break;
        if (!deck.asked.has(piece)) void this.fetchPiece(side, deck, piece);
      }
      if (deck.loaded.size > mostPieces) {
        const middle = wanted[0] ?? 0;
        const far = [...deck.loaded]
          .filter((piece) => !wanted.includes(piece))
          .sort((a, b) => Math.abs(b - middle) - Math.abs(a - middle));
        for (const piece of far.slice(0, deck.loaded.size - mostPieces)) {
          deck.loaded.delete(piece);
          deck.asked.delete(piece);
          this.order({ kind: "drop", side, piece });
        }
      }
    }
  }

  private async fetchPiece(side: Side, deck: DeckState, piece: number): Promise<void> {
    const { part } = this;
    deck.asked.add(piece);
    try {
      const response = await fetch(`/api/files/${deck.track.hash}/pieces/${piece}?part=${part}`);
      if (!response.ok) throw new Error("no piece");
      const channels = unpackFrames(new Uint8Array(await response.arrayBuffer()));
      const current = this.decks[side];
      if (this.gone || part !== this.part || current?.track.hash !== deck.track.hash) return;
      current.loaded.add(piece);
      this.order({ kind: "piece", side, piece, channels }, [channels[0].buffer, channels[1].buffer]);
      this.fetchWanted();
    } catch {
      deck.asked.delete(piece);
      if (!this.gone) this.onTrouble("The sound of this file could not be fetched.");
    }
  }
}

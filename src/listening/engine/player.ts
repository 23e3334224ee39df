/**
 * Plays both sides of a study in the browser: the transport. Samples come from the chunk loader, the
 * mixer runs in the audio thread, and what stands behind it is the audio graph.
 */
import { framesPerChunk, listeningPartName } from "@/core/formats/chunks";
import { semitonesOfRatio } from "@/core/units";
import type { DrumVoice } from "@/core/drums/voices";
import { AudioGraph, type PitchNode } from "./audioGraph";
import { ChunkLoader, type WantedChunk } from "./chunkLoader";
import { chunksAround } from "./chunksAround";
import type { Order, Report } from "./messages";
import { noInserts, type Inserts } from "./inserts";
import { raisedBy, type MonitorFilter } from "./monitorFilter";
import { isLifted, nothingMuted, soundingPart, type Muted } from "./muting";
import { Sampler, type Accompaniment } from "./sampler";
import { plainSettings, type DeckSetup, type MixerSettings } from "./settings";
import { secondsPerBeat, segmentAt, sides, type Side } from "./timeline";

/** A file that can be played. */
export interface PlayerTrack extends DeckSetup {
  hash: string;
}

/** What the listener sets beyond the mixer's own settings. */
export interface PlayerSettings extends MixerSettings {
  /** Semitones by which both sides are shifted. */
  semitones: number;
  monitorFilter: MonitorFilter;
  muted: Muted;
  inserts: Inserts;
}

export const plainPlayerSettings: PlayerSettings = {
  ...plainSettings,
  semitones: 0,
  monitorFilter: "everything",
  muted: nothingMuted,
  inserts: noInserts,
};

/** Seconds of samples kept ready ahead of play: of the side that is heard, and of the other. */
const ahead = { heard: 8, other: 4 } as const;
/** Shifts below this are not corrected: a hundredth of a semitone cannot be heard. */
const leastShift = 0.01;
/** Milliseconds without sound after which the audio context is suspended. */
const restMs = 10_000;
/** Milliseconds after a press in which its numbers and curves come first: samples are megabytes. */
const restBeforeFetch = 250;
/** Silence between two sides of a blind test: the same whether the side changes or not. */
const dipSeconds = 0.35;

const soundIsMissing = "The sound of this file can't be loaded. Trying again …";
const partIsMissing = "Being lifted out of the mix; this takes up to half a minute the first time …";

async function fetchChunk({ hash, part, chunk }: WantedChunk): Promise<Uint8Array> {
  const response = await fetch(`/api/audio/${hash}/${chunk}?part=${part}`);
  if (!response.ok) throw new Error("no samples");
  return new Uint8Array(await response.arrayBuffer());
}

export class Player {
  private graph: AudioGraph | null = null;
  private building: Promise<void> | null = null;
  private readonly tracks: Partial<Record<Side, PlayerTrack>> = {};
  private sampler: Sampler | null = null;
  private accompaniment: Accompaniment | null = null;
  private settings: PlayerSettings = plainPlayerSettings;
  private isLoadingPitch = false;
  private isDipped = false;
  private last: Report = {
    playing: false,
    waiting: false,
    beat: 0,
    seconds: 0,
    activeSide: "reference",
    time: 0,
    seeks: 0,
  };
  private sleep: ReturnType<typeof setTimeout> | null = null;
  /** Seeks that were asked for. */
  private seeks = 0;
  /** Orders from before the audio thread was there. */
  private early: Order[] = [];
  private isClosed = false;
  /** Whether somebody wants to hear it, from the press on. */
  private isWanted = false;
  private fetching: ReturnType<typeof setTimeout> | null = null;
  private readonly loader = new ChunkLoader({
    fetch: fetchChunk,
    loaded: (loaded, channels) => {
      const { chunk } = loaded;
      const own = sides.filter((side) => this.plays(side, loaded));
      own.forEach((side, i) => {
        // Both sides may play the same sound; only the last may take the samples away.
        const given: [Float32Array, Float32Array] =
          i < own.length - 1 ? [channels[0].slice(), channels[1].slice()] : channels;
        this.order({ kind: "piece", side, piece: chunk, channels: given }, [
          given[0].buffer,
          given[1].buffer,
        ]);
      });
    },
    dropped: (dropped) => {
      for (const side of sides)
        if (this.plays(side, dropped)) this.order({ kind: "drop", side, piece: dropped.chunk });
    },
    failing: (isFailing) => {
      if (this.isClosed) return;
      const areParts = sides.some((side) => isLifted(this.settings.muted, side));
      this.onTrouble(!isFailing ? null : areParts ? partIsMissing : soundIsMissing);
    },
    now: () => performance.now(),
    later: (ms, act) => void setTimeout(act, ms),
  });

  constructor(
    private readonly onReport: (report: Report) => void,
    private readonly onTrouble: (sentence: string | null) => void,
  ) {}

  /** Sets what each side plays. The same file with another timeline keeps playing. */
  setTracks(tracks: Record<Side, PlayerTrack | null>): void {
    for (const side of sides) {
      const track = tracks[side];
      const old = this.tracks[side];
      if (!track) {
        if (!old) continue;
        delete this.tracks[side];
        this.order({ kind: "deck", side, setup: null, keepPieces: false });
        continue;
      }
      const same = old?.hash === track.hash;
      this.tracks[side] = track;
      const { sampleRate, frames, timeline, hash } = track;
      // A side that takes up a file needs all of its chunks, also those that the other side has.
      if (!same) this.loader.forget(hash);
      this.order({ kind: "deck", side, setup: { sampleRate, frames, timeline }, keepPieces: same });
    }
    if (tracks.reference ?? tracks.version) void this.build();
    this.setShift();
    this.fetchWanted();
  }

  change(next: Partial<PlayerSettings>): void {
    const before = this.settings;
    this.settings = { ...before, ...next };
    const { semitones: _semitones, monitorFilter, muted: _muted, inserts, ...mixer } = next;
    if (Object.keys(mixer).length > 0) this.order({ kind: "settings", settings: mixer });
    this.setSounds(before);
    if (monitorFilter !== undefined && monitorFilter !== before.monitorFilter)
      this.graph?.setFilter(monitorFilter);
    if (inserts !== undefined) this.graph?.setInserts(inserts);
    if (next.arrangement !== undefined) this.graph?.setEars(next.arrangement === "ears");
    this.setShift();
    this.fetchWanted();
  }

  /** Changes settings behind a short silence, which is the same whatever they change. */
  changeBehindDip(next: Partial<PlayerSettings>): void {
    this.isDipped = true;
    this.setMusic();
    setTimeout(
      () => {
        if (!this.isClosed) this.change(next);
      },
      1000 * (dipSeconds / 2),
    );
    setTimeout(() => {
      this.isDipped = false;
      this.setMusic();
    }, 1000 * dipSeconds);
  }

  async play(): Promise<void> {
    this.isWanted = true;
    this.fetchWanted();
    await this.build();
    this.stayAwake();
    await this.graph?.context.resume();
    this.order({ kind: "play" });
  }

  pause(): void {
    this.isWanted = false;
    this.order({ kind: "pause" });
  }

  seek(beat: number): void {
    this.last = { ...this.last, beat, time: this.graph?.context.currentTime ?? 0 };
    this.order({ kind: "seek", beat, number: ++this.seeks });
    this.fetchWanted();
  }

  /** Beats of the reference from its bar 1, as they are heard now. */
  beat(): number {
    const { beat, playing, waiting, time, activeSide } = this.last;
    if (!playing || waiting || !this.graph) return beat;
    const clock =
      (this.settings.together || this.settings.arrangement !== "one") && this.tracks.reference
        ? "reference"
        : activeSide;
    const segment = this.tracks[clock] && segmentAt(this.tracks[clock].timeline, beat);
    if (!segment) return beat;
    const passed = Math.min(0.2, Math.max(0, this.graph.context.currentTime - time));
    return beat + (this.settings.speed * (passed - this.graph.latency)) / secondsPerBeat(segment);
  }

  /** Plays strokes of the practice kit along with the music, or in its place; null ends it. */
  accompany(next: Accompaniment | null): void {
    this.accompaniment = next;
    this.sampler?.play(next);
    this.setMusic();
    if (next) void this.build();
  }

  /** Sounds one stroke of the practice kit at once. */
  async strike(voice: DrumVoice, velocity: number): Promise<void> {
    await this.build();
    this.stayAwake();
    this.sampler?.strike(voice, velocity);
    if (!this.last.playing) this.sleepSoon();
  }

  close(): void {
    this.isClosed = true;
    if (this.fetching) clearTimeout(this.fetching);
    this.stayAwake();
    this.loader.close();
    void this.graph?.context.close();
    this.graph = null;
  }

  /** Suspends the audio context after a while without sound: a page left open all day then uses no CPU for audio. */
  private sleepSoon(): void {
    this.sleep ??= setTimeout(() => {
      this.sleep = null;
      void this.graph?.context.suspend();
    }, restMs);
  }

  private stayAwake(): void {
    if (this.sleep) clearTimeout(this.sleep);
    this.sleep = null;
  }

  /** Whether the music itself is heard. */
  private setMusic(): void {
    this.graph?.setMusic(this.accompaniment?.alone || this.isDipped ? 0 : 1);
  }

  private musicPlace() {
    const { playing, waiting, activeSide } = this.last;
    const beat = this.beat();
    const timeline = (this.tracks.reference ?? this.tracks[activeSide])?.timeline;
    const segment = timeline && segmentAt(timeline, beat);
    return {
      playing: playing && !waiting,
      beat,
      beatSeconds: (segment ? secondsPerBeat(segment) : 0.5) / this.settings.speed,
      loop: this.settings.loop,
      gain: this.settings.trim.reference,
    };
  }

  private order(order: Order, transfer: Transferable[] = []): void {
    if (this.graph) this.graph.mixer.port.postMessage(order, transfer);
    else this.early.push(order);
  }

  /** Makes the audio context and what is in it, once. The context sleeps until something is played. */
  private build(): Promise<void> {
    this.building ??= (async () => {
      const rate = (this.tracks.reference ?? this.tracks.version)?.sampleRate;
      const usable = rate !== undefined && rate >= 22050 && rate <= 96000;
      const context = new AudioContext({
        latencyHint: "interactive",
        ...(usable ? { sampleRate: rate } : {}),
      });
      await context.audioWorklet.addModule("/listening/mixer.js");
      if (this.isClosed) {
        await context.close();
        return;
      }
      const graph = new AudioGraph(context, this.settings.monitorFilter, this.settings.inserts);
      graph.mixer.port.onmessage = ({ data }: MessageEvent<Report>) => {
        // What was said before a seek arrived does not move the playhead back.
        const { beat } = data.seeks < this.seeks ? this.last : data;
        this.last = { ...data, beat };
        if (data.playing) this.stayAwake();
        else this.sleepSoon();
        this.onReport(this.last);
        this.fetchWanted();
      };
      this.graph = graph;
      this.sampler = new Sampler(context, () => this.musicPlace());
      this.sampler.play(this.accompaniment);
      this.setMusic();
      graph.setEars(this.settings.arrangement === "ears");
      for (const order of this.early) this.order(order);
      this.early = [];
      this.setShift();
      this.sleepSoon();
    })().catch(() => {
      this.building = null;
      this.onTrouble("This browser can't play here: its audio did not start.");
    });
    return this.building;
  }

  /** Semitones by which a side must be corrected so that only the wanted shift is left. */
  private shiftOf(side: Side): number {
    const { speed, together, arrangement, monitorFilter } = this.settings;
    const semitones = this.settings.semitones + raisedBy(monitorFilter);
    let rate = speed;
    const kept = together || arrangement !== "one";
    const own = this.tracks[side]?.timeline;
    const clock = this.tracks.reference?.timeline;
    if (kept && side === "version" && own && clock && own.length > 0 && clock.length > 0) {
      const middle = own[own.length >> 1]!;
      const beside = segmentAt(clock, (middle.beat + middle.beatEnd) / 2) ?? clock[0]!;
      rate *= secondsPerBeat(middle) / secondsPerBeat(beside);
    }
    return semitones - semitonesOfRatio(rate);
  }

  private setShift(): void {
    const { graph } = this;
    if (!graph) return;
    const shifts = { reference: this.shiftOf("reference"), version: this.shiftOf("version") };
    const isNeeded = Object.values(shifts).some((shift) => Math.abs(shift) > leastShift);
    if (isNeeded && !graph.hasPitchNodes) void this.loadPitchNodes(graph);
    else graph.setShift(isNeeded ? shifts : null);
  }

  private async loadPitchNodes(graph: AudioGraph): Promise<void> {
    if (this.isLoadingPitch) return;
    this.isLoadingPitch = true;
    try {
      const address = "/listening/SignalsmithStretch.mjs";
      const { default: makeNode } = (await import(/* turbopackIgnore: true */ address)) as {
        default: (context: AudioContext, options: AudioWorkletNodeOptions) => Promise<PitchNode>;
      };
      const make = () =>
        makeNode(graph.context, { numberOfInputs: 1, numberOfOutputs: 1, outputChannelCount: [2] });
      const nodes = { reference: await make(), version: await make() };
      graph.setPitchNodes(nodes, await nodes.reference.latency());
      this.setShift();
    } catch {
      this.onTrouble("Playing at another speed or pitch is not possible in this browser.");
    } finally {
      this.isLoadingPitch = false;
    }
  }

  /** Whether a chunk is of what a side plays. */
  private plays(side: Side, { hash, part }: WantedChunk): boolean {
    return this.tracks[side]?.hash === hash && this.soundOf(side) === part;
  }

  /** Name of the part of its file that a side sounds. */
  private soundOf(side: Side, { monitorFilter, muted } = this.settings): string {
    return listeningPartName(soundingPart(monitorFilter, muted[side]));
  }

  /** Where another part of a side is wanted, all that is there of the one before is forgotten. */
  private setSounds(before: PlayerSettings): void {
    for (const side of sides) {
      const sound = this.soundOf(side);
      if (sound === this.soundOf(side, before)) continue;
      const track = this.tracks[side];
      // The other side may have chunks of it already: this one needs all of them.
      if (track) for (const own of [sound, this.soundOf(side, before)]) this.loader.forget(track.hash, own);
      this.early = this.early.filter((order) => order.kind !== "piece" || order.side !== side);
      this.order({ kind: "clear", side });
    }
  }

  /** Asks for the samples that will be needed soon; where nothing plays, after what else a press asks for. */
  private fetchWanted(): void {
    if (this.isWanted || this.last.playing) return this.fetchNow();
    this.fetching ??= setTimeout(() => this.fetchNow(), restBeforeFetch);
  }

  private fetchNow(): void {
    if (this.fetching) clearTimeout(this.fetching);
    this.fetching = null;
    const { beat, activeSide } = this.last;
    const { loop, together, arrangement } = this.settings;
    const wanted: WantedChunk[] = [];
    const order = [activeSide, ...sides.filter((side) => side !== activeSide)];
    for (const side of order) {
      const track = this.tracks[side];
      if (!track) continue;
      const isHeard = side === activeSide || together || arrangement !== "one";
      const seconds = isHeard ? ahead.heard : ahead.other;
      const chunks = chunksAround(track, beat, seconds, framesPerChunk);
      if (loop) chunks.push(...chunksAround(track, loop.from, 2, framesPerChunk));
      const part = this.soundOf(side);
      wanted.push(...[...new Set(chunks)].map((chunk) => ({ hash: track.hash, part, chunk })));
    }
    this.loader.want(wanted);
  }
}

/**
 * What stands behind the mixer: pitch correction where it is needed, the monitor filter of each side,
 * which ear it is heard in, and one gain over all of the music.
 */
import { processorName } from "./messages";
import { insertsFor, type Inserts } from "./inserts";
import { chainFor, type Chain, type MonitorFilter } from "./monitorFilter";
import { sides, type Side } from "./timeline";

/** Node of the stretching package, which is served beside the pages. */
export interface PitchNode extends AudioNode {
  schedule(change: { active?: boolean; semitones?: number }): Promise<unknown>;
  latency(): Promise<number>;
}

/** Length of the change from one monitor filter to another. */
const filterFade = 0.03;
/** Time constant of changes of level. */
const levelTime = 0.01;

export class AudioGraph {
  readonly mixer: AudioWorkletNode;
  private readonly chains: Record<Side, Chain>;
  private readonly inserts: Record<Side, Chain>;
  private readonly outputs: Record<Side, GainNode>;
  private readonly music: GainNode;
  private readonly clickDelay: DelayNode;
  private pitch: Partial<Record<Side, PitchNode>> = {};
  private pitchLatency = 0;
  private isShifting = false;

  /** @param context with the mixer's module added to it. */
  constructor(
    readonly context: AudioContext,
    filter: MonitorFilter,
    inserts: Inserts,
  ) {
    this.mixer = new AudioWorkletNode(context, processorName, {
      numberOfInputs: 0,
      numberOfOutputs: 3,
      outputChannelCount: [2, 2, 1],
    });
    this.music = context.createGain();
    this.music.connect(context.destination);
    const perSide = <T>(make: (side: Side) => T) =>
      Object.fromEntries(sides.map((side) => [side, make(side)])) as Record<Side, T>;
    this.chains = perSide(() => chainFor(context, filter));
    this.inserts = perSide((side) => insertsFor(context, side, inserts));
    this.outputs = perSide((side) => {
      const output = context.createGain();
      this.chains[side].output.connect(this.inserts[side].input);
      this.inserts[side].output.connect(output);
      return output;
    });
    this.clickDelay = context.createDelay(1);
    this.mixer.connect(this.clickDelay, 2);
    this.clickDelay.connect(context.destination);
    this.wire();
    this.setEars(false);
  }

  /** Seconds by which what is heard comes after what the mixer has mixed. */
  get latency(): number {
    return this.isShifting ? this.pitchLatency : 0;
  }

  get hasPitchNodes(): boolean {
    return this.pitch.reference !== undefined;
  }

  setPitchNodes(nodes: Record<Side, PitchNode>, latency: number): void {
    this.pitch = nodes;
    this.pitchLatency = latency;
  }

  /** Corrects the pitch of each side by semitones; null takes the correction out of the way. */
  setShift(semitones: Record<Side, number> | null): void {
    for (const side of sides)
      void this.pitch[side]?.schedule({ active: semitones !== null, semitones: semitones?.[side] ?? 0 });
    const isShifting = semitones !== null && this.hasPitchNodes;
    if (isShifting === this.isShifting) return;
    this.isShifting = isShifting;
    this.wire();
  }

  /** Connects the mixer to the filters, by way of the pitch correction where it is needed. */
  private wire(): void {
    sides.forEach((side, output) => {
      this.mixer.disconnect(output);
      const pitch = this.pitch[side];
      pitch?.disconnect();
      if (this.isShifting && pitch) {
        this.mixer.connect(pitch, output);
        pitch.connect(this.chains[side].input);
      } else this.mixer.connect(this.chains[side].input, output);
    });
    // The click stays with the music.
    this.clickDelay.delayTime.value = this.latency;
  }

  /** Fades from one chain to another that comes in its place. */
  private crossfade(old: Chain, next: Chain): void {
    const now = this.context.currentTime;
    next.output.gain.setValueAtTime(0, now);
    next.output.gain.linearRampToValueAtTime(1, now + filterFade);
    old.output.gain.setValueAtTime(1, now);
    old.output.gain.linearRampToValueAtTime(0, now + filterFade);
    setTimeout(() => old.output.disconnect(), 200);
  }

  /** Puts other filters behind the monitor filter of each side, with a short fade. */
  setInserts(inserts: Inserts): void {
    for (const side of sides) {
      const old = this.inserts[side];
      const next = insertsFor(this.context, side, inserts);
      this.chains[side].output.connect(next.input);
      next.output.connect(this.outputs[side]);
      this.crossfade(old, next);
      const { output } = this.chains[side];
      setTimeout(() => {
        try {
          output.disconnect(old.input);
        } catch {
          // The monitor filter was changed meanwhile and is no longer connected.
        }
      }, 200);
      this.inserts[side] = next;
    }
  }

  /** Listens through another filter on both sides, with a short fade. */
  setFilter(filter: MonitorFilter): void {
    sides.forEach((side, output) => {
      const old = this.chains[side];
      const next = chainFor(this.context, filter);
      next.output.connect(this.inserts[side].input);
      this.crossfade(old, next);
      const pitch = this.isShifting ? this.pitch[side] : undefined;
      const source: AudioNode = pitch ?? this.mixer;
      source.connect(next.input, pitch ? 0 : output);
      setTimeout(() => {
        try {
          source.disconnect(old.input);
        } catch {
          // It was rewired meanwhile and is no longer connected.
        }
      }, 200);
      this.chains[side] = next;
    });
  }

  /** Whether each side is heard in one ear: the reference left, the version right. */
  setEars(apart: boolean): void {
    sides.forEach((side, ear) => {
      const output = this.outputs[side];
      output.disconnect();
      if (!apart) {
        output.connect(this.music);
        return;
      }
      const merger = this.context.createChannelMerger(2);
      const mono = this.context.createGain();
      mono.channelCount = 1;
      mono.channelCountMode = "explicit";
      output.connect(mono).connect(merger, 0, ear);
      merger.connect(this.music);
    });
  }

  /** Level of the music, 0–1. */
  setMusic(level: number): void {
    this.music.gain.setTargetAtTime(level, this.context.currentTime, levelTime);
  }
}

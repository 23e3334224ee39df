/** Strokes of the practice kit beside the music: scheduled a little ahead in the same audio clock. */
import { gainOfVelocity, practiceKit, stroke } from "@/core/drums/kit";
import type { DrumVoice } from "@/core/drums/voices";

/** A stroke at a place in beats of the reference. */
export interface Strike {
  beat: number;
  voice: DrumVoice;
  velocity: number;
}

/** What the kit plays, and whether it is heard by itself. */
export interface Accompaniment {
  /** In order of their beats. */
  strikes: readonly Strike[];
  alone: boolean;
}

/** Where the music is, as the audio thread last said. */
export interface MusicPlace {
  playing: boolean;
  /** Beats now. */
  beat: number;
  /** Seconds of listening that a beat takes here, with the speed that is set. */
  beatSeconds: number;
  loop: { from: number; to: number } | null;
}

const lookAhead = 0.16;
const everyMs = 40;
const wholeLevel = 0.7;

/** A repeatable source of noise: each stroke of a voice sounds the same. */
function noise(): () => number {
  let state = 9;
  return () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return state / 4294967296;
  };
}

export class Sampler {
  private readonly sounds = new Map<DrumVoice, AudioBuffer>();
  private readonly output: GainNode;
  private timer: ReturnType<typeof setInterval> | null = null;
  private playing: Accompaniment | null = null;
  /** Beat up to which strokes are scheduled; null after a jump. */
  private reached: number | null = null;
  private last = 0;

  constructor(
    private readonly context: AudioContext,
    private readonly place: () => MusicPlace,
  ) {
    this.output = context.createGain();
    this.output.gain.value = wholeLevel;
    this.output.connect(context.destination);
  }

  play(next: Accompaniment | null): void {
    this.playing = next;
    this.reached = null;
    if (this.timer !== null) clearInterval(this.timer);
    this.timer = next ? setInterval(() => this.schedule(), everyMs) : null;
  }

  private soundOf(voice: DrumVoice): AudioBuffer {
    let sound = this.sounds.get(voice);
    if (!sound) {
      const samples = stroke(practiceKit[voice], this.context.sampleRate, noise());
      sound = this.context.createBuffer(1, samples.length, this.context.sampleRate);
      sound.getChannelData(0).set(samples);
      this.sounds.set(voice, sound);
    }
    return sound;
  }

  private schedule(): void {
    const { playing } = this;
    const { playing: moving, beat, beatSeconds, loop } = this.place();
    if (!playing || !moving) {
      this.reached = null;
      return;
    }
    // A jump, or a loop that came round: begin anew from here.
    if (this.reached === null || beat < this.last - 0.05 || beat > this.reached + 1) this.reached = beat;
    this.last = beat;
    const ahead = beat + lookAhead / beatSeconds;
    const end = loop && beat < loop.to ? Math.min(ahead, loop.to) : ahead;
    this.strikeBetween(playing.strikes, this.reached, end, (at) => (at - beat) * beatSeconds);
    this.reached = Math.max(this.reached, end);
  }

  private strikeBetween(
    strikes: readonly Strike[],
    from: number,
    to: number,
    delay: (beat: number) => number,
  ): void {
    for (const { beat, voice, velocity } of strikes) {
      if (beat < from) continue;
      if (beat >= to) break;
      const source = this.context.createBufferSource();
      const gain = this.context.createGain();
      source.buffer = this.soundOf(voice);
      gain.gain.value = gainOfVelocity(velocity);
      source.connect(gain).connect(this.output);
      source.start(this.context.currentTime + Math.max(0, delay(beat)));
    }
  }

  /** Sounds one voice at once. */
  strike(voice: DrumVoice, velocity: number): void {
    void this.context.resume();
    this.strikeBetween([{ beat: 0, voice, velocity }], 0, 1, () => 0.005);
  }
}

/** Strokes of the practice kit beside the music: scheduled a little ahead in the same audio clock. */
import { gainOfVelocity, practiceKit, stroke } from "@/core/drums/kit";
import type { DrumVoice } from "@/core/drums/voices";
import type { Fraction, Seconds } from "@/core/units";

/** A stroke at a place in beats of the reference. */
export interface Strike {
  beat: number;
  voice: DrumVoice;
  velocity: number;
}

/** A sound that all strokes have in place of the kit's. */
export interface OwnSound {
  /** Address of an audio file that begins `ahead` seconds before the stroke. */
  address: string;
  ahead: Seconds;
  /** The velocity at which it is as loud as the file. */
  velocity: Fraction;
}

/** What is played with the music, and whether it is heard by itself. */
export interface Accompaniment {
  /** In order of their beats. */
  strikes: readonly Strike[];
  alone: boolean;
  sound?: OwnSound;
}

/** Where the music is, as the audio thread last said. */
export interface MusicPlace {
  playing: boolean;
  /** Beats now. */
  beat: number;
  /** Seconds of listening that a beat takes here, with the speed that is set. */
  beatSeconds: number;
  loop: { from: number; to: number } | null;
  /** Gain that the reference has. */
  gain: number;
}

const lookAhead = 0.16;
const everyMs = 40;
const wholeLevel = 0.7;
const mostFetched = 40;

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
  private timer: ReturnType<typeof setInterval> | null = null;
  private playing: Accompaniment | null = null;
  /** Sounds that were fetched, by their address; null while they are on their way, or where there is none. */
  private readonly fetched = new Map<string, AudioBuffer | null>();
  /** Beat up to which strokes are scheduled; null after a jump. */
  private reached: number | null = null;
  private last = 0;

  constructor(
    private readonly context: AudioContext,
    private readonly place: () => MusicPlace,
  ) {}

  play(next: Accompaniment | null): void {
    // The same strokes with another sound go on where they are.
    if (next?.strikes !== this.playing?.strikes) this.reached = null;
    this.playing = next;
    if (next?.sound) void this.fetchSound(next.sound.address);
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

  private async fetchSound(address: string): Promise<void> {
    if (this.fetched.has(address)) return;
    if (this.fetched.size >= mostFetched) this.fetched.delete(this.fetched.keys().next().value!);
    this.fetched.set(address, null);
    try {
      const response = await fetch(address);
      if (!response.ok) throw new Error("no sound");
      this.fetched.set(address, await this.context.decodeAudioData(await response.arrayBuffer()));
    } catch {
      // Asked for again, it is fetched again.
      this.fetched.delete(address);
    }
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
    const own = this.playing?.sound;
    const sound = own && this.fetched.get(own.address);
    if (own && !sound) return;
    for (const { beat, voice, velocity } of strikes) {
      if (beat < from) continue;
      if (beat >= to) break;
      const source = this.context.createBufferSource();
      const gain = this.context.createGain();
      source.buffer = sound ?? this.soundOf(voice);
      gain.gain.value = own
        ? (this.place().gain * gainOfVelocity(velocity)) / gainOfVelocity(own.velocity)
        : wholeLevel * gainOfVelocity(velocity);
      source.connect(gain).connect(this.context.destination);
      const wait = delay(beat) - (own?.ahead ?? 0);
      source.start(this.context.currentTime + Math.max(0, wait), Math.max(0, -wait));
    }
  }

  /** Sounds one voice at once. */
  strike(voice: DrumVoice, velocity: number): void {
    void this.context.resume();
    this.strikeBetween([{ beat: 0, voice, velocity }], 0, 1, () => 0.005);
  }
}

/** The click: short tones on beats, the first of a bar higher. */
import type { Hertz, Seconds } from "@/core/units";

const { exp, min, PI, sin } = Math;

const length: Seconds = 0.03;
const pitches = { accent: 1760, other: 1175 } as const;

export class Click {
  private age = Infinity;
  private accent = false;
  /** How much of this block has been written. */
  private written = 0;

  constructor(private readonly sampleRate: Hertz) {}

  /** Begins a click at a place of a block; what rang before goes on up to it. */
  begin(block: Float32Array, place: number, gain: number, accent: boolean): void {
    this.ring(block.subarray(0, place), gain);
    this.written = place;
    this.age = 0;
    this.accent = accent;
  }

  /** Adds what rings to the rest of a block. */
  ring(block: Float32Array, gain: number): void {
    const frames = length * this.sampleRate;
    const frequency = this.accent ? pitches.accent : pitches.other;
    for (let i = this.written; i < block.length && this.age < frames; i++, this.age++) {
      const time = this.age / this.sampleRate;
      block[i]! += gain * 0.5 * exp(-time / 0.006) * sin(2 * PI * frequency * time) * min(1, time / 0.0005);
    }
    this.written = 0;
  }
}

/** Sounds that the demo offers for its drums: synthesised, under made-up names. */
import { practiceKit, stroke, type Drum } from "@/core/drums/kit";
import type { DrumVoice } from "@/core/drums/voices";
import { chance } from "./random";
import { renderRate } from "./render";

/** A one-shot or loop before it is written. */
export interface DemoSound {
  name: string;
  samples: Float32Array;
}

const oneShots: readonly (readonly [name: string, voice: DrumVoice, change: (drum: Drum) => Drum])[] = [
  [
    "porch kick",
    "kick",
    ({ tone, ...rest }) => ({ ...rest, tone: { ...tone, pitch: 80, sweep: 2, decaySeconds: 0.05 } }),
  ],
  [
    "cellar kick",
    "kick",
    ({ tone, ...rest }) => ({ ...rest, tone: { ...tone, pitch: 65, decaySeconds: 0.12 } }),
  ],
  [
    "felt kick",
    "kick",
    ({ tone, ...rest }) => ({ ...rest, tone: { ...tone, pitch: 74, sweep: 1.7, decaySeconds: 0.04 } }),
  ],
  [
    "brick kick",
    "kick",
    ({ tone, noise, ...rest }) => ({
      ...rest,
      tone: { ...tone, pitch: 88, sweep: 2.2, decaySeconds: 0.07 },
      noise: { ...noise, level: 0.2 },
    }),
  ],
  [
    "long boom",
    "kick",
    ({ tone, ...rest }) => ({ ...rest, tone: { ...tone, pitch: 44, decaySeconds: 0.4 } }),
  ],
  [
    "thimble kick",
    "kick",
    ({ tone, ...rest }) => ({ ...rest, tone: { ...tone, pitch: 104, sweep: 4, decaySeconds: 0.03 } }),
  ],
  [
    "attic kick",
    "kick",
    ({ tone, ...rest }) => ({ ...rest, tone: { ...tone, pitch: 83, sweep: 1.8, decaySeconds: 0.06 } }),
  ],
  [
    "paper snare",
    "snare",
    ({ noise, ...rest }) => ({ ...rest, noise: { ...noise, level: 0.7, decaySeconds: 0.06 } }),
  ],
  [
    "tin snare",
    "snare",
    ({ tone, ...rest }) => ({ ...rest, tone: { ...tone, pitch: 235, decaySeconds: 0.1 } }),
  ],
  ["two hands", "clap", (drum) => drum],
  ["pencil hat", "hat", (drum) => drum],
  [
    "comb hat",
    "hat",
    ({ noise, ...rest }) => ({ ...rest, noise: { ...noise, level: 0.5, decaySeconds: 0.045 } }),
  ],
];

/** Two bars of a beat, cut to the sample. */
function loop(bpm: number): Float32Array {
  const step = (60 / bpm / 4) * renderRate;
  const samples = new Float32Array(Math.round(32 * step));
  const random = chance(31).next;
  const pattern: Partial<Record<DrumVoice, string>> = {
    kick: "X...X...X...X...X...X...X...X..x",
    clap: "....X.......X.......X.......X...",
    hat: "..X...X...X...X...X...X...X...Xx",
  };
  for (const [voice, steps] of Object.entries(pattern) as [DrumVoice, string][]) {
    [...steps].forEach((mark, i) => {
      if (mark === ".") return;
      const sound = stroke(practiceKit[voice], renderRate, random);
      const start = Math.round(i * step);
      const level = mark === "X" ? 0.5 : 0.3;
      // What rings over the end comes in again at the beginning, as loops are cut.
      for (let k = 0; k < sound.length; k++) samples[(start + k) % samples.length]! += level * sound[k]!;
    });
  }
  return samples;
}

export const demoSounds = (): DemoSound[] => [
  ...oneShots.map(([name, voice, change], i) => ({
    name: `${name}.wav`,
    samples: stroke(change(practiceKit[voice]), renderRate, chance(100 + i).next).map((x) => 0.7 * x),
  })),
  { name: "rain on the roof, 2 bars.wav", samples: loop(122) },
];

/** What is kept of a track's lifted parts, gathered passage by passage. */
import { twelfthCount } from "../tone";
import { powerToDecibels, type Hertz, type Seconds } from "../units";
import { energyOf } from "./energy";
import { strokesOf, type HeardParts } from "./heardParts";
import type { LiftedTrack, PartSpectrogram } from "./lensMeasures";
import type { Stereo } from "./midSide";
import { drumParts, ofDrumParts, ofLensParts, type LensPart } from "./parts";
import { partSpectrogram } from "./partSpectrogram";
import { partLevels } from "./presence";
import { strokeLength } from "./strokeLength";
import { strokeLevels, strokesIn, type Stroke } from "./strokes";

/** What a part is over time, passage after passage. */
interface Gathered {
  spectrograms: PartSpectrogram[];
  levels: Float32Array[];
  strokes: Stroke[];
}

const gathered = (): Gathered => ({ spectrograms: [], levels: [], strokes: [] });

function joinedFloats(arrays: readonly Float32Array[]): Float32Array {
  if (arrays.length === 1) return arrays[0]!;
  const result = new Float32Array(arrays.reduce((sum, own) => sum + own.length, 0));
  let at = 0;
  for (const own of arrays) {
    result.set(own, at);
    at += own.length;
  }
  return result;
}

function joinedSpectrogram(all: readonly PartSpectrogram[]): PartSpectrogram {
  const of = (name: "mid" | "side" | "cross") =>
    joinedFloats(all.map((own) => own[name].subarray(0, own.frames * twelfthCount)));
  return {
    hopSeconds: all[0]!.hopSeconds,
    frames: all.reduce((sum, { frames }) => sum + frames, 0),
    mid: of("mid"),
    side: of("side"),
    cross: of("cross"),
  };
}

/** A passage that was lifted. */
interface Passage {
  /** Of each part its sound, and how free it stands. */
  parts: Record<LensPart, { samples: Stereo; freeDb: number | null }>;
  /** Where it begins in the track. */
  begin: Seconds;
  /** Frames of its spectrograms that count where another passage follows; null for all. */
  frames: number | null;
}

/** Gathers what is kept of parts, so that long files need not lie in memory whole; passages come in order. */
export class LensKeeper {
  private readonly parts = ofLensParts(gathered);
  private readonly energies = ofLensParts(() => ({ part: 0, unsure: 0 }));
  private readonly times;

  constructor(
    private readonly rate: Hertz,
    heard: HeardParts,
  ) {
    this.times = ofDrumParts((part) => strokesOf(heard, part).map(({ time }) => time));
  }

  add({ parts, begin, frames }: Passage): void {
    const { rate } = this;
    const cut = (own: PartSpectrogram): PartSpectrogram => ({ ...own, frames: frames ?? own.frames });
    ofLensParts((part) => {
      const { samples, freeDb } = parts[part];
      this.parts[part].spectrograms.push(cut(partSpectrogram(samples, rate)));
      this.parts[part].levels.push(partLevels(samples, rate));
      if (freeDb === null) return;
      const energy = energyOf(samples);
      this.energies[part].part += energy;
      this.energies[part].unsure += energy / 10 ** (freeDb / 10);
    });
    for (const part of drumParts) {
      const { samples } = parts[part];
      const inside = this.times[part]
        .map((time) => time - begin)
        .filter((time) => time >= 0 && time < samples[0].length / rate);
      for (const stroke of strokesIn(part, samples, rate, inside))
        this.parts[part].strokes.push({ ...stroke, time: stroke.time + begin });
    }
  }

  /** @returns what is kept of all passages; of each part at least one must have been added. */
  result(durationSeconds: Seconds): LiftedTrack {
    const { parts, energies } = this;
    return {
      free: ofLensParts((part) => {
        const { part: energy, unsure } = energies[part];
        return energy > 0 ? powerToDecibels(energy / unsure) : null;
      }),
      levels: ofLensParts((part) => joinedFloats(parts[part].levels)),
      spectrograms: ofLensParts((part) => joinedSpectrogram(parts[part].spectrograms)),
      strokeLengths: ofDrumParts((part) => strokeLength(parts[part].strokes)),
      strokes: ofDrumParts((part) => strokeLevels(parts[part].strokes)),
      durationSeconds,
    };
  }
}

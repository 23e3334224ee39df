/**
 * Hits close up: typical hits out of whole mixes whose one-shots are known, and how one-shots rank against
 * them. Drums are synthesised with wide variation, or single notes of a sound
 * font; the music under them is that of the development songs and never silent.
 */
import { analyse } from "@/core/analysis/analyse";
import { loadFft } from "@/core/dsp/fft";
import { filtered, lowPassTaps } from "@/core/dsp/vector/filter";
import { asHits } from "@/core/drums/hits";
import type { DrumVoice } from "@/core/drums/voices";
import {
  adjusted,
  measuredHits,
  measureHit,
  oneShot,
  rankCandidates,
  waveformLikeness,
  type OneShot,
} from "@/core/hits";
import { stereo } from "@/core/testing/signals";
import { chance } from "@/demo/random";
import { renderRate } from "@/demo/render";
import { hitMix, kitSources } from "../material/hitMixes";
import { synthKit } from "../material/synthKit";
import { mean, quantile, table } from "../tables";
import type { PartOptions, Sections } from "./part";

const voices = ["kick", "snare", "hat"] as const satisfies readonly DrumVoice[];
const strangers = 29;
const below: Float64Array = lowPassTaps(200 / renderRate, 60 / renderRate);

interface Measured {
  source: string;
  voice: DrumVoice;
  correlation: number;
  low: number;
  semitones: number | null;
  hertz: number | null;
  decay: number | null;
  isFirst: boolean;
  /** Pairs of a near variant and a stranger in which the variant is ahead. */
  ahead: number;
  tuning: number[];
}

const monoOf = ([left, right]: readonly [Float32Array, Float32Array]) =>
  left.map((x, i) => (x + right[i]!) / 2);
const shotOf = (sound: Float32Array, voice: DrumVoice): OneShot =>
  oneShot([sound, sound], renderRate, voice)!;
const likeness = (a: Float32Array, b: Float32Array) => waveformLikeness([a, a], [b, b], renderRate);

function measured(
  source: string,
  target: OneShot,
  truth: Float32Array,
  voice: DrumVoice,
  seed: number,
): Measured {
  const mono = monoOf(target.samples);
  const sound = truth.subarray(0, mono.length);
  const own = measureHit([sound, sound], renderRate, voice);
  const c = chance(seed);
  const others = Array.from({ length: strangers }, (_, i) => ({
    isSame: false,
    shot: shotOf(synthKit(c).soundOf(voice, `${i}`), voice),
  }));
  const same = shotOf(truth, voice);
  const ranked = rankCandidates(target, voice, [...others, { isSame: true, shot: same }], 0);
  const scores = ranked.filter(({ isSame }) => !isSame).map(({ closeness }) => closeness.score);
  const tuning: number[] = [];
  let ahead = 0;
  const variants = [
    { semitones: 1, decay: 1 },
    { semitones: -1, decay: 1 },
    { semitones: 0, decay: 1.2 },
    { semitones: 0, decay: 0.8 },
  ];
  for (const change of variants) {
    const shot = shotOf(adjusted(same, change)[0], voice);
    const [near] = rankCandidates(target, voice, [{ shot }], 1);
    ahead += scores.filter((score) => score < near!.closeness.score).length / strangers / variants.length;
    if (change.semitones !== 0 && near!.suggestion)
      tuning.push(Math.abs(near!.suggestion.semitones + change.semitones));
  }
  const pitches = [target.measures.fundamentalHz, own.fundamentalHz] as const;
  const pitched = pitches[0] !== null && pitches[1] !== null;
  const falls = [target.measures.decay.to20, own.decay.to20] as const;
  return {
    source,
    voice,
    correlation: likeness(mono, sound),
    low: likeness(filtered(mono, below), filtered(sound, below)),
    semitones: pitched ? Math.abs(12 * Math.log2(pitches[0]! / pitches[1]!)) : null,
    hertz: pitched ? Math.abs(pitches[0]! - pitches[1]!) : null,
    decay: falls[0] !== null && falls[1] !== null ? Math.abs(falls[0] / falls[1] - 1) : null,
    isFirst: ranked[0]!.isSame,
    ahead,
    tuning,
  };
}

export async function hitSections({ styles, seeds }: PartOptions): Promise<Sections> {
  await loadFft();
  const all: Measured[] = [];
  let [seconds, songs, missing] = [0, 0, 0];
  for (const style of styles) {
    for (const source of kitSources) {
      const mix = await hitMix(style, seeds[0]!, source);
      const { analysis } = await analyse(stereo(mix.track[0], mix.track[1], renderRate));
      const begun = performance.now();
      const found = measuredHits(mix.track, renderRate, asHits(analysis.drums), analysis.drums.bassNotes);
      seconds += (performance.now() - begun) / 1000 / (mix.track[0].length / renderRate / 60);
      songs++;
      for (const voice of voices) {
        const truth = mix.sounds.get(voice);
        if (!truth) continue;
        const own = found
          .filter(({ hit }) => hit.voice === voice)
          .sort((a, b) => b.hit.count - a.hit.count)[0];
        if (!own) {
          missing++;
          continue;
        }
        const target = { samples: own.hit.samples, rate: renderRate, measures: own.measures };
        all.push(measured(source, target, truth, voice, 100 * songs + voices.indexOf(voice)));
      }
      console.error(mix.name);
    }
  }
  const known = (values: readonly (number | null)[]) => values.filter((value) => value !== null);
  const middle = (values: readonly (number | null)[]) => {
    const own = known(values);
    return own.length > 0 ? `${quantile(own, 0.5).toFixed(2)} (${quantile(own, 0.9).toFixed(2)})` : "–";
  };
  const low = (values: readonly number[]) =>
    `${quantile(values, 0.5).toFixed(3)} (${quantile(values, 0.1).toFixed(2)})`;
  const rows = kitSources.flatMap((source) =>
    voices.map((voice) => {
      const own = all.filter((row) => row.source === source && row.voice === voice);
      return [
        source,
        voice,
        own.length,
        low(own.map(({ correlation }) => correlation)),
        voice === "hat" ? "–" : low(own.map((row) => row.low)),
        middle(own.map(({ hertz }) => hertz)),
        middle(own.map(({ semitones }) => semitones)),
        middle(own.map(({ decay }) => decay)),
        mean(own.map(({ isFirst }) => Number(isFirst))),
        mean(own.map(({ ahead }) => ahead)),
        middle(own.flatMap(({ tuning }) => tuning)),
      ];
    }),
  );
  return {
    "Hits close up": `Typical hits as heard out of ${songs} mixes (hits found by the program), against the one-shots that were struck most; ${missing} that should have been there were not found. Correlation in all and below 200 Hz: median and worst tenth. Errors of the fundamental and of the fall by 20 dB (as a share): median and nine in ten. Ranking: among ${strangers} synthesised strangers the same one-shot is first; share of pairs in which a variant (a semitone up or down, a fifth longer or shorter) is ahead of a stranger; error of the tuning suggested for variants. ${(seconds / songs).toFixed(2)} s for a minute of audio.\n\n${table(
      [
        "drums",
        "voice",
        "mixes",
        "correlation",
        "below 200 Hz",
        "pitch, Hz",
        "semitones",
        "fall",
        "same first",
        "near ahead",
        "tuning, semitones",
      ],
      rows,
    )}`,
  };
}

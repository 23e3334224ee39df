/** Own songs whose bass is played anew by a synthesised one that slides here and there. */
import type { Signal } from "@/core/audio/signal";
import { developmentMaster, secondsOf } from "@/demo/makeSong";
import { mixDown } from "@/demo/mix";
import { chance } from "@/demo/random";
import { renderParts, renderRate } from "@/demo/render";
import { styleSong } from "@/demo/songs/styles";
import type { TrueBassNote } from "./bassTruth";

/** Notes shorter than that do not slide. */
const shortest = 0.35;
/** Notes last no longer than that. */
const longest = 1.5;
/** Of those that may, one in so many does. */
const oneIn = 3;

export interface SlidBass {
  signal: Signal;
  notes: TrueBassNote[];
  slides: { from: number; to: number; by: number }[];
}

/** A low tone with few harmonics, or many, whose phase goes on as its pitch moves. */
export async function songWithSlides(style: string, seed: number): Promise<SlidBass | null> {
  const song = styleSong(style, seed);
  const c = chance(seed * 17 + style.length);
  const seconds = secondsOf(song);
  const others = song.parts.filter(({ role }) => role !== "bass");
  const notes = song.parts
    .filter(({ role }) => role === "bass")
    .flatMap((part) => part.notes)
    .sort((a, b) => a.time - b.time);
  const bassPart = song.parts.find(({ role }) => role === "bass");
  if (!bassPart || notes.length < 20) return null;
  const isDeep = c.next() < 0.5;
  const samples = new Float32Array(Math.ceil(seconds * renderRate));
  const slides: SlidBass["slides"] = [];
  notes.forEach(({ time, pitch }, i) => {
    // Each lasts until the next.
    const until = Math.min(longest, (notes[i + 1]?.time ?? Infinity) - time);
    const mayStart = until >= shortest && c.whole(1, oneIn) === 1;
    const lasts = c.between(0.08, 0.2);
    const begins = c.between(0.35, 0.8) * (until - lasts - 0.1) + 0.05;
    const by = mayStart ? c.pick([-12, -7, -5, -3, -2, 2, 3, 5, 7, 12]) : 0;
    if (by !== 0) slides.push({ from: time + begins, to: time + begins + lasts, by });
    let phase = 0;
    for (let k = 0; k < until * renderRate; k++) {
      const t = k / renderRate;
      const way = Math.min(1, Math.max(0, (t - begins) / lasts));
      phase += (2 * Math.PI * 440 * 2 ** ((pitch + by * way - 69) / 12)) / renderRate;
      const edge = Math.min(1, t / 0.004, (until - t) / 0.01) * Math.exp(-0.7 * t);
      const tone = isDeep
        ? Math.tanh(1.6 * Math.sin(phase))
        : Math.sin(phase) +
          0.5 * Math.sin(2 * phase) +
          0.33 * Math.sin(3 * phase) +
          0.25 * Math.sin(4 * phase);
      const at = Math.round(time * renderRate) + k;
      if (at < samples.length) samples[at]! += 0.25 * edge * tone;
    }
  });
  const tracks = await renderParts(others, seconds);
  const mix = mixDown(
    [...tracks, [samples, Float32Array.from(samples)]],
    [...others.map((part) => part.mix), bassPart.mix],
    developmentMaster(seed),
  );
  return {
    signal: { sampleRate: renderRate, channels: mix, layout: ["left", "right"] },
    notes: notes.map(({ time, pitch }, i) => ({
      time,
      end: Math.min(time + longest, notes[i + 1]?.time ?? Infinity),
      pitch,
    })),
    slides,
  };
}

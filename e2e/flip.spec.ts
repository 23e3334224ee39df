/** What the built audio thread puts out in a real browser, rendered faster than it would play. */
import { expect } from "@playwright/test";
import { framesPerChunk } from "@/core/formats/chunks";
import type { Grid } from "@/core/grid/grid";
import { test } from "./helpers";
import { referenceTimeline, versionTimeline } from "@/listening/engine/timeline";

const rate = 44100;
const grid = (bpm: number, start: number, bars: number): Grid => ({
  beats: Array.from({ length: 4 * bars + 1 }, (_, k) => start + (k * 60) / bpm),
  barOne: 0,
  beatsPerBar: 4,
  steady: true,
  bpm,
});

test("a flip lands at the same beat, as loud, without a click", async ({ page }) => {
  await page.goto("/");
  const reference = grid(120, 0.4, 6);
  const version = grid(104, 1.1, 4);
  const lined = { reference, version, spans: [{ referenceFirst: 2, versionFirst: 1, bars: 4 }] };
  const seconds = { reference: 13, version: 11 };
  const timelines = {
    reference: referenceTimeline(reference, seconds.reference),
    version: versionTimeline(lined, seconds.version),
  };
  // Beat 6 is bar 2 beat 3: bar 1 beat 3 of the version, which begins at 1.1 s.
  const flipBeat = 6;
  const from = (beat: number) => 0.4 + beat * 0.5;
  const versionAt = 1.1 + (flipBeat - 4) * (60 / 104);

  const render = () =>
    page.evaluate(
      async ({ rate, timelines, seconds, framesPerChunk, startBeat, flipSeconds }) => {
        const context = new OfflineAudioContext(2, 2 * rate, rate);
        await context.audioWorklet.addModule("/listening/mixer.js");
        const mixer = new AudioWorkletNode(context, "plain-mirror-mixer", {
          numberOfInputs: 0,
          numberOfOutputs: 3,
          outputChannelCount: [2, 2, 1],
        });
        mixer.connect(context.destination, 0);
        mixer.connect(context.destination, 1);
        const say = (order: unknown) => mixer.port.postMessage(order);
        // The reference is a tone, the version a tone twice as loud whose pitch says where it is.
        const tone = (time: number) => 0.2 * Math.sin(2 * Math.PI * 300 * time);
        const sweep = (time: number) => 0.4 * Math.sin(2 * Math.PI * (200 * time + 20 * time * time));
        for (const side of ["reference", "version"] as const) {
          const frames = seconds[side] * rate;
          say({
            kind: "deck",
            side,
            setup: { sampleRate: rate, frames, timeline: timelines[side] },
            keepPieces: false,
          });
          for (let piece = 0; piece * framesPerChunk < frames; piece++) {
            const samples = new Float32Array(Math.min(framesPerChunk, frames - piece * framesPerChunk));
            for (let i = 0; i < samples.length; i++) {
              const time = (piece * framesPerChunk + i) / rate;
              samples[i] = side === "reference" ? tone(time) : sweep(time);
            }
            say({ kind: "piece", side, piece, channels: [samples, samples] });
          }
        }
        say({ kind: "settings", settings: { trim: { reference: 1, version: 0.5 } } });
        say({ kind: "seek", beat: startBeat, number: 1 });
        say({ kind: "play" });
        // Every order is answered by a report: rendering goes on when it has been carried out.
        const reported = (isMeant: (report: { playing: boolean; time: number }) => boolean) =>
          new Promise<void>((resolve) => {
            mixer.port.addEventListener("message", function listen({ data }) {
              if (!isMeant(data)) return;
              mixer.port.removeEventListener("message", listen);
              resolve();
            });
            mixer.port.start();
          });
        const plays = reported(({ playing }) => playing);
        void context.suspend(flipSeconds).then(async () => {
          const obeyed = reported(({ time }) => time >= context.currentTime - 1e-6);
          say({ kind: "settings", settings: { activeSide: "version" } });
          await obeyed;
          await context.resume();
        });
        await plays;
        const rendered = await context.startRendering();
        return [...rendered.getChannelData(0)];
      },
      {
        rate,
        timelines,
        seconds,
        framesPerChunk,
        startBeat: flipBeat - 1,
        flipSeconds: 0.5,
      },
    );
  expect(from(flipBeat) - from(flipBeat - 1)).toBeCloseTo(0.5, 9);

  // After the flip the sweep's phase tells the place in the version: compare with every shift.
  const begin = Math.round(0.52 * rate);
  const length = Math.round(0.2 * rate);
  const sweep = (time: number) => 0.4 * Math.sin(2 * Math.PI * (200 * time + 20 * time * time));
  const placeIn = (found: readonly number[]) => {
    let best = { error: Infinity, shift: 0 };
    for (let shift = -0.02; shift <= 0.02; shift += 1 / rate / 4) {
      let error = 0;
      for (let i = 0; i < length; i += 7) {
        const time = versionAt + shift + 0.02 + i / rate;
        error += (found[begin + i]! - 0.5 * sweep(time)) ** 2;
      }
      if (error < best.error) best = { error, shift };
    }
    return best;
  };
  const isHeard = ({ error }: { error: number }) => Math.sqrt(error / (length / 7)) < 0.01;
  const found = await render();
  const best = placeIn(found);
  // The fit first: where it is bad, no flip was heard at all.
  expect(isHeard(best)).toBe(true);
  expect(Math.abs(best.shift)).toBeLessThan(0.005);

  // As loud within half a decibel: 0.2 on either side.
  const level = (a: number, b: number) => {
    let sum = 0;
    for (let i = Math.round(a * rate); i < b * rate; i++) sum += found[i]! ** 2;
    return 10 * Math.log10(sum / ((b - a) * rate));
  };
  expect(Math.abs(level(0.55, 1.2) - level(0.05, 0.49))).toBeLessThan(0.5);

  // No step larger than those of the tones themselves (the version is at 200 + 40 · 3.5 Hz at most).
  let largest = 0;
  for (let i = 1; i < found.length; i++) largest = Math.max(largest, Math.abs(found[i]! - found[i - 1]!));
  expect(largest).toBeLessThan(0.2 * 2 * Math.sin((Math.PI * 360) / rate) * 1.1);
});

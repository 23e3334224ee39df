/** What a decoding process can do with files. */
import { rename } from "node:fs/promises";
import { decimated, comparingRate, findOffset } from "@/core/align/offset";
import { analyse } from "@/core/analysis/analyse";
import { analysisStages } from "@/core/analysis/result";
import { downmix } from "@/core/audio/signal";
import { loadFft } from "@/core/dsp/fft";
import { limits } from "@/core/formats/limits";
import { trimmed } from "@/core/hits/candidates";
import { refuse, success, type Outcome } from "@/core/outcome";
import { sumStems } from "../lens/sumStems";
import { liftTrack } from "../lens/task";
import { writeListeningCopy } from "../storage/listeningCopy";
import { countingSink, decodeFile, decodeInto } from "./decode";
import type { DecodingTask, DecodingTasks, Progress } from "./protocol";
import { readTags } from "./tags";
import type { WatchdogLimits } from "./watchdog";

/** A quarter of a second of decoding at a time is usual; a file that takes this without a sound hangs. */
const decodingLimits: WatchdogLimits = { stallSeconds: 4, memoryMegabytes: 1200 };
/** Twenty minutes at 96 kHz take 0.9 GB as samples, and the analysis some hundred megabytes more. */
const analysisLimits: WatchdogLimits = { stallSeconds: 60, memoryMegabytes: 3600 };

/** Four minutes at a time. */
const liftingLimits: WatchdogLimits = { stallSeconds: 400, memoryMegabytes: 3000 };

/** What a task can say while it runs. */
export interface TaskContext {
  tell(progress: Progress): void;
  watch(limits: WatchdogLimits): void;
  beat(): void;
}

type Tasks = {
  [Name in DecodingTask]: (
    task: DecodingTasks[Name]["task"],
    context: TaskContext,
  ) => Promise<DecodingTasks[Name]["result"]>;
};

const decodeShare = 0.08;

/** Written beside its place first, so that a copy is whole or not there. */
async function placeCopy(path: string, channels: readonly [Float32Array, Float32Array]): Promise<void> {
  const arriving = `${path}.part`;
  await writeListeningCopy(arriving, channels);
  await rename(arriving, path);
}

/** What is read from listening copies is refused where one of them is gone. */
async function fromCopies<T>(work: () => Promise<T>): Promise<Outcome<T>> {
  try {
    return success(await work());
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== "ENOENT") throw error;
    return refuse("not-found", "The playback copy of this file was lost and is being made again.");
  }
}

export const tasks: Tasks = {
  async inspect({ path, shortestSeconds }, { tell, watch }) {
    watch(decodingLimits);
    const onProgress = (done: number) => tell({ message: "Checking", done });
    const decoded = await decodeInto(path, countingSink(), onProgress, shortestSeconds);
    if (!decoded.ok) return decoded;
    const { frames, ...info } = decoded.value;
    return success({ ...info, durationSeconds: frames / info.sampleRate, tags: await readTags(path) });
  },

  async analyse({ path, listeningCopy }, { tell, watch, beat }) {
    watch({ ...decodingLimits, memoryMegabytes: analysisLimits.memoryMegabytes });
    tell({ message: "Decoding", done: 0 });
    const decoded = await decodeFile(path, (done) => tell({ message: "Decoding", done: done * decodeShare }));
    if (!decoded.ok) return decoded;
    watch(analysisLimits);
    const { signal, info } = decoded.value;
    await placeCopy(listeningCopy, downmix(signal));
    const labels = new Map(analysisStages.map(({ name, label }) => [name, label]));
    let progress: Progress = { message: "Decoding", done: decodeShare };
    const result = await analyse(
      signal,
      (stage, done) => {
        beat();
        const message = labels.get(stage) ?? stage;
        progress = { ...progress, message, done: decodeShare + done * (1 - decodeShare) };
        tell(progress);
      },
      (early) => {
        progress = { ...progress, early };
        tell(progress);
      },
    );
    // More channels than two were folded on the way.
    return success({ ...result, analysis: { ...result.analysis, channels: info.channels } });
  },

  async render({ path, listeningCopy }, { tell, watch }) {
    watch({ ...decodingLimits, memoryMegabytes: analysisLimits.memoryMegabytes });
    const decoded = await decodeFile(path, (done) => tell({ message: "Preparing playback", done }));
    if (!decoded.ok) return decoded;
    watch(analysisLimits);
    await placeCopy(listeningCopy, downmix(decoded.value.signal));
    return success(null);
  },

  async readSound({ path }, { tell, watch }) {
    watch(decodingLimits);
    const onProgress = (done: number) => tell({ message: "Reading", done });
    const decoded = await decodeFile(path, onProgress, limits.shortestSoundSeconds);
    if (!decoded.ok) return decoded;
    const { signal } = decoded.value;
    const samples = trimmed(downmix(signal), signal.sampleRate);
    return samples
      ? success({ samples, sampleRate: signal.sampleRate })
      : refuse("no-samples", "Nothing sounds in this file.");
  },

  async placeStem({ trackPath, stemPath }, { tell, watch }) {
    watch({ ...decodingLimits, memoryMegabytes: analysisLimits.memoryMegabytes });
    await loadFft();
    const track = await decodeFile(trackPath, (done) =>
      tell({ message: "Placing the stem", done: done / 2 }),
    );
    if (!track.ok) return track;
    const stem = await decodeFile(stemPath, (done) =>
      tell({ message: "Placing the stem", done: 0.5 + done / 2 }),
    );
    if (!stem.ok) return stem;
    watch(analysisLimits);
    const rate = comparingRate(track.value.signal.sampleRate, stem.value.signal.sampleRate);
    const mono = ({ signal }: typeof track.value) => decimated(downmix(signal), signal.sampleRate, rate);
    return success(findOffset(mono(track.value), mono(stem.value), rate));
  },

  async sumStems(task, { tell, watch }) {
    watch(analysisLimits);
    return fromCopies(() =>
      sumStems(task, (done) => tell({ message: "Holding the stems against their track", done })),
    );
  },

  async lift(task, { tell, watch }) {
    watch(liftingLimits);
    return fromCopies(() =>
      liftTrack(task, (done) => tell({ message: "Lifting parts out of the mix", done })),
    );
  },
};

/** What the lens lifts out of a track, or all the rest of it, as a WAV file that is made while it is sent. */
import { stat } from "node:fs/promises";
import { bytesPerFrame, framesPerChunk, unpackFrames } from "@/core/formats/chunks";
import { withoutExtension } from "@/core/formats/fileNames";
import { stereoWavFrames, stereoWavHead } from "@/core/formats/wav";
import { barStart } from "@/core/grid/grid";
import type { LensPart } from "@/core/lens/parts";
import { refuse, success, type Outcome } from "@/core/outcome";
import { requestAgain } from "../jobs/queue";
import type { Database } from "../storage/database";
import { readFrames } from "../storage/listeningCopy";
import { lensPath, listeningPath } from "../storage/paths";
import { itemIsGone, readItem } from "../study/items";
import { liftKey } from "../study/keys";
import { needsGrid } from "./planFiles";

export interface LensFileWish {
  part: LensPart;
  /** Everything but the part. */
  isRest: boolean;
  /** Whether the file begins with bar 1, so that parts of several tracks lie one under the other. */
  fromBarOne: boolean;
}

const frameCount = async (path: string): Promise<number> =>
  Math.floor((await stat(path)).size / bytesPerFrame);

const { max, min, round } = Math;

export async function exportLens(
  db: Database,
  itemId: string,
  { part, isRest, fromBarOne }: LensFileWish,
): Promise<Outcome<{ name: string; type: string; stream: ReadableStream<Uint8Array> }>> {
  const found = await readItem(db, itemId);
  if (!found) return itemIsGone();
  const { item, grid, sampleRate } = found;
  if (fromBarOne && !grid) return needsGrid();
  const { hash } = item.file;
  const path = lensPath(hash, part);
  const whole = listeningPath(hash);
  const frames = await Promise.all([frameCount(path), isRest ? frameCount(whole) : Infinity]).catch(
    (error: NodeJS.ErrnoException) => {
      if (error.code !== "ENOENT") throw error;
      return null;
    },
  );
  if (!frames) {
    await requestAgain("lift", hash, liftKey);
    return refuse("unfinished", "This part is being lifted out of the mix.", "Try again in a moment.");
  }
  const length = min(...frames);
  // Bar 1 may lie ahead of the file: then it begins with silence.
  const first = fromBarOne ? round(barStart(grid!, 1) * sampleRate) : 0;
  const total = max(0, length - first);
  let at = first;
  const stream = new ReadableStream<Uint8Array>({
    start: (controller) => controller.enqueue(stereoWavHead(total, sampleRate)),
    async pull(controller) {
      if (at >= length) return controller.close();
      if (at < 0) {
        const silence = min(-at, framesPerChunk);
        controller.enqueue(new Uint8Array(silence * 6));
        at += silence;
        return;
      }
      const end = min(length, at + framesPerChunk);
      const own = unpackFrames(await readFrames(path, at, end));
      if (isRest) {
        const all = unpackFrames(await readFrames(whole, at, end));
        own.forEach((samples, side) => samples.forEach((x, i) => (samples[i] = all[side]![i]! - x)));
      }
      controller.enqueue(stereoWavFrames(own));
      at = end;
    },
  });
  const name = `${withoutExtension(item.fileName)} ${isRest ? "without " : ""}${part}${fromBarOne ? " from bar 1" : ""}.wav`;
  return success({ name, type: "audio/wav", stream });
}

/** Hits for sending: a page takes one text in far less time than some ten thousand numbers. */
import { bytesOfBase64 } from "../base64";
import type { DrumEstimate } from "./hits";

const { round } = Math;

/** Columns of the same length, one after the other, ten bytes a hit; as base64. */
export interface PackedDrums {
  count: number;
  /** Times in tenths of a millisecond, velocities and confidences in thousandths, voices, kinds. */
  hits: string;
  /** Times of bass notes in tenths of a millisecond. */
  bassNotes: string;
}

/** Turning bytes into text takes them in pieces. */
const pieceLength = 0x8000;

function asText(array: Int32Array | Uint16Array | Uint8Array): string {
  const bytes = new Uint8Array(array.buffer, array.byteOffset, array.byteLength);
  let text = "";
  for (let i = 0; i < bytes.length; i += pieceLength) {
    text += String.fromCharCode(...bytes.subarray(i, i + pieceLength));
  }
  return btoa(text);
}

/** Times are kept to a tenth of a millisecond and shares to a thousandth, as they are stored. */
export function packDrums({
  times,
  voices,
  velocities,
  confidences,
  kinds,
  bassNotes,
}: DrumEstimate): PackedDrums {
  const count = times.length;
  const bytes = new Uint8Array(count * 10);
  const at = (offset: number) => offset * count;
  new Int32Array(bytes.buffer, 0, count).set(times.map((time) => round(1e4 * time)));
  new Uint16Array(bytes.buffer, at(4), count).set(velocities.map((share) => round(1000 * share)));
  new Uint16Array(bytes.buffer, at(6), count).set(confidences.map((share) => round(1000 * share)));
  bytes.set(voices, at(8));
  bytes.set(kinds, at(9));
  return {
    count,
    hits: asText(bytes),
    bassNotes: asText(Int32Array.from(bassNotes, (time) => round(1e4 * time))),
  };
}

export function unpackDrums({ count, hits, bassNotes }: PackedDrums): DrumEstimate {
  const { buffer } = bytesOfBase64(hits);
  const share = (offset: number) =>
    Array.from(new Uint16Array(buffer, offset * count, count), (thousandths) => thousandths / 1000);
  const bytes = (offset: number) => Array.from(new Uint8Array(buffer, offset * count, count));
  return {
    times: Array.from(new Int32Array(buffer, 0, count), (tenths) => tenths / 1e4),
    velocities: share(4),
    confidences: share(6),
    voices: bytes(8),
    kinds: bytes(9),
    bassNotes: Array.from(new Int32Array(bytesOfBase64(bassNotes).buffer), (tenths) => tenths / 1e4),
  };
}

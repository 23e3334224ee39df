/**
 * How decoded samples travel to a listener: headerless chunks of a fixed number of frames,
 * interleaved stereo, 24-bit little-endian, at half amplitude so that what decoders give above full
 * scale is kept.
 */

import { lensParts, type LensPart } from "../lens/parts";

/** Frames of a chunk: about a second, and a multiple of the hop by which parts are separated. */
export const framesPerChunk = 49152;
export const bytesPerFrame = 6;

/** Parts of the sound that are separated before listening. */
export type SeparatedPart = "percussive" | "sustained";
/** The stems of one element of a track, each where it lies in the track and as loud as it is there. */
export interface StemsOfElement {
  trackId: string;
  elementId: string;
}
/**
 * All of a file, one of its separated parts, parts that the lens lifts out, together (silence where these are
 * none), or stems in its place.
 */
export type ListeningPart = "whole" | SeparatedPart | readonly LensPart[] | StemsOfElement;

const stemsName = /^stems\.([A-Za-z0-9]{1,64})\.([A-Za-z0-9]{1,64})$/;

/** A listening part as an address has it: parts of the lens in their order, joined by commas. */
export function listeningPartName(part: ListeningPart): string {
  if (typeof part === "string") return part;
  if ("elementId" in part) return `stems.${part.trackId}.${part.elementId}`;
  return lensParts.filter((own) => part.includes(own)).join(",") || "none";
}

/** The inverse of `listeningPartName`; null where a name says nothing of the kind. */
export function listeningPartOf(name: string): ListeningPart | null {
  if (name === "whole" || name === "percussive" || name === "sustained") return name;
  if (name === "none") return [];
  const stems = stemsName.exec(name);
  if (stems) return { trackId: stems[1]!, elementId: stems[2]! };
  const names = name.split(",");
  const parts = lensParts.filter((own) => names.includes(own));
  return parts.length === names.length ? parts : null;
}

const toInteger = 8388607 / 2;

const { floor } = Math;

/** A sample as 24 bits; beyond ±2 it is clipped. */
function as24Bits(sample: number): number {
  const value = floor(sample * toInteger + 0.5);
  return (value > 8388607 ? 8388607 : value < -8388608 ? -8388608 : value) & 0xffffff;
}

/** @returns `bytesPerFrame` bytes a frame of `from` … `to`. Beyond ±2 samples are clipped. */
export function packFrames(
  [left, right]: readonly [Float32Array, Float32Array],
  from: number,
  to: number,
): Uint8Array<ArrayBuffer> {
  const bytes = new Uint8Array((to - from) * bytesPerFrame);
  const pairs = (to - from) >> 1;
  // Two frames are three words; all machines that a browser runs on are little-endian.
  const words = new Uint32Array(bytes.buffer, 0, 3 * pairs);
  let at = 0;
  for (let i = from; at < words.length; i += 2) {
    const a = as24Bits(left[i]!);
    const b = as24Bits(right[i]!);
    const c = as24Bits(left[i + 1]!);
    const d = as24Bits(right[i + 1]!);
    words[at++] = a | (b << 24);
    words[at++] = (b >> 8) | (c << 16);
    words[at++] = (c >> 16) | (d << 8);
  }
  if ((to - from) % 2 === 1) {
    const last = [as24Bits(left[to - 1]!), as24Bits(right[to - 1]!)];
    last.forEach((value, side) => {
      for (let k = 0; k < 3; k++) bytes[12 * pairs + 3 * side + k] = (value >> (8 * k)) & 255;
    });
  }
  return bytes;
}

/** The inverse of `packFrames`; an incomplete frame at the end is left out. */
export function unpackFrames(bytes: Uint8Array): [Float32Array, Float32Array] {
  const frames = Math.floor(bytes.length / bytesPerFrame);
  const left = new Float32Array(frames);
  const right = new Float32Array(frames);
  let at = 0;
  for (let i = 0; i < frames; i++) {
    left[i] = (((bytes[at + 2]! << 24) | (bytes[at + 1]! << 16) | (bytes[at]! << 8)) >> 8) / toInteger;
    right[i] = (((bytes[at + 5]! << 24) | (bytes[at + 4]! << 16) | (bytes[at + 3]! << 8)) >> 8) / toInteger;
    at += bytesPerFrame;
  }
  return [left, right];
}

/**
 * Fetches the samples that will be needed soon, a few at a time, and lets go of those far away. What
 * cannot be fetched is tried again, less and less often, until it can.
 */
import { unpackFrames, type ListeningPart } from "@/core/formats/chunks";

/** A chunk of one file. */
export interface WantedChunk {
  hash: string;
  chunk: number;
}

export interface ChunkLoaderPort {
  /** Gives the bytes of a chunk; rejects where that is not possible now. */
  fetch(wanted: WantedChunk, part: ListeningPart): Promise<Uint8Array>;
  loaded(wanted: WantedChunk, channels: [Float32Array, Float32Array]): void;
  dropped(wanted: WantedChunk): void;
  /** Whether sound is missing because it could not be fetched. */
  failing(isFailing: boolean): void;
  now(): number;
  later(ms: number, act: () => void): void;
}

/** Chunks of one file that are kept: a little over a minute. */
const mostKept = 60;
const mostRequests = 3;
const firstRetryMs = 500;
const longestRetryMs = 8_000;

interface Tried {
  failures: number;
  notBefore: number;
}

const keyOf = ({ hash, chunk }: WantedChunk) => `${hash} ${chunk}`;

export class ChunkLoader {
  private readonly loaded = new Map<string, WantedChunk>();
  private readonly asked = new Map<string, WantedChunk>();
  private readonly tried = new Map<string, Tried>();
  private part: ListeningPart = "whole";
  private wanted: readonly WantedChunk[] = [];
  private isClosed = false;

  constructor(private readonly port: ChunkLoaderPort) {}

  /** Another part of the sound is wanted: all that is here is forgotten. */
  setPart(part: ListeningPart): boolean {
    if (part === this.part) return false;
    this.part = part;
    this.loaded.clear();
    this.asked.clear();
    this.wanted = [];
    this.forgetUnwanted();
    return true;
  }

  /** Forgets the chunks of a file, as when it is no longer played. */
  forget(hash: string): void {
    for (const list of [this.loaded, this.asked]) {
      for (const [key, own] of list) if (own.hash === hash) list.delete(key);
    }
  }

  /** What is needed now, the most urgent first. */
  want(wanted: readonly WantedChunk[]): void {
    this.wanted = wanted;
    this.forgetUnwanted();
    this.fill();
    this.thin();
  }

  close(): void {
    this.isClosed = true;
  }

  private fill(): void {
    if (this.isClosed) return;
    const now = this.port.now();
    for (const own of this.wanted) {
      if (this.asked.size >= mostRequests) return;
      const key = keyOf(own);
      if (this.loaded.has(key) || this.asked.has(key)) continue;
      if ((this.tried.get(key)?.notBefore ?? 0) > now) continue;
      this.asked.set(key, own);
      void this.load(own, key);
    }
  }

  private async load(own: WantedChunk, key: string): Promise<void> {
    const { part } = this;
    try {
      const channels = unpackFrames(await this.port.fetch(own, part));
      if (this.isClosed || part !== this.part || !this.asked.delete(key)) return;
      this.loaded.set(key, own);
      if (this.tried.delete(key) && this.tried.size === 0) this.port.failing(false);
      this.port.loaded(own, channels);
    } catch {
      if (this.isClosed || part !== this.part || !this.asked.delete(key)) return;
      const failures = (this.tried.get(key)?.failures ?? 0) + 1;
      const wait = Math.min(longestRetryMs, firstRetryMs * 2 ** (failures - 1));
      this.tried.set(key, { failures, notBefore: this.port.now() + wait });
      this.port.failing(true);
      this.port.later(wait + 1, () => this.fill());
      return;
    }
    this.fill();
  }

  /** What failed and is no longer needed does not count as missing. */
  private forgetUnwanted(): void {
    if (this.tried.size === 0) return;
    const wanted = new Set(this.wanted.map(keyOf));
    for (const key of this.tried.keys()) if (!wanted.has(key)) this.tried.delete(key);
    if (this.tried.size === 0) this.port.failing(false);
  }

  /** Lets go of what lies farthest from what is wanted, file by file. */
  private thin(): void {
    const byFile = new Map<string, WantedChunk[]>();
    for (const own of this.loaded.values()) byFile.set(own.hash, [...(byFile.get(own.hash) ?? []), own]);
    for (const [hash, own] of byFile) {
      if (own.length <= mostKept) continue;
      const wanted = this.wanted.filter((one) => one.hash === hash);
      const middle = wanted[0]?.chunk ?? 0;
      const keep = new Set(wanted.map(keyOf));
      const far = own
        .filter((one) => !keep.has(keyOf(one)))
        .sort((a, b) => Math.abs(b.chunk - middle) - Math.abs(a.chunk - middle));
      for (const one of far.slice(0, own.length - mostKept)) {
        this.loaded.delete(keyOf(one));
        this.port.dropped(one);
      }
    }
  }
}

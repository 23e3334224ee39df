/**
 * Fetches the samples that will be needed soon, a few at a time, and lets go of those far away. What
 * cannot be fetched is tried again, less and less often, until it can.
 */
import { unpackFrames } from "@/core/formats/chunks";

/** A chunk of one file, or of parts of it. */
export interface WantedChunk {
  hash: string;
  /** Name of the listening part. */
  part: string;
  chunk: number;
}

export interface ChunkLoaderPort {
  /** Gives the bytes of a chunk; rejects where that is not possible now. */
  fetch(wanted: WantedChunk): Promise<Uint8Array>;
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

const soundOf = ({ hash, part }: WantedChunk) => `${hash} ${part}`;
const keyOf = (own: WantedChunk) => `${soundOf(own)} ${own.chunk}`;

export class ChunkLoader {
  private readonly loaded = new Map<string, WantedChunk>();
  private readonly asked = new Map<string, WantedChunk>();
  private readonly tried = new Map<string, Tried>();
  private wanted: readonly WantedChunk[] = [];
  private isClosed = false;

  constructor(private readonly port: ChunkLoaderPort) {}

  /** Forgets the chunks of a file, or of one part of it, as when it is no longer played. */
  forget(hash: string, part?: string): void {
    const isMeant = (own: WantedChunk) => own.hash === hash && (part === undefined || own.part === part);
    for (const list of [this.loaded, this.asked]) {
      for (const [key, own] of list) if (isMeant(own)) list.delete(key);
    }
    this.wanted = this.wanted.filter((own) => !isMeant(own));
    this.forgetUnwanted();
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
    // One that was forgotten meanwhile, and perhaps asked for again, is another.
    const isStillWanted = () => this.asked.get(key) === own && this.asked.delete(key);
    try {
      const channels = unpackFrames(await this.port.fetch(own));
      if (this.isClosed || !isStillWanted()) return;
      this.loaded.set(key, own);
      if (this.tried.delete(key) && this.tried.size === 0) this.port.failing(false);
      this.port.loaded(own, channels);
    } catch {
      if (this.isClosed || !isStillWanted()) return;
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
    for (const own of this.loaded.values())
      byFile.set(soundOf(own), [...(byFile.get(soundOf(own)) ?? []), own]);
    for (const [sound, own] of byFile) {
      if (own.length <= mostKept) continue;
      const wanted = this.wanted.filter((one) => soundOf(one) === sound);
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

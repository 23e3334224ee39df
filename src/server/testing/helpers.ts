/** Helpers for tests of the server: a data folder of their own, and requests as pages send them. */
import { mkdtemp, rm } from "node:fs/promises";
import { tmpdir } from "node:os";
import path from "node:path";
import { writeWav, type WavSampleFormat } from "@/core/formats/wav";
import { clicks, whiteNoise } from "@/core/testing/signals";
import { database } from "../storage/database";
import { StorageTrouble } from "../storage/trouble";

function setVariables(variables: Record<string, string | undefined>) {
  for (const [name, value] of Object.entries(variables)) {
    if (value === undefined) delete process.env[name];
    else process.env[name] = value;
  }
}

/** Gives this process an empty data folder; the returned function removes it. */
export async function freshDataFolder(): Promise<() => Promise<void>> {
  const folder = await mkdtemp(path.join(tmpdir(), "plain-mirror-"));
  const { PLAIN_MIRROR_DATA, PLAIN_MIRROR_LENS } = process.env;
  process.env.PLAIN_MIRROR_DATA = folder;
  // Taking every piece apart would take minutes; the tests of the lens ask for it.
  process.env.PLAIN_MIRROR_LENS = "asked";
  return async () => {
    setVariables({ PLAIN_MIRROR_DATA, PLAIN_MIRROR_LENS });
    await rm(folder, { recursive: true, force: true });
  };
}

/** A short made-up piece: clicks at a tempo over noise; the seed makes its bytes its own. */
export function pieceWav({
  seconds = 4,
  bpm = 120,
  gainDb = 0,
  seed = 1,
  format = "int16" as WavSampleFormat,
} = {}): Uint8Array<ArrayBuffer> {
  const rate = 22050;
  const beat = clicks(
    Array.from({ length: Math.floor((seconds * bpm) / 60) }, (_, i) => 0.1 + (i * 60) / bpm),
    seconds,
    rate,
  );
  const noise = whiteNoise(-35, seconds, rate, seed);
  const gain = 10 ** (gainDb / 20);
  return writeWav(
    [beat.map((x, i) => gain * (x + noise[i]!)), beat.map((x, i) => gain * (x - noise[i]!))],
    rate,
    format,
  );
}

const host = "localhost:3000";

/** A request from one of the application's own pages. */
export function pageRequest(
  method: string,
  address: string,
  body?: Uint8Array<ArrayBuffer> | object,
  headers: Record<string, string> = {},
): Request {
  const raw = body instanceof Uint8Array;
  return new Request(`http://${host}${address}`, {
    method,
    headers: {
      host,
      origin: `http://${host}`,
      ...(raw ? { "content-length": String(body.length) } : {}),
      ...headers,
    },
    ...(body === undefined
      ? {}
      : { body: raw ? new Blob([body]).stream() : JSON.stringify(body), duplex: "half" }),
  } as RequestInit);
}

/** Waits until something holds; fails after some seconds. */
export async function until<T>(look: () => Promise<T | null | undefined | false>, seconds = 40): Promise<T> {
  const end = Date.now() + seconds * 1000;
  while (Date.now() < end) {
    const found = await look();
    if (found) return found;
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
  throw new Error("waited in vain");
}

/** What is said where the database cannot be used; nothing where it can. */
export async function databaseTrouble(): Promise<string> {
  try {
    await database();
    return "";
  } catch (error) {
    if (!(error instanceof StorageTrouble)) throw error;
    return error.refusal.sentence;
  }
}

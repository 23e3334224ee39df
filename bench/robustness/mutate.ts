/** Broken audio files, the same for the same seed: what disks, pipes, programs and enemies do to files. */
import { readFileSync } from "node:fs";
import path from "node:path";
import { writeWav } from "@/core/formats/wav";

const { floor, sin } = Math;

/** A repeatable source of chance. */
export class Source {
  constructor(private state: number) {}

  /** 0 ≤ x < 1 (mulberry32). */
  next(): number {
    this.state = (this.state + 0x6d2b79f5) | 0;
    let t = Math.imul(this.state ^ (this.state >>> 15), 1 | this.state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  }

  below(count: number): number {
    return floor(this.next() * count);
  }

  pick<T>(list: readonly T[]): T {
    return list[this.below(list.length)]!;
  }

  bytes(count: number): Uint8Array {
    return Uint8Array.from({ length: count }, () => this.below(256));
  }
}

export interface BrokenFile {
  name: string;
  bytes: Uint8Array<ArrayBuffer>;
}

const fixture = (name: string): Uint8Array =>
  Uint8Array.from(readFileSync(path.join("src/server/decoding/fixtures", name)));

const tone = (seconds: number, rate: number) =>
  Float32Array.from({ length: floor(seconds * rate) }, (_, i) => 0.4 * sin(i * 0.05) * sin(i * 0.0007));

/** Whole files of every format, by ending. */
const whole: readonly [name: string, bytes: () => Uint8Array][] = [
  ["pcm.wav", () => writeWav([tone(2, 22050), tone(2, 22050)], 22050)],
  ["float.wav", () => writeWav([tone(2, 22050)], 22050, "float32")],
  ["tone.aiff", () => fixture("tone.aiff")],
  ["tone.flac", () => fixture("tone.flac")],
  ["tone.mp3", () => fixture("tone-cbr.mp3")],
  ["vbr.mp3", () => fixture("tone-vbr.mp3")],
  ["tone.ogg", () => fixture("tone.ogg")],
  ["tone.opus", () => fixture("tone.opus")],
];

const oddSizes = [0, 1, 0x7fffffff, 0x80000000, 0xfffffff0, 0xfffffffe, 0xffffffff];

type Mutation = (bytes: Uint8Array, source: Source) => Uint8Array;

const joined = (...parts: Uint8Array[]): Uint8Array => Uint8Array.from(Buffer.concat(parts));

const mutations: Record<string, Mutation> = {
  "bit flips": (bytes, source) => {
    for (let i = 0; i < 1 + source.below(60); i++) bytes[source.below(bytes.length)]! ^= 1 << source.below(8);
    return bytes;
  },
  "flips in the header": (bytes, source) => {
    for (let i = 0; i < 1 + source.below(8); i++)
      bytes[source.below(Math.min(128, bytes.length))] = source.below(256);
    return bytes;
  },
  cut: (bytes, source) => bytes.slice(0, source.below(bytes.length)),
  "cut short": (bytes, source) => bytes.slice(0, source.below(200)),
  "huge size": (bytes, source) => {
    const view = new DataView(bytes.buffer);
    view.setUint32(4 * source.below(24), source.pick(oddSizes), source.next() < 0.7);
    return bytes;
  },
  "odd channels": (bytes, source) => {
    const view = new DataView(bytes.buffer);
    view.setUint16(22, source.pick([0, 3, 7, 24, 255, 32767, 65535]), source.next() < 0.8);
    return bytes;
  },
  "odd rate": (bytes, source) => {
    const view = new DataView(bytes.buffer);
    view.setUint32(24, source.pick([0, 1, 4000, 7999, 192001, 4e9]), true);
    return bytes;
  },
  "odd coding": (bytes, source) => {
    new DataView(bytes.buffer).setUint16(
      20,
      source.pick([0, 2, 6, 7, 0x11, 0x31, 0x55, 0xfffe, 0xffff]),
      true,
    );
    return bytes;
  },
  "no numbers": (bytes, source) => {
    const view = new DataView(bytes.buffer);
    const count = 1 + source.below(400);
    for (let i = 0; i < count; i++) {
      const at = 44 + 4 * source.below(floor((bytes.length - 48) / 4));
      view.setFloat32(at, source.pick([NaN, Infinity, -Infinity, 1e25, -3e38, 1e-40, 4000]), true);
    }
    return bytes;
  },
  "junk before": (bytes, source) => joined(source.bytes(1 + source.below(5000)), bytes),
  "junk behind": (bytes, source) => joined(bytes, source.bytes(1 + source.below(90_000))),
  "zeros inside": (bytes, source) => {
    const at = source.below(bytes.length);
    bytes.fill(0, at, at + source.below(bytes.length));
    return bytes;
  },
  "something cut out": (bytes, source) => {
    const at = source.below(bytes.length);
    return joined(bytes.slice(0, at), bytes.slice(at + source.below(4000)));
  },
  "something put in": (bytes, source) => {
    const at = source.below(bytes.length);
    return joined(bytes.slice(0, at), source.bytes(source.below(4000)), bytes.slice(at));
  },
  "another file behind": (bytes, source) => joined(bytes, source.pick(whole)[1]()),
  "a header over zeros": (bytes, source) =>
    joined(bytes.slice(0, 12 + source.below(60)), new Uint8Array(source.below(3_000_000))),
};

const magics = [
  "PK\x03\x04",
  "\x89PNG\r\n\x1a\n",
  "%PDF-1.7\n",
  "GIF89a",
  "OggS",
  "fLaC",
  "ID3\x04\0",
  "RIFF....WAVE",
  "FORM....AIFF",
  "MThd",
  "\0\0\0 ftypM4A ",
  "<html>",
];

/** The file with a number; the same for the same seed. */
export function brokenFile(seed: number, number: number): BrokenFile {
  const source = new Source(seed * 100_003 + number);
  if (source.next() < 0.06) {
    const magic = Buffer.from(source.pick(magics), "latin1");
    return {
      name: `${number} of another kind.wav`,
      bytes: Uint8Array.from(joined(magic, source.bytes(source.below(60_000)))),
    };
  }
  const [base, make] = source.pick(whole);
  const isWave = base.endsWith(".wav");
  const fitting = Object.keys(mutations).filter((name) => {
    if (name === "no numbers") return base === "float.wav";
    return !name.startsWith("odd ") || isWave;
  });
  const name = source.pick(fitting);
  let bytes = Uint8Array.from(mutations[name]!(Uint8Array.from(make()), source));
  // Misfortunes seldom come singly.
  if (source.next() < 0.2 && bytes.length > 100)
    bytes = Uint8Array.from(mutations["bit flips"]!(bytes, source));
  return { name: `${number} ${name} ${base}`, bytes };
}

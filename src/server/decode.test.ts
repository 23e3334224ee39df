/**
 * Every format in, at the right length and level. The encoded fixtures are a 1 kHz sine of 1.5 s
 * made with ffmpeg, whose own decoder's sample counts and peaks are what is expected here.
 * Decoding runs in the worker bundle, as it does in the application.
 */
import { mkdtemp, readFile, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import path from "node:path";
import { Piscina } from "piscina";
import type { Outcome } from "@/core/outcome";
import { writeWav } from "@/core/formats/wav";
import { toneSequence } from "@/core/testing/signals";
import { hasFfmpeg } from "./decode";
import type { Inspection, analyseFile } from "./worker";

const fixture = (name: string) => path.join(process.cwd(), "src/server/fixtures", name);
let pool: Piscina;
let folder: string;
beforeAll(async () => {
  pool = new Piscina({ filename: path.join(process.cwd(), "dist/worker.mjs"), maxThreads: 1 });
  folder = await mkdtemp(path.join(tmpdir(), "plain-mirror-"));
});
afterAll(async () => {
  await pool.destroy();
  await rm(folder, { recursive: true, force: true });
});

const inspect = (file: string) =>
  pool.run({ path: file }, { name: "inspect" }) as Promise<Outcome<Inspection>>;
const analysed = async (file: string) => {
  const outcome = (await pool.run(
    { path: file, listeningCopy: path.join(folder, "copy.wav") },
    { name: "analyseFile" },
  )) as Awaited<ReturnType<typeof analyseFile>>;
  if (!outcome.ok) throw new Error(outcome.refusal.sentence);
  return outcome.value.analysis;
};
const written = async (name: string, bytes: Uint8Array) => {
  const file = path.join(folder, name);
  await writeFile(file, bytes);
  return file;
};
const inspected = async (file: string) => {
  const outcome = await inspect(file);
  if (!outcome.ok) throw new Error(outcome.refusal.sentence);
  return outcome.value;
};
const refusal = async (file: string) => {
  const outcome = await inspect(file);
  if (outcome.ok) throw new Error("was taken");
  return outcome.refusal;
};

describe("encoded files", () => {
  it.each([
    ["tone-cbr.mp3", "mp3", 66150 / 44100, 44100, 2, -15.3],
    ["tone-vbr.mp3", "mp3", 66150 / 44100, 44100, 2, -14.7],
    ["tone.flac", "flac", 66150 / 44100, 44100, 2, -15.1],
    ["tone.ogg", "vorbis", 66150 / 44100, 44100, 2, -14.6],
    ["tone.opus", "opus", 72000 / 48000, 48000, 2, -14.7],
    ["tone-mono.opus", "opus", 72000 / 48000, 48000, 1, -11.7],
    ["tone.aiff", "aiff", 12000 / 8000, 8000, 1, -11.9],
  ] as const)("%s", async (name, format, seconds, sampleRate, channels, peak) => {
    const found = await inspected(fixture(name));
    expect(found).toMatchObject({ format, sampleRate, channels, warnings: [] });
    expect(found.durationSeconds).toBeCloseTo(seconds, 6);
    expect((await analysed(fixture(name))).loudness.truePeakDbtp).toBeCloseTo(peak, 0);
  });

  it("M4A where ffmpeg is installed, else a clear sentence", async () => {
    const outcome = await inspect(fixture("tone.m4a"));
    if (await hasFfmpeg()) {
      expect(outcome.ok && outcome.value.durationSeconds).toBeCloseTo(66560 / 44100, 3);
    } else {
      expect(!outcome.ok && outcome.refusal.code).toBe("needs-ffmpeg");
    }
  });

  it("reads tags as claims", async () => {
    expect((await inspected(fixture("tone-cbr.mp3"))).claims).toEqual({
      title: "Glass Ladder",
      artist: "The Invented Trio",
      bpm: 92,
      key: "Bb",
    });
    expect((await inspected(fixture("tone.flac"))).claims).toMatchObject({ title: "Glass Ladder", bpm: 92 });
  });
});

/** A WAV file of one tone in any sample format, written by hand. */
function handMadeWav(bits: number, float: boolean, channels: number, extensible: boolean): Uint8Array {
  const frames = 44100;
  const width = bits / 8;
  const formatBytes = extensible ? 40 : 16;
  const bytes = new Uint8Array(28 + formatBytes + frames * channels * width);
  const view = new DataView(bytes.buffer);
  const put = (at: number, text: string) =>
    [...text].forEach((letter, i) => view.setUint8(at + i, letter.charCodeAt(0)));
  put(0, "RIFF");
  view.setUint32(4, bytes.length - 8, true);
  put(8, "WAVEfmt ");
  view.setUint32(16, formatBytes, true);
  view.setUint16(20, extensible ? 0xfffe : float ? 3 : 1, true);
  view.setUint16(22, channels, true);
  view.setUint32(24, 44100, true);
  view.setUint32(28, 44100 * channels * width, true);
  view.setUint16(32, channels * width, true);
  view.setUint16(34, bits, true);
  if (extensible) {
    view.setUint16(36, 22, true);
    view.setUint16(38, bits, true);
    view.setUint16(44, float ? 3 : 1, true);
  }
  const data = 20 + formatBytes;
  put(data, "data");
  view.setUint32(data + 4, frames * channels * width, true);
  for (let i = 0, at = data + 8; i < frames; i++) {
    const x = 0.5 * Math.sin((2 * Math.PI * 1000 * i) / 44100);
    for (let c = 0; c < channels; c++, at += width) {
      if (float) {
        if (bits === 32) view.setFloat32(at, x, true);
        else view.setFloat64(at, x, true);
      } else if (bits === 8) view.setUint8(at, Math.round(128 + 127 * x));
      else if (bits === 16) view.setInt16(at, Math.round(32767 * x), true);
      else if (bits === 24) {
        const v = Math.round(8388607 * x);
        view.setUint8(at, v & 255);
        view.setUint8(at + 1, (v >> 8) & 255);
        view.setUint8(at + 2, (v >> 16) & 255);
      } else view.setInt32(at, Math.round(2147483647 * x), true);
    }
  }
  return bytes;
}

describe("WAV", () => {
  it.each([
    [8, false, 2, false],
    [16, false, 2, false],
    [24, false, 2, false],
    [32, false, 2, false],
    [32, true, 2, false],
    [64, true, 2, false],
    [24, false, 2, true],
    [16, false, 6, true],
    [32, true, 1, true],
  ] as const)("%i bit, float %s, %i channels, extensible %s", async (bits, float, channels, extensible) => {
    const file = await written(
      `made-${bits}-${String(float)}-${channels}-${String(extensible)}.wav`,
      handMadeWav(bits, float, channels, extensible),
    );
    expect(await inspected(file)).toMatchObject({
      format: "wav",
      sampleRate: 44100,
      channels,
      durationSeconds: 1,
      warnings: [],
    });
    expect((await analysed(file)).loudness.truePeakDbtp).toBeCloseTo(-6.02, 1);
  });

  it("says how many samples were no numbers, and sets them to 0", async () => {
    const { channels } = toneSequence([{ level: -20, seconds: 2 }]);
    const samples = Float32Array.from(channels[0]!);
    // Where the tone crosses 0 anyway, so that no click is added.
    samples[96] = NaN;
    samples[192] = Infinity;
    const file = await written("nan.wav", writeWav([samples], 48000, "float32"));
    expect((await inspected(file)).warnings).toEqual(["2 samples were not numbers and were set to 0."]);
    expect((await analysed(file)).loudness.truePeakDbtp).toBeCloseTo(-20, 0);
  });

  it("accepts silence, with every level null", async () => {
    const file = await written(
      "silence.wav",
      writeWav([new Float32Array(96000), new Float32Array(96000)], 48000),
    );
    const { silent, tempo, leadInSeconds, loudness } = await analysed(file);
    expect({ silent, tempo, leadInSeconds }).toEqual({ silent: true, tempo: null, leadInSeconds: null });
    expect(loudness.integratedLufs).toBeNull();
    expect(loudness.truePeakDbtp).toBeNull();
  });
});

describe("bad files", () => {
  it.each([["tone-cbr.mp3"], ["tone.flac"], ["tone.ogg"]])(
    "%s cut off: what is whole is read, what is lost is said",
    async (name) => {
      const bytes = await readFile(fixture(name));
      const file = await written(`cut-${name}`, bytes.subarray(0, Math.floor(bytes.length * 0.93)));
      const found = await inspected(file);
      expect(found.durationSeconds).toBeGreaterThan(1);
      expect(found.durationSeconds).toBeLessThan(1.5);
      expect(found.warnings.join()).toMatch(/cut off/);
    },
  );

  it("a WAV cut off in the middle", async () => {
    const whole = handMadeWav(16, false, 2, false);
    const two = Uint8Array.from([...whole, ...whole.subarray(44)]);
    new DataView(two.buffer).setUint32(40, two.length - 44, true);
    const found = await inspected(await written("cut.wav", two.subarray(0, two.length - 40000)));
    expect(found.durationSeconds).toBeCloseTo(2 - 10000 / 44100, 3);
    expect(found.warnings[0]).toMatch(/0\.2 s of 0:02 could not be read/);
  });

  it.each([
    ["letter.mp3", Buffer.from("Dear friend, this is no music at all, only words."), "not-audio"],
    ["empty.wav", Buffer.alloc(0), "no-samples"],
    ["header.wav", Buffer.from(writeWav([new Float32Array(0)], 44100)), "no-samples"],
    ["brief.wav", Buffer.from(writeWav([new Float32Array(20000).fill(0.1)], 44100)), "too-short"],
    ["slow.wav", Buffer.from(writeWav([new Float32Array(20000).fill(0.1)], 4000)), "unsupported-format"],
  ])("%s is refused with a sentence", async (name, bytes, code) => {
    const found = await refusal(await written(name, bytes));
    expect(found.code).toBe(code);
    expect(found.sentence).toMatch(/^[A-Z].*\.$/);
  });

  it("a file longer than the limit is refused before it is decoded", async () => {
    const bytes = writeWav([new Float32Array(8000)], 8000);
    const view = new DataView(bytes.buffer);
    view.setUint32(40, 8000 * 2 * 60 * 21, true);
    expect((await refusal(await written("long.wav", bytes))).code).toBe("too-long");
  });

  it("a missing file", async () => {
    expect((await refusal(path.join(folder, "nothing.wav"))).code).toBe("not-found");
  });
});

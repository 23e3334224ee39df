/**
 * Every format in, at the right length and level. The encoded fixtures are a 1 kHz sine of 1.5 s
 * made with ffmpeg, whose own decoder's sample counts and peaks are what is expected here.
 * Decoding runs in a process of its own, as it does in the application.
 */
import { mkdtemp, readFile, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import path from "node:path";
import { writeWav } from "@/core/formats/wav";
import { toneSequence } from "@/core/testing/signals";
import { hasFfmpeg } from "./ffmpeg";
import { Cancelled, ProcessPool } from "./processPool";

const fixture = (name: string) => path.join(process.cwd(), "src/server/decoding/fixtures", name);
let pool: ProcessPool;
let folder: string;
beforeAll(async () => {
  pool = new ProcessPool(1);
  folder = await mkdtemp(path.join(tmpdir(), "plain-mirror-"));
});
afterAll(async () => {
  pool.cancelAll();
  await rm(folder, { recursive: true, force: true });
});

const inspect = (file: string) => pool.run("inspect", { path: file });
const analysed = async (file: string) => {
  const outcome = await pool.run("analyse", { path: file, listeningCopy: path.join(folder, "copy.pcm") });
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
    expect(found).toMatchObject({ format, sampleRate, channels });
    expect(found.warnings.filter((warning) => !warning.startsWith("Mono"))).toEqual([]);
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

  it("reads tags", async () => {
    expect((await inspected(fixture("tone-cbr.mp3"))).tags).toEqual({
      title: "Glass Ladder",
      artist: "The Invented Trio",
      bpm: 92,
      key: "Bb",
    });
    expect((await inspected(fixture("tone.flac"))).tags).toMatchObject({ title: "Glass Ladder", bpm: 92 });
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
    });
    // Six channels are folded: on each side itself, and centre and surround 3 dB lower.
    const folded = channels > 2 ? 20 * Math.log10(1 + 2 * Math.SQRT1_2) : 0;
    expect((await analysed(file)).loudness.truePeakDbtp).toBeCloseTo(-6.02 + folded, 1);
  });

  it("says how many samples can't be right, and sets them to 0", async () => {
    const { channels } = toneSequence([{ level: -20, seconds: 2 }]);
    const samples = Float32Array.from(channels[0]!);
    // Where the tone crosses 0 anyway, so that no click is added.
    samples[96] = NaN;
    samples[192] = 1e25;
    const file = await written("nan.wav", writeWav([samples], 48000, "float32"));
    expect((await inspected(file)).warnings[0]).toBe(
      "2 samples were not valid (not a number, or far beyond full scale) and set to 0.",
    );
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

  it.each<[string, (bytes: Uint8Array, view: DataView) => void]>([
    ["an unknown coding with a short format", (_bytes, view) => view.setUint16(20, 0x0011, true)],
    [
      "a chunk of 4 GB before the samples",
      (bytes, view) => {
        bytes.set([0x4a, 0x55, 0x4e, 0x4b], 36);
        view.setUint32(40, 0xfffffff0, true);
      },
    ],
    ["32,767 channels", (_bytes, view) => view.setUint16(22, 32767, true)],
    ["no channels", (_bytes, view) => view.setUint16(22, 0, true)],
    ["a rate of 4 GHz", (_bytes, view) => view.setUint32(24, 0xffffffff, true)],
    ["a block of no bytes", (_bytes, view) => view.setUint16(32, 0, true)],
  ])("a WAV with %s is refused with a sentence, soon", async (name, damage) => {
    const bytes = writeWav([new Float32Array(60000).fill(0.1)], 44100);
    damage(bytes, new DataView(bytes.buffer));
    const begun = Date.now();
    const found = await refusal(await written(`${name}.wav`, bytes));
    expect(found.sentence).toMatch(/^[A-Z].*\.$/);
    expect(Date.now() - begun).toBeLessThan(10_000);
  });

  it("a RIFF header and megabytes of zeros are refused at once", async () => {
    const bytes = new Uint8Array(20_000_000);
    bytes.set(writeWav([new Float32Array(4)], 44100).subarray(0, 12));
    const begun = Date.now();
    expect((await refusal(await written("zeros.wav", bytes))).code).toBe("no-samples");
    expect(Date.now() - begun).toBeLessThan(2000);
  });

  it.each([[37], [40], [43]])("an Ogg file cut after %i bytes", async (length) => {
    const bytes = await readFile(fixture("tone.ogg"));
    expect((await refusal(await written(`cut-${length}.ogg`, bytes.subarray(0, length)))).code).toBe(
      "damaged",
    );
  });

  it("a WAV as it is written to a pipe is taken whole", async () => {
    const bytes = writeWav([new Float32Array(88200).fill(0.1)], 44100);
    new DataView(bytes.buffer).setUint32(40, 0xffffffff, true);
    new DataView(bytes.buffer).setUint32(4, 0xffffffff, true);
    expect((await inspected(await written("piped.wav", bytes))).durationSeconds).toBe(2);
  });

  it("two files in one: the first is used, and that is said", async () => {
    const first = await readFile(fixture("tone-cbr.mp3"));
    const second = await readFile(fixture("tone.aiff"));
    const found = await inspected(await written("joined.mp3", Buffer.concat([first, second])));
    expect(found.durationSeconds).toBeLessThan(1.7);
    expect([found.sampleRate, found.warnings.join()]).toEqual([
      44100,
      expect.stringMatching(/another format/),
    ]);
  });
});

describe("mono, stereo and more channels", () => {
  const noise = Float32Array.from(
    { length: 96000 },
    (_, i) => 0.3 * Math.sin(i * 0.07) * Math.sin(i * 0.0013),
  );

  it("a mono file is measured as what is heard: the same on both sides", async () => {
    const mono = await analysed(await written("mono.wav", writeWav([noise], 48000, "float32")));
    const dual = await analysed(await written("dual.wav", writeWav([noise, noise], 48000, "float32")));
    expect(mono.loudness).toEqual(dual.loudness);
    expect(mono.spectrum).toEqual(dual.spectrum);
    expect((await inspected(path.join(folder, "mono.wav"))).warnings).toEqual([
      "Mono: played and measured as the same signal on both sides.",
    ]);
  });

  it("five channels are folded down before they are measured, and that is said", async () => {
    const silence = new Float32Array(noise.length);
    const file = await written(
      "five.wav",
      writeWav([silence, silence, noise, silence, silence], 48000, "float32"),
    );
    const { channels, warnings } = await inspected(file);
    expect([channels, warnings]).toEqual([5, ["5 channels, folded down to stereo (ITU-R BS.775)."]]);
    // The centre alone comes out of both sides, each 3 dB lower.
    const dual = await analysed(path.join(folder, "dual.wav"));
    const five = await analysed(file);
    expect(five.loudness.integratedLufs!).toBeCloseTo(dual.loudness.integratedLufs! - 3.01, 2);
    expect(five.channels).toBe(5);
  });
});

describe("decoding processes", () => {
  it("are ended when a task is cancelled, and the next task gets another", async () => {
    const file = await written("long.wav", writeWav([new Float32Array(48000 * 90).fill(0.01)], 48000));
    const leaving = new AbortController();
    const running = pool.run(
      "analyse",
      { path: file, listeningCopy: path.join(folder, "x.pcm") },
      {
        signal: leaving.signal,
        onProgress: () => leaving.abort(),
      },
    );
    await expect(running).rejects.toBeInstanceOf(Cancelled);
    expect((await inspected(fixture("tone.flac"))).format).toBe("flac");
  });

  it("end themselves when a file makes them take too much memory", async () => {
    // Twenty minutes of 24 channels at 192 kHz, said by a header over a file of nothing.
    const bytes = writeWav([new Float32Array(8)], 192000);
    const view = new DataView(bytes.buffer);
    view.setUint32(40, 192000 * 2 * 60 * 19, true);
    const { code, sentence } = await refusal(await written("huge.wav", bytes));
    expect(code).toBe("too-large");
    expect(sentence).toMatch(/192 kHz/);
  });
});

it("does not lay it to the charge of a file that an idle process has just been ended from outside", async () => {
  const file = await written(
    "plain.wav",
    writeWav(toneSequence([{ level: -20, seconds: 2 }]).channels, 48000),
  );
  const own = new ProcessPool(1);
  const again = () => own.run("inspect", { path: file });
  expect((await again()).ok).toBe(true);
  const [pid] = own.pids;
  process.kill(pid!, "SIGKILL");
  // In the same breath: nobody can have noticed.
  expect((await again()).ok).toBe(true);
  own.cancelAll();
});

/** What headers promise, field for field as their standards lay them out; none of these files can be played. */
import { limits } from "./limits";
import { probe, type ByteSource, type ProbedHeader } from "./probe";
import { writeWav } from "./wav";

const sourceOf = (bytes: Uint8Array): ByteSource => ({
  size: bytes.length,
  read: async (offset, length) => bytes.slice(offset, offset + length),
});
const letters = (value: string) => [...value].map((letter) => letter.charCodeAt(0));
const big = (value: number, count: number) =>
  Array.from({ length: count }, (_, i) => Math.floor(value / 256 ** (count - 1 - i)) % 256);
const little = (value: number, count: number) => big(value, count).reverse();
const zeros = (count: number) => new Array<number>(count).fill(0);
const bytesOf = (...parts: readonly (readonly number[])[]) => Uint8Array.from(parts.flat());

async function promised(bytes: Uint8Array): Promise<ProbedHeader> {
  const outcome = await probe(sourceOf(bytes));
  if (!outcome.ok) throw new Error(outcome.refusal.sentence);
  return outcome.value;
}
async function refused(bytes: Uint8Array): Promise<string> {
  const outcome = await probe(sourceOf(bytes));
  return outcome.ok ? "taken" : outcome.refusal.code;
}

describe("WAV (RIFF; EBU Tech 3306 for RF64)", () => {
  const format = (
    tag: number,
    channels: number,
    rate: number,
    bits: number,
    more: readonly number[] = [],
  ) => [
    ...letters("fmt "),
    ...little(16 + more.length, 4),
    ...little(tag, 2),
    ...little(channels, 2),
    ...little(rate, 4),
    ...little((rate * channels * bits) / 8, 4),
    ...little(Math.max(1, (channels * bits) / 8), 2),
    ...little(bits, 2),
    ...more,
  ];
  const wave = (chunks: readonly number[], magic = "RIFF") =>
    bytesOf(letters(magic), little(4 + chunks.length, 4), letters("WAVE"), chunks);
  const data = (size: number, there = size) => [...letters("data"), ...little(size, 4), ...zeros(there)];

  it("of more than 4 GB has its length in a chunk of its own", async () => {
    const ds64 = [...letters("ds64"), ...little(28, 4), ...zeros(8), ...little(2 ** 33, 8), ...zeros(12)];
    const own = wave([...ds64, ...format(1, 2, 96000, 24), ...data(0xffffffff, 600)], "RF64");
    expect(await promised(own)).toMatchObject({
      frames: Math.floor(2 ** 33 / 6),
      sampleRate: 96000,
      channels: 2,
      cutOff: true,
      wave: { dataBytes: 600 },
    });
  });

  it("may say in an extensible header what its samples are", async () => {
    const extensible = (sub: number) => [
      ...little(22, 2),
      ...little(24, 2),
      ...little(3, 4),
      ...little(sub, 2),
      ...zeros(14),
    ];
    const plain = await promised(wave([...format(0xfffe, 2, 48000, 24, extensible(1)), ...data(600)]));
    expect(plain).toMatchObject({ frames: 100, wave: { dataBytes: 600 } });
    const coded = await promised(wave([...format(0xfffe, 2, 48000, 24, extensible(2)), ...data(600)]));
    expect(coded).toMatchObject({ frames: null, needsDecoder: true });
  });

  it("that is coded is left to a decoder, and still shows that it is cut off", async () => {
    const adpcm = await promised(wave([...format(2, 1, 22050, 4), ...data(1000, 400)]));
    expect(adpcm).toMatchObject({ format: "wav", frames: null, needsDecoder: true, cutOff: true });
  });

  it("with no size of its samples goes on to the end", async () => {
    const streamed = await promised(wave([...format(1, 1, 8000, 16), ...data(0, 64)]));
    expect(streamed).toMatchObject({ frames: 32, cutOff: false });
  });

  it("is refused where its format makes no sense, or comes after the samples", async () => {
    expect(await refused(wave([...format(1, 0, 44100, 16), ...data(8)]))).toBe("damaged");
    expect(await refused(wave([...format(1, limits.mostChannels + 1, 44100, 16), ...data(800)]))).toBe(
      "unsupported-format",
    );
    expect(await refused(wave([...data(8), ...format(1, 1, 44100, 16)]))).toBe("no-samples");
    expect(await refused(wave([...format(1, 1, 44100, 16)]))).toBe("no-samples");
    // Names of chunks are printable.
    expect(await refused(wave([1, 2, 3, 4, ...little(0, 4), ...format(1, 1, 44100, 16), ...data(8)]))).toBe(
      "no-samples",
    );
  });

  it("is given up where chunks never end", async () => {
    const many = Array.from({ length: 5000 }, () => [...letters("junk"), ...little(0, 4)]).flat();
    expect(await refused(wave([...many, ...format(1, 1, 44100, 16), ...data(8)]))).toBe("no-samples");
  });
});

describe("AIFF (Audio Interchange File Format 1.3)", () => {
  // 80-bit extended precision, as the standard prints them.
  const rates = {
    44100: [0x40, 0x0e, 0xac, 0x44, 0, 0, 0, 0, 0, 0],
    48000: [0x40, 0x0e, 0xbb, 0x80, 0, 0, 0, 0, 0, 0],
    8000: [0x40, 0x0b, 0xfa, 0x00, 0, 0, 0, 0, 0, 0],
  } as const;
  const common = (channels: number, frames: number, rate: keyof typeof rates) => [
    ...letters("COMM"),
    ...big(18, 4),
    ...big(channels, 2),
    ...big(frames, 4),
    ...big(16, 2),
    ...rates[rate],
  ];
  const sound = (size: number, there = size) => [...letters("SSND"), ...big(size, 4), ...zeros(there)];
  const form = (chunks: readonly number[], kind = "AIFF") =>
    bytesOf(letters("FORM"), big(4 + chunks.length, 4), letters(kind), chunks);

  it.each([44100, 48000, 8000] as const)("has its rate in extended precision: %d Hz", async (rate) => {
    const own = await promised(form([...common(2, 100, rate), ...sound(408)]));
    expect(own).toEqual({ format: "aiff", frames: 100, sampleRate: rate, channels: 2, cutOff: false });
  });

  it("may have its samples first, and chunks of odd length", async () => {
    const odd = [...letters("NAME"), ...big(3, 4), 65, 66, 67, 0];
    expect(await promised(form([...odd, ...sound(408), ...common(1, 200, 44100)], "AIFC"))).toMatchObject({
      frames: 200,
      channels: 1,
    });
  });

  it("shows that its end is missing, and is refused without samples", async () => {
    expect(await promised(form([...common(2, 100, 44100), ...sound(408, 100)]))).toMatchObject({
      cutOff: true,
    });
    expect(await refused(form(common(2, 100, 44100)))).toBe("no-samples");
    expect(await refused(form([...common(2, 0, 44100), ...sound(8)]))).toBe("no-samples");
    expect(await refused(form([...common(0, 10, 44100), ...sound(48)]))).toBe("damaged");
    expect(await refused(form([...common(900, 10, 44100), ...sound(48)]))).toBe("unsupported-format");
  });
});

describe("FLAC (RFC 9639)", () => {
  /** STREAMINFO: 20 bits of rate, 3 of channels, 5 of bits, 36 of samples. */
  const flac = (rate: number, channels: number, samples: number) => {
    const packed = (BigInt(rate) << 44n) | (BigInt(channels - 1) << 41n) | (15n << 36n) | BigInt(samples);
    const eight = Array.from({ length: 8 }, (_, i) => Number((packed >> BigInt(56 - 8 * i)) & 255n));
    return [...letters("fLaC"), 0x80, ...big(34, 3), ...zeros(10), ...eight, ...zeros(16)];
  };

  it("says what it holds in its first block", async () => {
    expect(await promised(bytesOf(flac(96000, 2, 5_000_000_000)))).toEqual({
      format: "flac",
      frames: 5_000_000_000,
      sampleRate: 96000,
      channels: 2,
      cutOff: false,
    });
    // None is "unknown".
    expect((await promised(bytesOf(flac(44100, 1, 0)))).frames).toBeNull();
  });

  it("may come behind a tag", async () => {
    const tag = [...letters("ID3"), 4, 0, 0, 0, 0, 1, 2, ...zeros(130)];
    expect(await promised(bytesOf(tag, flac(48000, 2, 777)))).toMatchObject({ format: "flac", frames: 777 });
  });

  it("is cut off where that block is", async () => {
    expect(await promised(bytesOf(flac(48000, 2, 777)).slice(0, 30))).toMatchObject({ cutOff: true });
  });
});

describe("Ogg (RFC 3533; Opus: RFC 7845; Vorbis I)", () => {
  const page = (body: readonly number[], position: number, flags: number) => [
    ...letters("OggS"),
    0,
    flags,
    ...little(position, 8),
    ...zeros(12),
    1,
    body.length,
    ...body,
  ];
  const opus = (channels: number, skip: number) => [
    ...letters("OpusHead"),
    1,
    channels,
    ...little(skip, 2),
    ...little(44100, 4),
    ...zeros(3),
  ];
  const vorbis = (channels: number, rate: number) => [
    1,
    ...letters("vorbis"),
    ...zeros(4),
    channels,
    ...little(rate, 4),
    ...zeros(14),
  ];

  it("ends where its last page says, less what Opus plays ahead; Opus is always at 48 kHz", async () => {
    const own = bytesOf(page(opus(2, 312), 0, 2), page(zeros(50), 48312, 4));
    expect(await promised(own)).toEqual({
      format: "opus",
      frames: 48000,
      sampleRate: 48000,
      channels: 2,
      cutOff: false,
    });
    const other = bytesOf(page(vorbis(1, 32000), 0, 2), page(zeros(50), 9000, 4));
    expect(await promised(other)).toMatchObject({
      format: "vorbis",
      frames: 9000,
      sampleRate: 32000,
      channels: 1,
    });
  });

  it("is cut off where no last page comes, or it is not whole", async () => {
    const open = bytesOf(page(opus(2, 312), 0, 2), page(zeros(50), 48312, 0));
    expect(await promised(open)).toMatchObject({ frames: null, cutOff: true });
    const half = bytesOf(page(opus(2, 312), 0, 2), page(zeros(50), 48312, 4)).slice(0, -20);
    expect(await promised(half)).toMatchObject({ cutOff: true });
  });

  it("is refused where it holds something else", async () => {
    expect(await refused(bytesOf(page([...letters("fishead"), ...zeros(40)], 0, 2)))).toBe(
      "unsupported-format",
    );
    expect(await refused(bytesOf(page(opus(2, 312), 0, 2)).slice(0, 40))).toBe("damaged");
  });
});

describe("MPEG (ISO/IEC 11172-3; ADTS: 13818-7)", () => {
  /** A layer III frame of silence: 44.1 kHz, 128 kbit/s, stereo, 417 bytes. */
  const frame = (rateBits = 0) => [0xff, 0xfb, 0x90 | (rateBits << 2), 0x00, ...zeros(413)];
  const frames = (count: number, rateBits = 0) => Array.from({ length: count }, () => frame(rateBits)).flat();
  const info = (count: number, bytes: number, name = "Xing") => {
    const own = frame();
    [...letters(name), ...big(3, 4), ...big(count, 4), ...big(bytes, 4)].forEach(
      (value, i) => (own[36 + i] = value),
    );
    return own;
  };

  it("is told by two frames in a row, behind a tag or not", async () => {
    const expected = { format: "mp3", sampleRate: 44100, channels: 2, frames: null, cutOff: false };
    expect(await promised(bytesOf(frames(4)))).toMatchObject(expected);
    const tag = [...letters("ID3"), 3, 0, 0, 0, 0, 0, 20, ...zeros(20)];
    expect(await promised(bytesOf(tag, frames(4)))).toMatchObject(expected);
    expect(await refused(bytesOf(frame(), zeros(600)))).toBe("not-audio");
  });

  it("says how long it is in a frame of its own, and shows that it is cut off", async () => {
    const whole = bytesOf(info(40, 41 * 417), frames(40));
    expect(await promised(whole)).toMatchObject({ frames: 40 * 1152, cutOff: false });
    expect(await promised(bytesOf(info(40, 41 * 417, "Info"), frames(40)))).toMatchObject({
      frames: 40 * 1152,
    });
    expect(await promised(whole.slice(0, 20 * 417))).toMatchObject({ cutOff: true });
  });

  it("ends where another stream begins: frames of another rate are no sound of it", async () => {
    const alone = await promised(bytesOf(frames(30)));
    expect(alone.audioEnd).toBeNull();
    // 48 kHz: 384 bytes to the frame, but far too many to be a gap.
    const joined = bytesOf(frames(30), frames(200, 1));
    expect((await promised(joined)).audioEnd).toBe(30 * 417);
  });

  it("finds its way over a gap", async () => {
    const gap = bytesOf(frames(10), zeros(3000), frames(10));
    expect((await promised(gap)).audioEnd).toBeNull();
  });

  it("is AAC where frames have ADTS headers", async () => {
    const adts = [0xff, 0xf1, 0x50, 0x80, 0x06, 0x40, 0x00, ...zeros(43)];
    expect(await promised(bytesOf(adts, adts, adts))).toMatchObject({ format: "aac", frames: null });
  });
});

describe("other files", () => {
  it("are M4A where they say so", async () => {
    expect(await promised(bytesOf(big(24, 4), letters("ftypM4A "), zeros(40)))).toMatchObject({
      format: "m4a",
    });
  });

  it("are refused: empty, short, pictures, documents, and random bytes", async () => {
    expect(await refused(new Uint8Array(0))).toBe("no-samples");
    expect(await refused(bytesOf(letters("RIFF")))).toBe("not-audio");
    expect(await refused(bytesOf([0x89], letters("PNG\r\n"), zeros(2000)))).toBe("not-audio");
    expect(await refused(bytesOf(letters("%PDF-1.7"), zeros(2000)))).toBe("not-audio");
    expect(await refused(bytesOf(letters("RIFF"), little(2000, 4), letters("AVI "), zeros(2000)))).toBe(
      "not-audio",
    );
  });

  it("never end in an error, wherever a file of any kind is cut", async () => {
    const files = [writeWav([new Float32Array(40)], 44100), bytesOf(letters("fLaC"), zeros(60))];
    for (const file of files)
      for (let end = 0; end <= file.length; end++)
        expect(typeof (await probe(sourceOf(file.slice(0, end)))).ok).toBe("boolean");
  });
});

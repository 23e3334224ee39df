import { plainWaveHeader, probe, type ByteSource } from "./probe";
import { writeWav } from "./wav";

const sourceOf = (bytes: Uint8Array): ByteSource => ({
  size: bytes.length,
  read: async (offset, length) => bytes.slice(offset, offset + length),
});
const samples = Float32Array.from({ length: 1000 }, (_, i) => Math.sin(i / 7));
const viewOf = (bytes: Uint8Array) => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
const text = (value: string) => [...value].map((letter) => letter.charCodeAt(0));
const u32 = (value: number) => [value & 255, (value >> 8) & 255, (value >> 16) & 255, (value >>> 24) & 255];

describe("written WAV (RIFF/WAVE, 1991: field for field)", () => {
  it.each([
    ["int16", 2, 1],
    ["int24", 3, 1],
    ["float32", 4, 3],
  ] as const)("%s", (format, width, tag) => {
    const bytes = writeWav([samples, samples], 44100, format);
    const view = viewOf(bytes);
    expect(String.fromCharCode(...bytes.slice(0, 4))).toBe("RIFF");
    expect(view.getUint32(4, true)).toBe(bytes.length - 8);
    expect(view.getUint16(20, true)).toBe(tag);
    expect(view.getUint16(22, true)).toBe(2);
    expect(view.getUint32(24, true)).toBe(44100);
    expect(view.getUint32(28, true)).toBe(44100 * 2 * width);
    expect(view.getUint16(32, true)).toBe(2 * width);
    expect(view.getUint16(34, true)).toBe(8 * width);
    expect(view.getUint32(40, true)).toBe(1000 * 2 * width);
  });

  it("clips what is beyond full scale in integer formats", () => {
    const view = viewOf(writeWav([Float32Array.of(2, -2)], 8000));
    expect(view.getInt16(44, true)).toBe(32767);
    expect(view.getInt16(46, true)).toBe(-32767);
  });
});

describe("what a file promises", () => {
  const promised = async (bytes: Uint8Array) => {
    const outcome = await probe(sourceOf(bytes));
    if (!outcome.ok) throw new Error(outcome.refusal.sentence);
    return outcome.value;
  };

  it("is read from a WAV header", async () => {
    expect(await promised(writeWav([samples, samples], 48000))).toMatchObject({
      format: "wav",
      frames: 1000,
      sampleRate: 48000,
      channels: 2,
      cutOff: false,
    });
  });

  it("shows when the end is missing", async () => {
    const whole = writeWav([samples], 48000);
    expect(await promised(whole.slice(0, whole.length - 500))).toMatchObject({ frames: 1000, cutOff: true });
  });

  it("skips chunks before the samples, odd ones with their padding byte", async () => {
    const whole = writeWav([samples], 48000);
    const odd = [...text("LIST"), ...u32(5), 1, 2, 3, 4, 5, 0];
    const bytes = Uint8Array.from([...whole.slice(0, 36), ...odd, ...whole.slice(36)]);
    expect(await promised(bytes)).toMatchObject({
      frames: 1000,
      wave: { dataOffset: 44 + odd.length, dataBytes: 2000 },
    });
  });

  it("reads to the end where a stream left the length open", async () => {
    const bytes = writeWav([samples], 48000);
    viewOf(bytes).setUint32(40, 0xffffffff, true);
    expect(await promised(bytes)).toMatchObject({ frames: 1000, cutOff: false });
  });

  it("is refused for what is not audio, empty, or has no samples", async () => {
    const code = async (bytes: Uint8Array) => {
      const outcome = await probe(sourceOf(bytes));
      return outcome.ok ? "taken" : outcome.refusal.code;
    };
    expect(await code(new Uint8Array(0))).toBe("no-samples");
    expect(await code(Uint8Array.from(text("A letter to a friend, with no sound in it at all.")))).toBe(
      "not-audio",
    );
    expect(await code(writeWav([samples], 48000).slice(0, 30))).toBe("no-samples");
    expect(await code(Uint8Array.from([...text("OggS"), ...new Array<number>(60).fill(0)]))).toBe(
      "unsupported-format",
    );
  });

  it("does not take a chance match of the MPEG sync for a frame", async () => {
    const noise = Uint8Array.from({ length: 20000 }, (_, i) => (i * 2654435761) >>> 13);
    noise[5000] = 0xff;
    noise[5001] = 0xfb;
    const outcome = await probe(sourceOf(noise));
    expect(outcome.ok).toBe(false);
  });

  it("survives in the plain header that decoders are given", async () => {
    const { wave } = await promised(writeWav([samples, samples], 44100, "int24"));
    const header = plainWaveHeader(wave!.formatChunk, wave!.dataBytes);
    const again = await promised(Uint8Array.from([...header, ...new Uint8Array(wave!.dataBytes)]));
    expect(again).toMatchObject({ frames: 1000, sampleRate: 44100, channels: 2 });
  });
});

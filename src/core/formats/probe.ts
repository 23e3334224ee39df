/**
 * What a file says about itself before anything is decoded: which format it is, how long it
 * promises to be, where its audio lies. Decoders end quietly where a file is cut off; only the
 * comparison with this promise tells.
 */
import { refuse, success, type Outcome } from "../outcome";
import type { Hertz } from "../units";
import { limits } from "./limits";

/** Formats that are told apart by their first bytes. */
export const audioFormats = ["wav", "aiff", "flac", "mp3", "vorbis", "opus", "m4a", "aac"] as const;
export type AudioFormat = (typeof audioFormats)[number];

/** Random access to the bytes of a file. */
export interface ByteSource {
  readonly size: number;
  /** Up to `length` bytes from `offset`; fewer at the end of the file. */
  read(offset: number, length: number): Promise<Uint8Array>;
}

/** What the headers of a file promise. Null where the format does not say. */
export interface ProbedHeader {
  format: AudioFormat;
  /** Sample frames the file should hold. */
  frames: number | null;
  sampleRate: Hertz | null;
  channels: number | null;
  /** Whether the end of the file is missing, as far as its structure tells. */
  cutOff: boolean;
  /** Whether the header leaves the length open, as while a file is being written, or when it was written as a stream. */
  isOpenEnded?: boolean;
  /** For MP3: where its frames end; what follows is no sound of this stream. Null where the file ends with them. */
  audioEnd?: number | null;
  /** Whether the samples are coded in a way that only an outside decoder reads. */
  needsDecoder?: boolean;
  /** For WAV: the format chunk's bytes and where the samples lie. */
  wave?: { formatChunk: Uint8Array; dataOffset: number; dataBytes: number };
}

const text = (bytes: Uint8Array, at: number, length: number) =>
  String.fromCharCode(...bytes.subarray(at, at + length));
const viewOf = (bytes: Uint8Array) => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);

const notAudio = () =>
  refuse(
    "not-audio",
    "This is not an audio file that Plain Mirror can read.",
    "Use a WAV, AIFF, FLAC, MP3, Ogg Vorbis, Opus or M4A file.",
  );

const damagedHeader = () =>
  refuse("damaged", "This file is damaged: its header is incomplete.", "Export it again.");

const tooManyChannels = (channels: number) =>
  refuse(
    "unsupported-format",
    `This file says that it has ${channels} channels; 1 to ${limits.mostChannels} can be read.`,
    "Export it in stereo.",
  );

/** Far more chunks than any program writes before the samples. */
const mostChunks = 4096;
/** Chunk names are four printable characters; anything else is no chunk. */
const isChunkName = (id: string) => /^[\x20-\x7e]{4}$/.test(id);

/** Reads the headers of a file. Refuses what is not audio or not readable here. */
export async function probe(source: ByteSource): Promise<Outcome<ProbedHeader>> {
  if (source.size === 0) return refuse("no-samples", "This file is empty.");
  const head = await source.read(0, 64);
  if (head.length < 12) return notAudio();
  const magic = text(head, 0, 4);
  const kind = text(head, 8, 4);
  if ((magic === "RIFF" || magic === "RF64" || magic === "BW64") && kind === "WAVE") return probeWave(source);
  if (magic === "FORM" && (kind === "AIFF" || kind === "AIFC")) return probeAiff(source);
  if (magic === "fLaC") return success(await probeFlac(source, 0));
  if (magic === "OggS") return probeOgg(source);
  // Some programs put an ID3 tag in front of FLAC.
  if (text(head, 0, 3) === "ID3") {
    const at = afterId3(head);
    if (text(await source.read(at, 4), 0, 4) === "fLaC") return success(await probeFlac(source, at));
  }
  if (text(head, 4, 4) === "ftyp") {
    return success({ format: "m4a", frames: null, sampleRate: null, channels: null, cutOff: false });
  }
  return probeMpeg(source);
}

/** Where an ID3 tag at the beginning of a file ends. */
const afterId3 = (head: Uint8Array): number =>
  10 + (((head[6]! & 127) << 21) | ((head[7]! & 127) << 14) | ((head[8]! & 127) << 7) | (head[9]! & 127));

/** Linear PCM (1) and IEEE float (3), also as the sub-format of an extensible header; all else is coded. */
function isPlainPcm(formatChunk: Uint8Array): boolean {
  const view = viewOf(formatChunk);
  const tag = view.getUint16(0, true);
  if (tag !== 0xfffe) return tag === 1 || tag === 3;
  const sub = formatChunk.length >= 26 ? view.getUint16(24, true) : 0;
  return sub === 1 || sub === 3;
}

async function probeWave(source: ByteSource): Promise<Outcome<ProbedHeader>> {
  let at = 12;
  let formatChunk: Uint8Array | undefined;
  let longDataBytes: number | undefined;
  for (let chunks = 0; chunks < mostChunks && at + 8 <= source.size; chunks++) {
    const header = await source.read(at, 8);
    if (header.length < 8) break;
    const id = text(header, 0, 4);
    if (!isChunkName(id)) break;
    const size = viewOf(header).getUint32(4, true);
    if (id === "ds64") {
      const body = viewOf(await source.read(at + 8, 24));
      if (body.byteLength >= 16) longDataBytes = Number(body.getBigUint64(8, true));
    } else if (id === "fmt ") {
      formatChunk = await source.read(at + 8, Math.min(size, 256));
    } else if (id === "data") {
      if (!formatChunk || formatChunk.length < 16) break;
      const view = viewOf(formatChunk);
      const blockBytes = view.getUint16(12, true);
      const channels = view.getUint16(2, true);
      const sampleRate = view.getUint32(4, true);
      if (blockBytes === 0 || channels === 0) return damagedHeader();
      if (channels > limits.mostChannels) return tooManyChannels(channels);
      const available = source.size - at - 8;
      // 0 and 0xFFFFFFFF stand for "until the end" in files that were written as a stream.
      const streamed = size === 0xffffffff || (size === 0 && available > 0);
      const promised = longDataBytes ?? (streamed ? available : size);
      if (!isPlainPcm(formatChunk)) {
        // How many samples a coded block holds only its decoder knows.
        return success({
          format: "wav",
          frames: null,
          sampleRate,
          channels,
          cutOff: promised > available,
          needsDecoder: true,
        });
      }
      return success({
        format: "wav",
        frames: Math.floor(promised / blockBytes),
        sampleRate,
        channels,
        cutOff: promised > available,
        ...(streamed && longDataBytes === undefined ? { isOpenEnded: true } : {}),
        wave: { formatChunk, dataOffset: at + 8, dataBytes: Math.min(promised, available) },
      });
    }
    at += 8 + size + (size & 1);
  }
  return refuse("no-samples", "This WAV file holds no samples: its data part is missing.");
}

async function probeAiff(source: ByteSource): Promise<Outcome<ProbedHeader>> {
  let at = 12;
  let frames: number | null = null;
  let channels: number | null = null;
  let sampleRate: Hertz | null = null;
  let cutOff = false;
  let hasSamples = false;
  for (let chunks = 0; chunks < mostChunks && at + 8 <= source.size; chunks++) {
    const header = await source.read(at, 8 + 18);
    const id = text(header, 0, 4);
    if (header.length < 8 || !isChunkName(id)) break;
    const size = viewOf(header).getUint32(4);
    if (id === "COMM" && header.length >= 26) {
      const view = viewOf(header);
      channels = view.getUint16(8);
      frames = view.getUint32(10);
      // 80-bit extended precision: 16 bits of sign and exponent, 64 bits of mantissa.
      const exponent = view.getUint16(16) & 0x7fff;
      sampleRate = view.getUint32(18) * 2 ** (exponent - 16383 - 31);
    } else if (id === "SSND") {
      hasSamples = true;
      cutOff = at + 8 + size > source.size;
    }
    at += 8 + size + (size & 1);
  }
  if (channels === 0) return damagedHeader();
  if (channels !== null && channels > limits.mostChannels) return tooManyChannels(channels);
  if (!hasSamples || frames === 0) return refuse("no-samples", "This AIFF file holds no samples.");
  return success({ format: "aiff", frames, sampleRate, channels, cutOff });
}

async function probeFlac(source: ByteSource, at: number): Promise<ProbedHeader> {
  const info = viewOf(await source.read(at + 8, 34));
  const promise: ProbedHeader = {
    format: "flac",
    frames: null,
    sampleRate: null,
    channels: null,
    cutOff: false,
  };
  if (info.byteLength < 34) return { ...promise, cutOff: true };
  const packed = info.getBigUint64(10);
  const frames = Number(packed & 0xfffffffffn);
  promise.sampleRate = Number(packed >> 44n);
  promise.channels = Number((packed >> 41n) & 7n) + 1;
  promise.frames = frames === 0 ? null : frames;
  if (frames === 0) promise.isOpenEnded = true;
  return promise;
}

async function probeOgg(source: ByteSource): Promise<Outcome<ProbedHeader>> {
  const head = await source.read(0, 512);
  const body = 27 + (head[26] ?? 0);
  const opus = text(head, body, 8) === "OpusHead";
  const vorbis = text(head, body + 1, 6) === "vorbis";
  if (!opus && !vorbis) {
    return refuse(
      "unsupported-format",
      "This Ogg file holds neither Vorbis nor Opus sound.",
      "Save it as Ogg Vorbis, Opus, FLAC or WAV.",
    );
  }
  if (head.length < body + 19) return damagedHeader();
  const view = viewOf(head);
  const sampleRate = opus ? 48000 : view.getUint32(body + 12, true);
  const channels = opus ? head[body + 9]! : head[body + 11]!;
  const skipped = opus ? view.getUint16(body + 10, true) : 0;
  // The last page carries the position of the end and says that it is the last.
  const tailAt = Math.max(0, source.size - 131072);
  const tail = await source.read(tailAt, 131072);
  let last = tail.length - 27;
  while (last >= 0 && !(tail[last] === 0x4f && text(tail, last, 4) === "OggS")) last--;
  if (last < 0)
    return success({ format: opus ? "opus" : "vorbis", frames: null, sampleRate, channels, cutOff: true });
  const page = viewOf(tail.subarray(last));
  const segments = page.getUint8(26);
  let end = last + 27 + segments;
  for (let i = 0; i < segments; i++) end += tail[last + 27 + i] ?? 0;
  const ended = (page.getUint8(5) & 4) !== 0 && end <= tail.length;
  const position = Number(page.getBigInt64(6, true));
  return success({
    format: opus ? "opus" : "vorbis",
    frames: ended && position > 0 ? position - skipped : null,
    sampleRate,
    channels,
    cutOff: !ended,
  });
}

const mpegRates = [[11025, 12000, 8000], [], [22050, 24000, 16000], [44100, 48000, 32000]];
const bitrates1 = [0, 32, 40, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320];
const bitrates2 = [0, 8, 16, 24, 32, 40, 48, 56, 64, 80, 96, 112, 128, 144, 160];

/** An MPEG audio layer III frame header (ISO/IEC 11172-3, 13818-3), or null. */
function mpegFrame(bytes: Uint8Array, at: number) {
  if (at + 4 > bytes.length || bytes[at] !== 0xff || (bytes[at + 1]! & 0xe0) !== 0xe0) return null;
  const version = (bytes[at + 1]! >> 3) & 3;
  const layer = (bytes[at + 1]! >> 1) & 3;
  const rate = mpegRates[version]?.[(bytes[at + 2]! >> 2) & 3];
  const bitrate = (version === 3 ? bitrates1 : bitrates2)[bytes[at + 2]! >> 4];
  if (layer !== 1 || !rate || !bitrate) return null;
  const samples = version === 3 ? 1152 : 576;
  const padding = (bytes[at + 2]! >> 1) & 1;
  const mono = bytes[at + 3]! >> 6 === 3;
  return {
    samples,
    rate,
    channels: mono ? 1 : 2,
    bytes: Math.floor(((samples / 8) * 1000 * bitrate) / rate) + padding,
    sideBytes: version === 3 ? (mono ? 17 : 32) : mono ? 9 : 17,
  };
}

/** Two AAC frames in a row with ADTS headers (ISO/IEC 13818-7). */
function isAdts(bytes: Uint8Array): boolean {
  const frameAt = (at: number): number =>
    at + 7 <= bytes.length && bytes[at] === 0xff && (bytes[at + 1]! & 0xf6) === 0xf0
      ? ((bytes[at + 3]! & 3) << 11) | (bytes[at + 4]! << 3) | (bytes[at + 5]! >> 5)
      : 0;
  const first = frameAt(0);
  return first >= 7 && frameAt(first) >= 7;
}

/** Tags and padding behind the last frame may be this long. */
const longestTail = 65536;
/** Bytes without a frame in which a damaged stream may find its way again. */
const longestGap = 8192;

/**
 * Follows frame headers of one sample rate to where they end. Decoders take anything that looks like a
 * frame for sound, at whatever rate it says, as when another file was appended.
 *
 * @returns null where the stream goes on to the end of the file, but for tags.
 */
async function endOfFrames(source: ByteSource, first: number, rate: Hertz): Promise<number | null> {
  const windowBytes = 1 << 20;
  let window: Uint8Array = new Uint8Array(0);
  let begin = 0;
  let end = first;
  let gap = 0;
  for (let at = first; at + 4 <= source.size;) {
    if (at < begin || at + 4 > begin + window.length) {
      begin = at;
      window = await source.read(at, windowBytes);
      if (window.length < 4) break;
    }
    const frame = mpegFrame(window, at - begin);
    if (frame && frame.rate === rate) {
      at += frame.bytes;
      end = Math.min(at, source.size);
      gap = 0;
    } else {
      at++;
      if (++gap > longestGap) break;
    }
  }
  return source.size - end > longestTail || gap > longestGap ? end : null;
}

async function probeMpeg(source: ByteSource): Promise<Outcome<ProbedHeader>> {
  let at = 0;
  const head = await source.read(0, 10);
  if (text(head, 0, 3) === "ID3") at = afterId3(head);
  const bytes = await source.read(at, 16384);
  if (isAdts(bytes))
    return success({ format: "aac", frames: null, sampleRate: null, channels: null, cutOff: false });
  for (let i = 0; i + 4 < bytes.length; i++) {
    const frame = mpegFrame(bytes, i);
    // Two frames in a row, or one at the very end: a single match may be chance.
    if (!frame || (i + frame.bytes + 4 <= bytes.length && !mpegFrame(bytes, i + frame.bytes))) continue;
    const tag = i + 4 + frame.sideBytes;
    const name = text(bytes, tag, 4);
    const view = viewOf(bytes);
    let frames: number | null = null;
    let cutOff = false;
    if ((name === "Xing" || name === "Info") && tag + 16 <= bytes.length) {
      const flags = view.getUint32(tag + 4);
      if (flags & 1) frames = view.getUint32(tag + 8) * frame.samples;
      if (flags & 2) {
        const audioBytes = view.getUint32(tag + (flags & 1 ? 12 : 8));
        cutOff = at + i + audioBytes > source.size + frame.bytes;
      }
    }
    return success({
      format: "mp3",
      frames,
      sampleRate: frame.rate,
      channels: frame.channels,
      cutOff,
      audioEnd: await endOfFrames(source, at + i, frame.rate),
    });
  }
  return notAudio();
}

/** A RIFF header that leads straight to the samples, for decoders that stumble over other chunks. */
export function plainWaveHeader(formatChunk: Uint8Array, dataBytes: number): Uint8Array {
  const header = new Uint8Array(28 + formatChunk.length);
  const view = viewOf(header);
  const put = (at: number, value: string) => {
    for (let i = 0; i < value.length; i++) header[at + i] = value.charCodeAt(i);
  };
  const size = Math.min(dataBytes, 0xfffffffe);
  put(0, "RIFF");
  view.setUint32(4, Math.min(0xfffffffe, header.length - 8 + size), true);
  put(8, "WAVEfmt ");
  view.setUint32(16, formatChunk.length, true);
  header.set(formatChunk, 20);
  put(20 + formatChunk.length, "data");
  view.setUint32(24 + formatChunk.length, size, true);
  return header;
}

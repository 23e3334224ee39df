/** Tags of a file, read as claims: shown beside the measurement, never instead of it. */
import { open } from "node:fs/promises";
import { z } from "zod";
import type { AudioFormat } from "@/core/formats/probe";

export const claimsSchema = z.object({
  title: z.string().optional(),
  artist: z.string().optional(),
  bpm: z.number().optional(),
  key: z.string().optional(),
});

export type Claims = z.infer<typeof claimsSchema>;

type ParseMeta = (bytes: Uint8Array) => { meta: Record<string, unknown> } | null;

/** Tags lie at the start of these formats; in WAV often at the end too. */
const headBytes = 512 * 1024;

async function parserFor(format: AudioFormat): Promise<ParseMeta | null> {
  switch (format) {
    case "mp3":
      return (await import("@audio/decode-mp3/meta")).parseMeta;
    case "flac":
      return (await import("@audio/decode-flac/meta")).parseMeta;
    case "vorbis":
      return (await import("@audio/decode-vorbis/meta")).parseMeta;
    case "opus":
      return (await import("@audio/decode-opus/meta")).parseMeta;
    case "wav":
      return (await import("@audio/decode-wav/meta")).parseMeta;
    default:
      return null;
  }
}

const textOf = (value: unknown): string | undefined => {
  const first: unknown = Array.isArray(value) ? value[0] : value;
  const text = typeof first === "string" || typeof first === "number" ? String(first).trim() : "";
  return text === "" ? undefined : text.slice(0, 200);
};

/** What the tags of a file claim; empty where there are none or they cannot be read. */
export async function readClaims(path: string, format: AudioFormat): Promise<Claims> {
  const parse = await parserFor(format);
  if (!parse) return {};
  const file = await open(path, "r");
  try {
    const bytes = new Uint8Array(headBytes);
    const { bytesRead } = await file.read(bytes, 0, headBytes, 0);
    let meta: Record<string, unknown>;
    try {
      meta = parse(bytes.subarray(0, bytesRead))?.meta ?? {};
    } catch {
      // Broken tags are no reason to refuse a file whose sound can be read.
      return {};
    }
    const tag = (...names: string[]) => {
      for (const [name, value] of Object.entries(meta)) {
        if (names.includes(name.toLowerCase())) return textOf(value);
      }
      return undefined;
    };
    const bpm = Number(tag("bpm", "tbpm", "tempo"));
    return claimsSchema.parse({
      title: tag("title"),
      artist: tag("artist"),
      bpm: Number.isFinite(bpm) && bpm > 0 ? bpm : undefined,
      key: tag("key", "initialkey", "tkey"),
    });
  } finally {
    await file.close();
  }
}

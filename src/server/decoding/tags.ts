/** Tags of a file: shown beside the measurement as what the file says of itself, never instead of it. */
import { parseFile } from "music-metadata";
import { z } from "zod";

export const tagsSchema = z.object({
  title: z.string().max(200).optional(),
  artist: z.string().max(200).optional(),
  bpm: z.number().min(1).max(1000).optional(),
  key: z.string().max(200).optional(),
});

export type Tags = z.infer<typeof tagsSchema>;

const textOf = (value: string | undefined): string | undefined => {
  const text = value?.trim().slice(0, 200);
  return text ? text : undefined;
};

/**
 * What the tags of a file say; empty where there are none or they cannot be read.
 *
 * Runs in the decoding process: a damaged tag may take for ever to read.
 */
export async function readTags(path: string): Promise<Tags> {
  try {
    const { common } = await parseFile(path, { duration: false, skipCovers: true, skipPostHeaders: true });
    const bpm = Number(common.bpm);
    return tagsSchema.parse({
      title: textOf(common.title),
      artist: textOf(common.artist),
      bpm: Number.isFinite(bpm) && bpm >= 1 && bpm <= 1000 ? bpm : undefined,
      key: textOf(common.key),
    });
  } catch {
    // Broken tags are no reason to refuse a file whose sound can be read.
    return {};
  }
}

/** The demo music as files: made once, kept in `.cache/demo`. */
import { createHash } from "node:crypto";
import { existsSync } from "node:fs";
import { mkdir, readFile, readdir, writeFile } from "node:fs/promises";
import path from "node:path";
import { z } from "zod";
import { writeWav } from "@/core/formats/wav";
import { developmentMaster, makeSong } from "./makeSong";
import { styleSong } from "./songs/styles";
import { renderRate } from "./render";
import { demoStudies, type DemoFile as TrackOfDemo } from "./scenario";
import { demoSounds } from "./sounds";

const fileSchema = z.object({ file: z.string(), name: z.string(), note: z.string() });
const trackSchema = fileSchema.extend({ stems: z.array(fileSchema) });
const listSchema = z.array(
  z.object({
    title: z.string(),
    reference: trackSchema,
    versions: z.array(trackSchema),
    /** Offered for its drums. */
    sounds: z.array(fileSchema),
    /** Tracks of its style. */
    yardstick: z.array(fileSchema),
    elements: z.record(
      z.string(),
      z.object({
        state: z.enum(["not started", "in work", "close enough", "done", "left out"]),
        note: z.string().optional(),
      }),
    ),
  }),
);

const demoStyle = "disco-funk";
const firstStyleSeed = 301;
/** Invented. */
const styleNames = [
  "Harbour Steps - Tin Lantern",
  "Marigold Avenue - Night Bus",
  "The Paper Kings - Sideways",
  "Ferry Lights - One More Corner",
  "Ada Brook - Warm Concrete",
  "Lowland Motel - Ladder Street",
];

const cache = path.join(process.cwd(), ".cache", "demo");

/** Changes whenever the code that makes the music changes. */
async function stamp(): Promise<string> {
  const digest = createHash("sha256");
  for (const folder of ["src/demo", "src/demo/songs"]) {
    for (const name of (await readdir(folder)).sort()) {
      if (name.endsWith(".ts")) digest.update(await readFile(path.join(folder, name)));
    }
  }
  return digest.digest("hex").slice(0, 12);
}

/** The files of every demo study, made where they are missing. */
export async function demoMusic(): Promise<z.infer<typeof listSchema>> {
  const listFile = path.join(cache, `${await stamp()}.json`);
  if (!existsSync(listFile)) {
    await mkdir(cache, { recursive: true });
    const write = async (
      study: string,
      part: string,
      { name, note, track }: { name: string; note: string; track: Float32Array[] },
    ) => {
      const file = path.join(cache, `${study}-${part}.wav`.toLowerCase().replaceAll(" ", "-"));
      await writeFile(file, writeWav(track, renderRate));
      return { file, name, note };
    };
    const list: z.infer<typeof listSchema> = [];
    for (const study of await demoStudies()) {
      const writeTrack = async (part: string, track: TrackOfDemo) => {
        const stems = [];
        for (const stem of track.stems ?? [])
          stems.push(await write(study.title, `${part}-${stem.name.slice(0, -4)}`, stem));
        return { ...(await write(study.title, part, track)), stems };
      };
      const versions = [];
      for (const [i, version] of study.versions.entries())
        versions.push(await writeTrack(`v${i + 1}`, version));
      list.push({
        title: study.title,
        reference: await writeTrack("reference", study.reference),
        versions,
        sounds: [],
        yardstick: [],
        elements: study.elements,
      });
    }
    // The larger study has sounds to choose from.
    const last = list.at(-1)!;
    for (const { name, samples } of demoSounds())
      last.sounds.push(
        await write("sound", name.slice(0, -4), { name, note: "", track: [samples, samples] }),
      );
    // And others of its style to be held against.
    for (const [i, name] of styleNames.entries()) {
      const seed = firstStyleSeed + i;
      const { channels } = await makeSong(styleSong(demoStyle, seed), developmentMaster(seed));
      last.yardstick.push(
        await write("style", String(i + 1), { name: `${name}.wav`, note: "", track: [...channels] }),
      );
    }
    await writeFile(listFile, JSON.stringify(list));
  }
  return listSchema.parse(JSON.parse(await readFile(listFile, "utf8")));
}

export type DemoFile = z.infer<typeof fileSchema>;

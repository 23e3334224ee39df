/** Which folders of the machine may be watched, and what lies in them. */
import { constants } from "node:fs";
import { open, readdir, realpath, stat, type FileHandle } from "node:fs/promises";
import { homedir } from "node:os";
import path from "node:path";
import { isAudioName } from "@/core/formats/fileNames";
import { refuse, success, type Outcome } from "@/core/outcome";
import { dataFolder } from "../storage/paths";

/** More files than any folder of renders has. */
const mostFiles = 5_000;

/** Folders below which folders may be watched: those in PLAIN_MIRROR_FOLDERS, or the home folder. */
const rootsNamed = (): string[] => {
  const named = (process.env.PLAIN_MIRROR_FOLDERS ?? "").split(path.delimiter).filter(Boolean);
  return named.length > 0 ? named : [homedir()];
};

const isWithin = (folder: string, root: string): boolean => {
  const way = path.relative(root, folder);
  return way === "" || (way !== ".." && !way.startsWith(`..${path.sep}`) && !path.isAbsolute(way));
};

async function realFolder(wanted: string): Promise<string | null> {
  try {
    const real = await realpath(/* turbopackIgnore: true */ wanted);
    return (await stat(/* turbopackIgnore: true */ real)).isDirectory() ? real : null;
  } catch {
    return null;
  }
}

/** `~` stands for the home folder, as in a shell. */
const expanded = (typed: string): string => typed.replace(/^~(?=$|[\\/])/, homedir());

/**
 * Finds a folder that is to be watched, with links in its path followed first, so that none leads
 * out of what is allowed.
 *
 * @param typed as the producer gave it: an absolute path, or one that begins with `~`.
 */
export async function findFolder(typed: string): Promise<Outcome<string>> {
  const wanted = expanded(typed.trim());
  if (!path.isAbsolute(wanted))
    return refuse(
      "bad-request",
      "This is not the full path of a folder.",
      "It begins at the root or with ~, as in ~/Music/Renders.",
    );
  const roots = (await Promise.all(rootsNamed().map(realFolder))).filter((root) => root !== null);
  const refused = () =>
    refuse(
      "not-allowed",
      "This folder may not be watched.",
      `Only folders below ${rootsNamed().join(" or ")} may be. Others are named in PLAIN_MIRROR_FOLDERS when the server is started.`,
    );
  // A path that leads nowhere says nothing of what lies outside.
  if (![...roots, ...rootsNamed()].some((root) => isWithin(path.normalize(wanted), root))) return refused();
  const folder = await realFolder(wanted);
  if (folder === null)
    return refuse(
      "not-found",
      "There is no folder at this path at the moment.",
      "Watching goes on by itself once it is there.",
    );
  if (!roots.some((root) => isWithin(folder, root))) return refused();
  const own = await realFolder(dataFolder());
  if (own !== null && (isWithin(folder, own) || isWithin(own, folder)))
    return refuse(
      "not-allowed",
      "This folder holds Plain Mirror's own data.",
      "Choose the folder that your renders go to.",
    );
  return success(folder);
}

/** A sound file in a folder. */
export interface FoundFile {
  name: string;
  bytes: number;
  /** Milliseconds since 1970. */
  modifiedAt: number;
}

const found = (name: string, { size, mtimeMs }: { size: number; mtimeMs: number }): FoundFile => ({
  name,
  bytes: size,
  modifiedAt: Math.round(mtimeMs),
});

export const isSameFile = (a: FoundFile, b: FoundFile): boolean =>
  a.name === b.name && a.bytes === b.bytes && a.modifiedAt === b.modifiedAt;

/** The sound files of a folder itself, oldest first. Links and what lies in folders inside are left out. */
export async function filesIn(folder: string): Promise<Outcome<FoundFile[]>> {
  try {
    const entries = await readdir(/* turbopackIgnore: true */ folder, { withFileTypes: true });
    const sounds = entries.filter((entry) => entry.isFile() && isAudioName(entry.name));
    if (sounds.length > mostFiles)
      return refuse(
        "too-large",
        `This folder holds more than ${mostFiles} sound files.`,
        "Choose one that only renders of this track go to.",
      );
    const files: FoundFile[] = [];
    for (const { name } of sounds) {
      const own = await stat(path.join(/* turbopackIgnore: true */ folder, name)).catch(() => null);
      if (own) files.push(found(name, own));
    }
    return success(files.sort((a, b) => a.modifiedAt - b.modifiedAt || a.name.localeCompare(b.name)));
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException;
    return code === "EACCES" || code === "EPERM"
      ? refuse("not-allowed", "This folder cannot be read.", "Give the server's user the right to read it.")
      : refuse(
          "not-found",
          "This folder is not there at the moment.",
          "Watching goes on by itself once it is back.",
        );
  }
}

/** Opens a file of a folder for reading; null where it is gone, has become a link, or is not as it was found. */
export async function openFound(folder: string, file: FoundFile): Promise<Outcome<FileHandle | null>> {
  try {
    const handle = await open(
      path.join(/* turbopackIgnore: true */ folder, file.name),
      constants.O_RDONLY | (constants.O_NOFOLLOW ?? 0),
    );
    if (await isAsFound(handle, file)) return success(handle);
    await handle.close();
    return success(null);
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException;
    return code === "EACCES" || code === "EPERM"
      ? refuse("not-allowed", "This file cannot be read.", "Give the server's user the right to read it.")
      : success(null);
  }
}

/** Whether an open file has still the size and time at which it was found. */
export async function isAsFound(handle: FileHandle, file: FoundFile): Promise<boolean> {
  const now = await handle.stat();
  return now.isFile() && isSameFile(found(file.name, now), file);
}

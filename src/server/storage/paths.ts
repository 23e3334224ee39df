/** Where things lie on disk. File names of uploads never become part of a path. */
import path from "node:path";
import type { LensPart } from "@/core/lens/parts";

/** The data folder: `PLAIN_MIRROR_DATA`, or `data` in the project. */
export const dataFolder = (): string =>
  path.resolve(/* turbopackIgnore: true */ process.env.PLAIN_MIRROR_DATA ?? "data");

const hashPattern = /^[0-9a-f]{64}$/;

function under(folder: string, hash: string, ending = ""): string {
  if (!hashPattern.test(hash)) throw new Error("not a file hash");
  return path.join(dataFolder(), folder, hash + ending);
}

export const isFileHash = (text: string): boolean => hashPattern.test(text);

export const databaseFile = (): string => path.join(dataFolder(), "plain-mirror.db");
/** Says which database on a server the folder belongs to. */
export const databaseMark = (): string => path.join(dataFolder(), "database");
/** Names the process that uses the data folder. */
export const lockFile = (): string => path.join(dataFolder(), "lock");
/** Copies of the database from before migrations. */
export const backupsFolder = (): string => path.join(dataFolder(), "backups");
/** Uploads while they arrive. */
export const incomingFolder = (): string => path.join(dataFolder(), "incoming");
export const filesFolder = (): string => path.join(dataFolder(), "files");
export const listeningFolder = (): string => path.join(dataFolder(), "listening");
/** A file as it was uploaded. */
export const originalPath = (hash: string): string => under("files", hash);
/** The decoded samples of a file, for listening; see `listeningCopy.ts`. */
export const listeningPath = (hash: string): string => under("listening", hash, ".pcm");

/** The sound of a part that the lens has lifted out of a file. */
export const lensPath = (hash: string, part: LensPart): string => under("listening", hash, `.${part}.pcm`);

const bundle = (name: string) => path.join(/* turbopackIgnore: true */ process.cwd(), "dist", name);
export const decodingProcessFile = (): string => bundle("decoding.mjs");
export const computeThreadFile = (): string => bundle("compute.mjs");
export const migrationsFolder = (): string => path.join(/* turbopackIgnore: true */ process.cwd(), "drizzle");

/** A real server on a data folder of its own, for what attacks it and what measures it. */
import { spawn, type ChildProcess } from "node:child_process";
import { mkdtemp, readdir, readFile, rm } from "node:fs/promises";
import { createServer } from "node:net";
import { tmpdir } from "node:os";
import path from "node:path";
import { createClient } from "@libsql/client";
import { lensFileOf } from "@/server/storage/lifts";

export interface TestedServer {
  address: string;
  folder: string;
  process: ChildProcess;
  /** What it has written to its log. */
  log(): string;
  /** Ends it as hard as can be. */
  kill(): Promise<void>;
}

const freePort = (): Promise<number> =>
  new Promise((resolve) => {
    const probe = createServer().listen(0, "127.0.0.1", () => {
      const { port } = probe.address() as { port: number };
      probe.close(() => resolve(port));
    });
  });

export const newDataFolder = (): Promise<string> => mkdtemp(path.join(tmpdir(), "plain-mirror-robust-"));
export const removeDataFolder = (folder: string): Promise<void> =>
  rm(folder, { recursive: true, force: true });

/**
 * Starts the built application on a data folder and waits until it answers.
 *
 * @param variables of its environment.
 */
export async function startServer(
  folder: string,
  variables: Record<string, string> = {},
): Promise<TestedServer> {
  const port = await freePort();
  const address = `http://127.0.0.1:${port}`;
  let log = "";
  const child = spawn(
    process.execPath,
    ["node_modules/next/dist/bin/next", "start", "-H", "127.0.0.1", "-p", `${port}`],
    {
      env: {
        ...process.env,
        NODE_ENV: "production",
        PLAIN_MIRROR_DATA: folder,
        NEXT_TELEMETRY_DISABLED: "1",
        ...variables,
      },
      stdio: ["ignore", "pipe", "pipe"],
    },
  );
  const keep = (text: Buffer) => {
    log = (log + text.toString()).slice(-20_000);
  };
  child.stdout.on("data", keep);
  child.stderr.on("data", keep);
  const gone = new Promise<void>((resolve) => child.once("exit", () => resolve()));
  for (let tries = 0; ; tries++) {
    if (child.exitCode !== null || tries > 300) throw new Error(`the server did not start: ${log}`);
    const answer = await fetch(address).catch(() => null);
    if (answer?.ok) break;
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
  return {
    address,
    folder,
    process: child,
    log: () => log,
    async kill() {
      child.kill("SIGKILL");
      await gone;
    },
  };
}

/** Sends something that changes, as a page of the server does. */
export const ask = (
  { address }: Pick<TestedServer, "address">,
  method: string,
  where: string,
  body?: BodyInit,
  headers: Record<string, string> = {},
): Promise<Response> =>
  fetch(address + where, {
    method,
    headers: { origin: address, ...headers },
    ...(body === undefined ? {} : { body }),
  });

/** Rows of the database of a data folder, read beside the server. */
export async function rowsOf(folder: string, sql: string): Promise<Record<string, unknown>[]> {
  const client = createClient({ url: `file:${path.join(folder, "plain-mirror.db")}` });
  try {
    await client.execute("PRAGMA busy_timeout = 5000");
    return (await client.execute(sql)).rows as unknown as Record<string, unknown>[];
  } finally {
    client.close();
  }
}

/** Waits until no job waits or runs; gives those that still do when the time is over. */
export async function untilIdle(folder: string, seconds: number): Promise<Record<string, unknown>[]> {
  const end = Date.now() + 1000 * seconds;
  for (;;) {
    const open = await rowsOf(
      folder,
      "SELECT kind, subject, state FROM jobs WHERE state IN ('queued', 'running')",
    );
    if (open.length === 0 || Date.now() > end) return open;
    await new Promise((resolve) => setTimeout(resolve, 200));
  }
}

/** Files in the data folder that the database does not know, and rows whose file is missing. */
export async function straysIn(folder: string): Promise<string[]> {
  const known = new Set((await rowsOf(folder, "SELECT hash FROM files")).map(({ hash }) => String(hash)));
  const list = (name: string) => readdir(path.join(folder, name));
  const kept = await list("files");
  return [
    ...(await list("incoming")).map((name) => `incoming/${name}`),
    ...kept.filter((name) => !known.has(name)).map((name) => `files/${name}`),
    ...(await list("listening"))
      .filter((name) => !known.has(lensFileOf(name)?.hash ?? name.replace(/\.pcm$/, "")))
      .map((name) => `listening/${name}`),
    ...[...known].filter((hash) => !kept.includes(hash)).map((hash) => `missing: files/${hash}`),
  ];
}

/** Resident memory of a process and of those it has started, megabytes; where the system tells. */
export async function memoryOf(pid: number): Promise<{ own: number; children: number[] }> {
  const megabytes = async (id: number | string) => {
    const text = await readFile(`/proc/${id}/statm`, "utf8").catch(() => "0 0");
    return (Number(text.split(" ")[1]) * 4096) / 1048576;
  };
  const children: number[] = [];
  // Each thread has those that it has started.
  for (const thread of await readdir(`/proc/${pid}/task`).catch(() => [])) {
    const started = await readFile(`/proc/${pid}/task/${thread}/children`, "utf8").catch(() => "");
    for (const id of started.split(" ")) if (id !== "") children.push(await megabytes(id));
  }
  return { own: await megabytes(pid), children };
}

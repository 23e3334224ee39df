/** All parts of the benchmark, each in a process of its own. */
import { spawn } from "node:child_process";
import { mkdtemp, open, readFile, rm } from "node:fs/promises";
import { tmpdir } from "node:os";
import path from "node:path";

const sideBySide = 2;

/** Runs a part; its output is printed when it is through, so that those of two do not mix. */
async function run(name: string, args: readonly string[], folder: string): Promise<boolean> {
  const begun = Date.now();
  const file = path.join(folder, `${name}.txt`);
  const out = await open(file, "w");
  const child = spawn("npx", ["tsx", "bench/run.ts", "--only", name, ...args], {
    stdio: ["ignore", out.fd, out.fd],
  });
  const code = await new Promise<number | null>((resolve) => {
    child.once("exit", resolve);
    child.once("error", () => resolve(null));
  });
  await out.close();
  console.log(await readFile(file, "utf8"));
  console.log(`${name}: ${((Date.now() - begun) / 60_000).toFixed(1)} min${code === 0 ? "" : ", failed"}\n`);
  return code === 0;
}

/**
 * @param beside parts that may run side by side, the longest first.
 * @param alone those that are run afterwards, one by one.
 * @returns how many failed.
 */
export async function runAll(
  beside: readonly string[],
  alone: readonly string[],
  args: readonly string[],
): Promise<number> {
  const begun = Date.now();
  const folder = await mkdtemp(path.join(tmpdir(), "bench-"));
  const waiting = [...beside];
  let failed = 0;
  const work = async () => {
    for (let name = waiting.shift(); name; name = waiting.shift())
      if (!(await run(name, args, folder))) failed++;
  };
  await Promise.all(Array.from({ length: sideBySide }, work));
  for (const name of alone) if (!(await run(name, args, folder))) failed++;
  await rm(folder, { recursive: true });
  console.log(`All parts: ${((Date.now() - begun) / 60_000).toFixed(1)} min`);
  return failed;
}

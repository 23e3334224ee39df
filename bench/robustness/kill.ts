/**
 * `npm run kill [-- --kills 30 --seed 1]`: a server that is killed hard while files arrive and are
 * analysed, and started again. What was acknowledged must be there, once, and every job must end.
 */
import { parseArgs } from "node:util";
import { writeWav } from "@/core/formats/wav";
import { Source } from "./mutate";
import {
  newDataFolder,
  removeDataFolder,
  rowsOf,
  startServer,
  straysIn,
  untilIdle,
  type TestedServer,
} from "./server";

const { values } = parseArgs({
  options: { kills: { type: "string", default: "30" }, seed: { type: "string", default: "1" } },
});
const kills = Number(values.kills);
const source = new Source(Number(values.seed));

const piece = (number: number) =>
  writeWav(
    [
      Float32Array.from(
        { length: 22050 * 5 },
        (_, i) => (i % 11025 < 500 ? 0.5 : 0.02) * Math.sin(i * (0.02 + number * 1e-4)),
      ),
    ],
    22050,
  );

const folder = await newDataFolder();
let server: TestedServer = await startServer(folder);
const made = await fetch(`${server.address}/api/studies?name=reference.wav`, {
  method: "PUT",
  headers: { origin: server.address },
  body: new Blob([piece(0)]),
});
const { studyId } = (await made.json()) as { studyId: string };
/** What the server has said is there: items by their file's number, and edits by their label. */
const acknowledged = { items: new Map<number, string>(), edits: [] as string[] };
let number = 1;

/** Sends files and edits until the server is gone. */
async function send(to: TestedServer): Promise<void> {
  for (;;) {
    const own = number++;
    const address = `${to.address}/api/studies/${studyId}`;
    try {
      const added = await fetch(`${address}/items?role=version&name=v${own}.wav`, {
        method: "PUT",
        headers: { origin: to.address },
        body: new Blob([piece(own)]),
      });
      if (!added.ok) return;
      const { itemId } = (await added.json()) as { itemId: string };
      acknowledged.items.set(own, itemId);
      const label = `note ${own}`;
      const patch = [{ path: ["items", itemId, "note"], from: "", to: label }];
      const edited = await fetch(`${address}/edits`, {
        method: "POST",
        headers: { origin: to.address, "content-type": "application/json" },
        body: JSON.stringify({ edits: [{ label, patch }] }),
      });
      if (!edited.ok) return;
      await edited.json();
      acknowledged.edits.push(label);
    } catch {
      return;
    }
  }
}

for (let i = 0; i < kills; i++) {
  const sending = [send(server), send(server)];
  await new Promise((resolve) => setTimeout(resolve, 100 + source.below(1800)));
  await server.kill();
  await Promise.all(sending);
  server = await startServer(folder);
}

const open = await untilIdle(folder, 600);
const items = await rowsOf(
  folder,
  "SELECT id, note, number, file_hash FROM items WHERE role = 'version' AND removed_at IS NULL",
);
const ids = new Set(items.map(({ id }) => String(id)));
const notes = new Set(items.map(({ note }) => String(note)));
const jobs = await rowsOf(folder, "SELECT state, count(*) AS n FROM jobs GROUP BY state");
const strays = await straysIn(folder);
const problems = [
  ...[...acknowledged.items]
    .filter(([, id]) => !ids.has(id))
    .map(([own]) => `version ${own} was acknowledged and is lost`),
  ...acknowledged.edits
    .filter((label) => !notes.has(label))
    .map((label) => `edit “${label}” was acknowledged and is lost`),
  ...(new Set(items.map(({ file_hash }) => file_hash)).size === items.length
    ? []
    : ["a file is there twice"]),
  ...(new Set(items.map(({ number: own }) => own)).size === items.length ? [] : ["a number was given twice"]),
  ...open.map((job) => `a job does not end: ${JSON.stringify(job)}`),
  ...jobs.filter(({ state }) => state === "failed").map(({ n }) => `${String(n)} jobs failed`),
  ...strays.map((name) => `stray ${name}`),
];
console.log(
  `${kills} kills; ${acknowledged.items.size} versions and ${acknowledged.edits.length} edits acknowledged, ${items.length} versions there`,
);
problems.forEach((problem) => console.error(`✗ ${problem}`));
await server.kill();
await removeDataFolder(folder);
const checked = acknowledged.items.size + acknowledged.edits.length + 4;
console.log(`\n${checked - problems.length} passed, ${problems.length} failed`);
process.exit(problems.length === 0 ? 0 : 1);

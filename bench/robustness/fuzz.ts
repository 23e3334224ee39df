/**
 * `npm run fuzz [-- --files 1000 --requests all --seed 1 --seconds 10]`: broken files and broken requests against a real server.
 * Every one must be taken or refused with a sentence in ten seconds, none may break a page, and
 * nothing may be left behind. Ends with `N passed, N failed`.
 */
import { parseArgs } from "node:util";
import { z } from "zod";
import { writeWav } from "@/core/formats/wav";
import { brokenFile, Source } from "./mutate";
import { requestCases } from "./requests";
import { ask, memoryOf, newDataFolder, removeDataFolder, startServer, straysIn, untilIdle } from "./server";

const { values } = parseArgs({
  options: {
    files: { type: "string", default: "1000" },
    seed: { type: "string", default: "1" },
    requests: { type: "string", default: "all" },
    seconds: { type: "string", default: "10" },
  },
});
const count = Number(values.files);
const seed = Number(values.seed);
/** Longest time for an answer; more where other work goes on beside. */
const mostSeconds = Number(values.seconds);
/** Files of one study. */
const perStudy = 25;
const views = ["overview", "grid", "harmony", "sections", "drums", "elements", "versions"];

const refusalSchema = z.object({
  refusal: z.object({ code: z.string(), sentence: z.string().regex(/^[^]+\.$/) }),
});

const failures: string[] = [];
let passed = 0;
const check = (isRight: boolean, what: string) => {
  if (isRight) passed++;
  else {
    failures.push(what);
    console.error(`✗ ${what}`);
  }
};

const folder = await newDataFolder();
const server = await startServer(folder);
const most = { server: 0, decoding: 0 };
const watch = setInterval(() => {
  void memoryOf(server.process.pid!).then(({ own, children }) => {
    most.server = Math.max(most.server, own);
    most.decoding = Math.max(most.decoding, ...children);
  });
}, 200);

const sane = (from: number) =>
  writeWav(
    [
      Float32Array.from(
        { length: 66150 },
        (_, i) => (i % 11025 < 400 ? 0.5 : 0.01) * Math.sin(i * (0.03 + from * 1e-4)),
      ),
    ],
    22050,
  );

async function newStudy(number: number): Promise<string> {
  const made = await ask(server, "PUT", `/api/studies?name=sane-${number}.wav`, new Blob([sane(number)]));
  return ((await made.json()) as { studyId: string }).studyId;
}

const studies: string[] = [];
const kinds = { taken: 0, refused: 0 };
let slowest = 0;
const next = { file: 0 };

async function uploadFiles(): Promise<void> {
  while (next.file < count) {
    const number = next.file++;
    const studyId = (studies[Math.floor(number / perStudy)] ??= await newStudy(number));
    const { name, bytes } = brokenFile(seed, number);
    // Every fourth is offered as a sound for the drums.
    const role = number % 4 === 3 ? "candidate" : "version";
    const begun = Date.now();
    const leaving = AbortSignal.timeout(60_000);
    try {
      const answer = await fetch(
        `${server.address}/api/studies/${studyId}/items?role=${role}&name=${encodeURIComponent(name)}`,
        { method: "PUT", headers: { origin: server.address }, body: new Blob([bytes]), signal: leaving },
      );
      const seconds = (Date.now() - begun) / 1000;
      slowest = Math.max(slowest, seconds);
      const body: unknown = await answer.json().catch(() => null);
      const isRefused = refusalSchema.safeParse(body).success;
      if (answer.ok) kinds.taken++;
      else kinds.refused++;
      check(
        (answer.ok || (answer.status < 500 && isRefused)) && seconds <= mostSeconds,
        `${name}: ${answer.status} after ${seconds.toFixed(1)} s ${answer.ok ? "" : JSON.stringify(body)}`,
      );
    } catch (error) {
      check(false, `${name}: no answer (${String(error)})`);
    }
  }
}

// Two at once, as from two tabs.
studies.push(await newStudy(0));
await Promise.all([uploadFiles(), uploadFiles()]);
console.log(`${kinds.taken} files taken, ${kinds.refused} refused; slowest answer ${slowest.toFixed(1)} s`);

const open = await untilIdle(folder, 300 + count);
check(open.length === 0, `jobs that do not end: ${JSON.stringify(open.slice(0, 3))}`);
check((await fetch(server.address)).status === 200, "the list of studies is broken");
for (const studyId of studies) {
  for (const view of views) {
    const page = await fetch(`${server.address}/studies/${studyId}/${view}`);
    const text = await page.text();
    const isWhole =
      page.status === 200 &&
      !text.includes("can&#x27;t be read") &&
      !/NaN|Infinity/.test(text.replace(/<script[^]*?<\/script>/g, ""));
    check(isWhole, `view ${view} of study ${studyId}: ${page.status}`);
  }
}

const cases = await requestCases(server, new Source(seed));
/** All, or so many of them, evenly taken. */
const wanted = Math.min(cases.length, Number(values.requests) || cases.length);
const requests = cases.filter(
  (_, i) => Math.floor((i * wanted) / cases.length) !== Math.floor(((i - 1) * wanted) / cases.length),
);
for (const { name, send } of requests) {
  const begun = Date.now();
  // A kept connection may be closed by the server just as it is used again; a server that is gone answers neither.
  const answer = await send()
    .catch(() => send())
    .catch((error: unknown) => new Response(String(error), { status: 599 }));
  const seconds = (Date.now() - begun) / 1000;
  await answer.body?.cancel();
  check(
    answer.status < 500 && seconds <= mostSeconds,
    `request ${name}: ${answer.status} after ${seconds.toFixed(1)} s`,
  );
}
console.log(`${requests.length} requests with values out of range, wrong types, huge counts and foreign ids`);
check((await fetch(server.address)).status === 200, "the list of studies is broken after the requests");
for (const studyId of studies.slice(0, 2)) {
  for (const view of views)
    check(
      (await fetch(`${server.address}/studies/${studyId}/${view}`)).status === 200,
      `view ${view} after the requests`,
    );
}
await untilIdle(folder, 60);
const strays = await straysIn(folder);
check(strays.length === 0, `strays: ${strays.slice(0, 5).join(", ")}`);

clearInterval(watch);
console.log(
  `most memory: server ${most.server.toFixed(0)} MB, decoding process ${most.decoding.toFixed(0)} MB (bound 1200 MB while checking, 3600 MB while analysing)`,
);
check(most.decoding < 3700, "a decoding process passed its bound");
await server.kill();
if (failures.length > 0) console.error(server.log().slice(-3000));
await removeDataFolder(folder);
console.log(`\n${passed} passed, ${failures.length} failed`);
process.exit(failures.length === 0 ? 0 : 1);

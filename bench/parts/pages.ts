/** How quickly pages, edits and uploads are answered, in the built application with a real browser. */
import { readFile } from "node:fs/promises";
import { chromium, type Browser, type Page } from "@playwright/test";
import { writeWav } from "@/core/formats/wav";
import { demoMusic } from "@/demo/music";
import { decodeFile } from "@/server/decoding/decode";
import {
  ask,
  memoryOf,
  newDataFolder,
  removeDataFolder,
  startServer,
  untilIdle,
  type TestedServer,
} from "../robustness/server";
import { median, quantile, table } from "../tables";
import type { Sections } from "./part";

const views = [
  "overview",
  "grid",
  "harmony",
  "sections",
  "drums",
  "lowend",
  "tone",
  "loudness",
  "stereo",
  "elements",
  "yardstick",
  "versions",
] as const;
/** Requests of a page whose time counts, after some that do not. */
const counted = 15;
const warmUps = 10;
const bigStudy = { versions: 20, elements: 12, stems: 8, yardstick: 30 };
const uploads = 20;
const excerptSeconds = 8;
/** Of stems and of the tracks of a yardstick, of which nothing is shown over time. */
const sideSeconds = 5;

const wait = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));
const ms = (value: number) => value.toFixed(0);

async function put(server: TestedServer, where: string, bytes: Uint8Array): Promise<Record<string, string>> {
  const answer = await ask(server, "PUT", where, new Blob([bytes as Uint8Array<ArrayBuffer>]));
  if (!answer.ok) throw new Error(`${where}: ${await answer.text()}`);
  return (await answer.json()) as Record<string, string>;
}

/** Milliseconds until a page has come whole. */
async function pageTime(server: TestedServer, where: string): Promise<number> {
  const begun = performance.now();
  const answer = await fetch(server.address + where);
  await answer.text();
  if (!answer.ok) throw new Error(`${where}: ${answer.status}`);
  return performance.now() - begun;
}

async function pageTimes(server: TestedServer, studyId: string): Promise<Record<string, number[]>> {
  const times: Record<string, number[]> = {};
  for (const view of views) {
    const where = `/studies/${studyId}/${view}`;
    for (let i = 0; i < warmUps; i++) await pageTime(server, where);
    times[view] = [];
    for (let i = 0; i < counted; i++) times[view].push(await pageTime(server, where));
  }
  return times;
}

interface PutStudy {
  studyId: string;
  versions: number;
  /** Tracks out of which parts are to be lifted. */
  toLift: string[];
}

/** The first demo study, as it comes: reference, versions and their match. */
async function demoStudy(server: TestedServer): Promise<PutStudy> {
  const study = (await demoMusic()).find(({ versions }) => versions.length >= 4) ?? (await demoMusic())[0]!;
  const { studyId, itemId } = await put(
    server,
    `/api/studies?name=${encodeURIComponent(study.reference.name)}`,
    await readFile(study.reference.file),
  );
  const toLift = [itemId!];
  const own = study.versions.slice(0, 4);
  for (const { file, name } of own) {
    const version = await put(
      server,
      `/api/studies/${studyId}/items?role=version&name=${encodeURIComponent(name)}`,
      await readFile(file),
    );
    // Views show the newest; of the others no more is shown than a few numbers.
    toLift[1] = version.itemId!;
  }
  return { studyId: studyId!, versions: own.length, toLift };
}

/** A passage of the demo music, as loud as said: each its own file. */
async function excerpts(): Promise<(gain: number, seconds?: number) => Uint8Array> {
  const [study] = await demoMusic();
  const decoded = await decodeFile(study!.reference.file);
  if (!decoded.ok) throw new Error(decoded.refusal.sentence);
  const { channels, sampleRate } = decoded.value.signal;
  const from = 20;
  const cut = channels.map((channel) =>
    channel.slice(from * sampleRate, (from + excerptSeconds) * sampleRate),
  );
  return (gain, seconds = excerptSeconds) =>
    writeWav(
      cut.map((channel) => channel.subarray(0, seconds * sampleRate).map((x) => gain * x)),
      sampleRate,
    );
}

async function largeStudy(
  server: TestedServer,
  excerpt: (gain: number, seconds?: number) => Uint8Array,
): Promise<PutStudy> {
  const { studyId, itemId } = await put(server, "/api/studies?name=large.wav", excerpt(1));
  // Its elements are settled once the reference is heard.
  await untilIdle(server.folder, 300);
  const names = Array.from({ length: 20 }, (_, i) => `e${String(i).padStart(15, "0")}`);
  const page = await (await fetch(`${server.address}/studies/${studyId}/elements`)).text();
  const have = new Set(page.match(/aria-label="Move [^"]+"/g)).size;
  const element = { name: "Extra", fromHz: 100, toHz: 200, state: "in work", note: "", weight: 0.5 };
  const added = await ask(
    server,
    "POST",
    `/api/studies/${studyId}/edits`,
    JSON.stringify({
      edits: names.slice(0, bigStudy.elements - have).map((name, i) => ({
        label: "Element added",
        patch: [
          { path: ["elements", name], to: element },
          { path: ["elementOrder"], at: have + i, from: [], to: [name] },
        ],
      })),
    }),
    { "content-type": "application/json" },
  );
  if (!added.ok) throw new Error(await added.text());
  const items = `/api/studies/${studyId}/items`;
  const putAll = (count: number, query: string, bytes: (i: number) => Uint8Array) =>
    Promise.all(Array.from({ length: count }, (_, i) => put(server, `${items}?${query}${i}.wav`, bytes(i))));
  const versions = await putAll(bigStudy.versions, "role=version&name=v", (i) => excerpt(0.9 - 0.01 * i));
  await putAll(bigStudy.stems, `role=stem&parent=${itemId}&name=s`, (i) =>
    excerpt(0.6 - 0.01 * i, sideSeconds),
  );
  await putAll(bigStudy.yardstick, "role=yardstick&name=y", (i) => excerpt(0.4 - 0.005 * i, sideSeconds));
  return {
    studyId: studyId!,
    versions: versions.length,
    toLift: [itemId!, ...versions.map((version) => version.itemId!)],
  };
}

/** Has parts lifted out of tracks, as somebody does who wants to hear one. */
async function askForLifts(server: TestedServer, itemIds: readonly string[]): Promise<void> {
  for (const itemId of itemIds) await fetch(`${server.address}/api/items/${itemId}/lens?part=kick`);
}

/** Milliseconds from a click on a view's link until its heading is there and drawn. */
async function clickTimes(page: Page, studyId: string): Promise<Record<string, number[]>> {
  const address = (view: string) => `/studies/${studyId}/${view}`;
  await page.goto(address("overview"));
  await wait(1500);
  const times: Record<string, number[]> = Object.fromEntries(views.map((view) => [view, []]));
  for (let round = 0; round < 5; round++) {
    for (const view of [...views.slice(1), views[0]]) {
      const taken = await page.evaluate(
        (where) =>
          new Promise<number>((resolve) => {
            const link = document.querySelector<HTMLAnchorElement>(`.work-list a[href^="${where}"]`)!;
            const before = document.querySelector("main h1")?.textContent;
            const begun = performance.now();
            link.click();
            requestAnimationFrame(function look() {
              const isThere =
                location.pathname === where && document.querySelector("main h1")?.textContent !== before;
              // One frame more: what is in the document then has been painted.
              if (isThere) requestAnimationFrame(() => resolve(performance.now() - begun));
              else if (performance.now() - begun > 20_000) resolve(Infinity);
              else requestAnimationFrame(look);
            });
          }),
        address(view),
      );
      // The first round fetches the code of the views.
      if (round > 0) times[view]!.push(taken);
      await wait(250);
    }
  }
  return times;
}

/** Views whose numbers and curves follow the selection. */
const selecting = ["tone", "loudness", "stereo"] as const;

/** Milliseconds from a press on a section until nothing of the view changes any more. */
async function selectionTimes(page: Page, studyId: string): Promise<Record<string, number[]>> {
  const times: Record<string, number[]> = {};
  for (const view of selecting) {
    await page.goto(`/studies/${studyId}/${view}`);
    await wait(2000);
    times[view] = [];
    for (let i = 0; i < 10; i++) {
      const taken = await page.evaluate(
        (place) =>
          new Promise<number>((resolve) => {
            const sections = [...document.querySelectorAll("button")].filter(({ textContent }) =>
              /^(intro|verse|chorus|bridge|break|drop|outro)/.test(textContent),
            );
            const begun = performance.now();
            let last = 0;
            const watch = new MutationObserver((changes) => {
              // The line at the playhead, which is set by its style alone, tells nothing; it waits for the sound.
              if (changes.every(({ attributeName }) => attributeName === "style")) return;
              // The frame after shows it.
              requestAnimationFrame(() => (last = performance.now() - begun));
            });
            watch.observe(document.querySelector("main")!, {
              subtree: true,
              childList: true,
              characterData: true,
              attributes: true,
            });
            sections[place % sections.length]!.click();
            setTimeout(() => {
              watch.disconnect();
              resolve(last > 0 ? last : Infinity);
            }, 800);
          }),
        i,
      );
      // The first ones fetch what the view needs for the first time.
      if (i > 1) times[view].push(taken);
    }
  }
  return times;
}

interface EditTimes {
  what: string;
  shown: number[];
  requests: number[];
}

/** Presses something, waits until a figure has changed, and counts the requests that follow. */
async function editTimes(page: Page, studyId: string): Promise<EditTimes[]> {
  const sent: string[] = [];
  page.on("request", (request) => {
    const own = new URL(request.url()).pathname;
    if (!/^\/(_next\/static|api\/(curves|audio|events))/.test(own)) sent.push(own);
  });
  const measured = async (
    what: string,
    view: string,
    figure: string,
    field: string,
    values: string[],
    prepare?: () => Promise<void>,
  ): Promise<EditTimes> => {
    await page.goto(`/studies/${studyId}/${view}`);
    await page.locator(figure).first().waitFor();
    await wait(2000);
    await prepare?.();
    const own: EditTimes = { what, shown: [], requests: [] };
    for (let i = 0; i < 6; i++) {
      sent.length = 0;
      const shown = await page.evaluate(
        ({ figure, field, value }) =>
          new Promise<number>((resolve) => {
            const read = () => document.querySelector(figure)?.textContent;
            const before = read();
            const begun = performance.now();
            const input = document.querySelector<HTMLInputElement>(field)!;
            input.focus();
            // As typed: the page hears of it in the way that a browser tells.
            Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value")!.set!.call(input, value);
            input.dispatchEvent(new Event("input", { bubbles: true }));
            input.blur();
            requestAnimationFrame(function look() {
              if (read() !== before) resolve(performance.now() - begun);
              else if (performance.now() - begun > 10_000) resolve(Infinity);
              else requestAnimationFrame(look);
            });
          }),
        { figure, field, value: values[i % 2]! },
      );
      await wait(1500);
      if (i === 0) continue;
      own.shown.push(shown);
      own.requests.push(sent.length);
    }
    return own;
  };
  return [
    await measured(
      "weight of an aspect → match",
      "overview",
      '[data-testid="match"]',
      'input[aria-label="Weight of loudness"]',
      ["0", "3"],
      () => page.getByRole("button", { name: /^Loudness/ }).click(),
    ),
    await measured(
      "tempo of the reference → its figure",
      "grid",
      '[data-testid="reference-bpm"]',
      "aside input[inputmode=decimal]",
      ["100", "101"],
    ),
  ];
}

interface UploadTimes {
  pages: number[];
  seconds: number;
  memory: { before: number; most: number; after: number };
}

/** Files that all come at once, while a page is asked for over and over. */
async function uploadTimes(
  server: TestedServer,
  studyId: string,
  excerpt: (gain: number) => Uint8Array,
): Promise<UploadTimes> {
  const { studyId: own } = await put(server, "/api/studies?name=arrivals.wav", excerpt(0.3));
  await untilIdle(server.folder, 120);
  const files = Array.from({ length: uploads }, (_, i) => excerpt(0.29 - 0.005 * i));
  const memory = async () => (await memoryOf(server.process.pid!)).own;
  const before = await memory();
  let most = before;
  const pages: number[] = [];
  let isOver = false;
  const asking = (async () => {
    while (!isOver) {
      pages.push(await pageTime(server, `/studies/${studyId}/overview`));
      most = Math.max(most, await memory());
      await wait(100);
    }
  })();
  const begun = performance.now();
  await Promise.all(
    files.map((file, i) => put(server, `/api/studies/${own}/items?role=version&name=u${i}.wav`, file)),
  );
  await untilIdle(server.folder, 240);
  const seconds = (performance.now() - begun) / 1000;
  isOver = true;
  await asking;
  return { pages, seconds, memory: { before, most, after: await memory() } };
}

const launch = (): Promise<Browser> =>
  chromium.launch({
    executablePath: process.env.CHROMIUM ?? "/usr/bin/chromium",
    args: ["--no-sandbox", "--disable-gpu", "--disable-background-networking"],
  });

export async function pageSections(): Promise<Sections> {
  const folder = await newDataFolder();
  // Lifting parts out of all would take longer than all that is measured here.
  const server = await startServer(folder, { PLAIN_MIRROR_LENS: "asked" });
  const browser = await launch();
  try {
    const demo = await demoStudy(server);
    const excerpt = await excerpts();
    const big = await largeStudy(server, excerpt);
    await untilIdle(folder, 300);
    await askForLifts(server, [...demo.toLift, ...big.toLift]);
    const open = await untilIdle(folder, 300);
    if (open.length > 0) throw new Error(`not analysed in time: ${JSON.stringify(open)}`);
    const small = await pageTimes(server, demo.studyId);
    const large = await pageTimes(server, big.studyId);
    const page = await browser.newPage({
      viewport: { width: 1280, height: 800 },
      baseURL: server.address,
    });
    // What builds the bench names its functions by this.
    await page.addInitScript("globalThis.__name = (own) => own");
    const clicks = await clickTimes(page, demo.studyId);
    const selections = await selectionTimes(page, demo.studyId);
    const edits = await editTimes(page, demo.studyId);
    const arrived = await uploadTimes(server, demo.studyId, excerpt);
    const pagesTable = table(
      [
        "view",
        `${demo.versions} versions, median ms`,
        "95 % ms",
        `${bigStudy.versions} versions, ${bigStudy.stems} stems, ${bigStudy.yardstick} yardstick tracks, median ms`,
        "95 % ms",
        "click to drawn, median ms",
        "slowest ms",
      ],
      views.map((view) => [
        view,
        ms(median(small[view]!)),
        ms(quantile(small[view]!, 0.95)),
        ms(median(large[view]!)),
        ms(quantile(large[view]!, 0.95)),
        ms(median(clicks[view]!)),
        ms(Math.max(...clicks[view]!)),
      ]),
    );
    const editsTable = table(
      ["edit → figure", "median ms", "slowest ms", "requests, most"],
      edits.map(({ what, shown, requests }) => [
        what,
        ms(median(shown)),
        ms(Math.max(...shown)),
        Math.max(...requests),
      ]),
    );
    return {
      Pages: `Milliseconds until the server has sent a page whole, of ${counted} requests one after the other, after ${warmUps} that do not count; targets: median at most 60 with four versions, 150 with twenty versions, twelve elements and eight stems. Parts are lifted out of the reference and the newest version of the demo, and out of all tracks of the large study. Click to drawn: from the press on a view's link to the frame that shows it, at 1280 × 800 in Chromium; target at most 150 with the demo.

${pagesTable}

From the press on a section to the last change of the view that follows it; target at most 150 with four minutes of music, measured on the demo.

${table(
  ["view", "median ms", "slowest ms"],
  selecting.map((view) => [view, ms(median(selections[view]!)), ms(Math.max(...selections[view]!))]),
)}

One edit: at most three requests, and its figures within 300 ms.

${editsTable}

${uploads} uploads of ${excerptSeconds} seconds at once, while a page is asked for over and over: ${arrived.pages.length} pages, median ${ms(median(arrived.pages))} ms, 95 % within ${ms(quantile(arrived.pages, 0.95))} ms (target 1000), slowest ${ms(Math.max(...arrived.pages))} ms. All had their score after ${arrived.seconds.toFixed(0)} s. Memory of the server: ${ms(arrived.memory.before)} MB before, ${ms(arrived.memory.most)} MB at most, ${ms(arrived.memory.after)} MB afterwards.`,
    };
  } finally {
    await browser.close();
    await server.kill();
    await removeDataFolder(folder);
  }
}

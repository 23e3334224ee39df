import { mkdirSync, writeFileSync } from "node:fs";
import path from "node:path";
import AxeBuilder from "@axe-core/playwright";
import { expect, test as base, type Page } from "@playwright/test";
import { applyBiquad, designBiquad } from "@/core/dsp/biquad";
import { writeWav } from "@/core/formats/wav";
import { readChord } from "@/core/harmony/chords";
import { voicing } from "@/core/harmony/voicing";
import { knownMix } from "@/core/testing/knownMix";
import { clicks, whiteNoise } from "@/core/testing/signals";

/** Reports a page that loses its title for a moment: tabs and screen readers go by it. */
function watchTitle(): void {
  document.addEventListener("DOMContentLoaded", () => {
    let had = document.title !== "";
    new MutationObserver(() => {
      const has = document.title !== "";
      if (had && !has) console.error("The page has lost its title.");
      had = has;
    }).observe(document.head, { childList: true });
  });
}

/**
 * A test fails where its page reports an error: one that nobody caught, a warning of React about what
 * the server sent, or a resource that did not come. Those that belong to the job are named by the test.
 */
export const test = base.extend<{ expectedErrors: RegExp[] }>({
  expectedErrors: [
    async ({ page }, use) => {
      const expected: RegExp[] = [];
      const errors: string[] = [];
      page.on("pageerror", (error) => errors.push(error.message));
      page.on("console", (message) => {
        if (message.type() === "error") errors.push(`${message.text()} ${message.location().url}`);
      });
      await page.addInitScript(watchTitle);
      await use(expected);
      expect(errors.filter((error) => !expected.some((own) => own.test(error)))).toEqual([]);
    },
    { auto: true },
  ],
});

interface Piece {
  seconds?: number;
  bpm?: number;
  gainDb?: number;
  /** A shelf above 3 kHz. */
  brightDb?: number;
  seed?: number;
  /** A chord for each bar in place of the held third, over and over. */
  chords?: string[];
  /** Only the part between two times, in seconds. */
  cut?: [from: number, to: number];
}

/** Bass notes of the bars, in hertz: a loop of eight. */
const bassNotes = [82.4, 110, 98, 73.4, 123.5, 92.5, 110, 65.4];

const rate = 22050;
/** What has been played already, by what it is made of. */
const played = new Map<string, Float32Array>();

/** A made-up beat over a bass line and a held third above it, or over chords. */
function music(seconds: number, bpm: number, chords: readonly string[]): Float32Array {
  const key = JSON.stringify([seconds, bpm, chords]);
  const known = played.get(key);
  if (known) return known;
  const times = Array.from({ length: Math.floor((seconds * bpm) / 60) }, (_, i) => 0.1 + (i * 60) / bpm);
  const samples = clicks(times, seconds, rate).map((x) => 0.6 * x);
  const barStart = (bar: number) => Math.max(0, Math.round((0.1 + (bar * 240) / bpm) * rate));
  for (let bar = 0; barStart(bar) < samples.length; bar++) {
    const name = chords[bar % Math.max(1, chords.length)];
    const pitches = name === undefined ? null : voicing(readChord(name)!);
    const partials: [hertz: number, gain: number][] = pitches
      ? [pitches.bass, ...pitches.notes].flatMap((pitch) => {
          const hertz = 440 * 2 ** ((pitch - 69) / 12);
          return [
            [hertz, 0.05],
            [2 * hertz, 0.02],
          ] as [number, number][];
        })
      : [
          [bassNotes[bar % bassNotes.length]!, 0.08],
          [5 * bassNotes[bar % bassNotes.length]!, 0.03],
        ];
    const end = Math.min(samples.length, barStart(bar + 1));
    for (const [hertz, gain] of partials) {
      const step = (2 * Math.PI * hertz) / rate;
      for (let i = bar === 0 ? 0 : barStart(bar); i < end; i++) samples[i]! += gain * Math.sin(step * i);
    }
  }
  played.set(key, samples);
  return samples;
}

/** Music with noise of its own, as a WAV file's bytes. */
function piece({
  seconds = 12,
  bpm = 118,
  gainDb = 0,
  brightDb = 0,
  seed = 1,
  chords = [],
  cut,
}: Piece = {}): Buffer {
  const common = music(seconds, bpm, chords);
  const gain = 10 ** (gainDb / 20);
  const channels = [seed, seed + 1000].map((own) => {
    const samples = whiteNoise(-32, seconds, rate, own);
    for (let i = 0; i < samples.length; i++) samples[i] = gain * (samples[i]! + common[i]!);
    if (brightDb !== 0) applyBiquad(designBiquad("highShelf", rate, 3000, 0.7, brightDb), samples);
    return cut ? samples.slice(Math.round(cut[0] * rate), Math.round(cut[1] * rate)) : samples;
  });
  return Buffer.from(writeWav(channels, rate));
}

/** A file on disk that goes when the tests are run again: the browser reads it itself. */
export function fileOf(name: string, bytes: Uint8Array | string): string {
  const place = test.info().outputPath(name);
  writeFileSync(place, bytes);
  return place;
}

export const wavFile = (name: string, options?: Piece): string => fileOf(name, piece(options));

/** A mix of drums, bass and chords whose parts are known, with gains of them. */
export function mixFile(
  name: string,
  gains: NonNullable<Parameters<typeof knownMix>[0]>["gains"] = {},
): string {
  const { samples, rate } = knownMix({ beats: 20, gains });
  return fileOf(name, writeWav([samples, samples], rate));
}

/** Begins a study from the home page and waits until its reference is measured. */
export const beginStudy = (page: Page, name: string, options?: Piece): Promise<string> =>
  beginStudyWith(page, wavFile(`${name}.wav`, options));

/** The same with a file of one's own. */
export async function beginStudyWith(page: Page, file: string): Promise<string> {
  await page.goto("/");
  await page.locator('input[aria-label="Choose the reference"]').setInputFiles(file);
  await page.waitForURL(/\/studies\/[0-9a-f]+\/overview/);
  await expect(page.getByRole("heading", { name: "Reference", exact: true, level: 1 })).toBeVisible({
    timeout: 180_000,
  });
  return /studies\/([0-9a-f]+)/.exec(page.url())![1]!;
}

/** Adds versions from the page that is open and waits for the match of the last one. */
export async function addVersions(page: Page, files: string[]): Promise<void> {
  await page.getByLabel(/^Choose (a version|versions)$/).setInputFiles(files);
  await expect(page.getByRole("region", { name: "New files" }).getByText(/Added as version/)).toHaveCount(
    files.length,
    {
      timeout: 180_000,
    },
  );
}

/** Whether this test is the first of all to look at something. */
function isFirstToSee(what: string): boolean {
  const folder = path.join(test.info().project.outputDir, "seen");
  mkdirSync(folder, { recursive: true });
  try {
    writeFileSync(path.join(folder, what), "", { flag: "wx" });
    return true;
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === "EEXIST") return false;
    throw error;
  }
}

/** What stands around every view. */
const frame = [".top-bar", ".work-list", ".strip", ".listening-bar"];

/**
 * Fails where axe finds a serious or critical violation; the inks of a view are looked at once in each theme,
 * and what stands around all of them once, and where a test is about it.
 */
export async function expectAccessible(page: Page, { withFrame = false } = {}): Promise<void> {
  const view = new URL(page.url()).pathname.split("/")[3] ?? "home";
  const isNew = isFirstToSee(view);
  const themes = isNew ? ["light", "dark"] : ["light"];
  const isWhole = withFrame || view === "home" || isFirstToSee("the frame");
  for (const theme of themes) {
    await page.evaluate((name) => {
      document.documentElement.dataset.bsTheme = name;
    }, theme);
    // The structure is the same in both themes; only the inks differ.
    const builder = new AxeBuilder({ page }).options({ resultTypes: ["violations"] }).setLegacyMode();
    if (!isWhole) frame.forEach((part) => builder.exclude(part));
    if (theme === "dark") builder.withRules("color-contrast");
    // Half of all the work of a look.
    else if (!isNew && !isWhole) builder.disableRules("color-contrast");
    const { violations } = await builder.analyze();
    const serious = violations.filter((v) => v.impact === "serious" || v.impact === "critical");
    expect(
      serious.map((v) => `${theme}: ${v.id} ${v.nodes.map((n) => n.target.join(" ")).join(", ")}`),
    ).toEqual([]);
  }
  await page.evaluate(() => {
    document.documentElement.dataset.bsTheme = "light";
  });
}

/** Fails where something stands out of the window sideways; names it. */
export async function expectNoSidewaysScroll(page: Page): Promise<void> {
  const outside = await page.evaluate(() =>
    document.documentElement.scrollWidth <= window.innerWidth
      ? []
      : [...document.querySelectorAll("body *")]
          .filter((element) => element.getBoundingClientRect().right > window.innerWidth + 1)
          .map((element) => element.outerHTML.slice(0, 120)),
  );
  expect(outside).toEqual([]);
}

/** The Tone view in a real browser: suggested moves, heard live, edited, undone, and taken along. */
import { readFile } from "node:fs/promises";
import { expect } from "@playwright/test";
import { responseOf, type EqualiserMove } from "@/core/equaliser";
import { addVersions, beginStudy, expectAccessible, expectNoSidewaysScroll, test, wavFile } from "./helpers";

type Recorded = { filters: BiquadFilterNode[] };

test("moves bring a bright version near, and are heard as they are computed", async ({ page }) => {
  // Keeps every filter of the browser's audio that the page makes.
  await page.addInitScript(() => {
    const own = window as unknown as Recorded;
    own.filters = [];
    const make = BaseAudioContext.prototype.createBiquadFilter;
    BaseAudioContext.prototype.createBiquadFilter = function (this: BaseAudioContext) {
      const node = make.call(this);
      own.filters.push(node);
      return node;
    };
  });
  const study = await beginStudy(page, "Slow Ferry", { seconds: 20 });
  await addVersions(page, [wavFile("bright.wav", { seconds: 20, brightDb: 5 })]);
  await page.getByRole("link", { name: /^Tone/ }).click();
  await expect(page).toHaveURL(new RegExp(`${study}/tone`));
  const moves = page.getByRole("list", { name: "Equaliser moves" });
  await expect(moves.getByText(/Cut \d\.\d dB above [234](\.\d)? kHz/)).toBeVisible();
  const worth = page.getByTestId("moves-worth");
  await expect(worth).toContainText(/from [1-9]\.\d to 0\.\d dB/);
  await expectAccessible(page);
  await expectNoSidewaysScroll(page);

  // Live: what the browser's own filters do, all together, is what the table says.
  await page.getByRole("button", { name: "Play", exact: true }).click();
  await page.evaluate(() => void ((window as unknown as Recorded).filters.length = 0));
  await page.keyboard.press("m");
  await expect(page.getByRole("button", { name: "Moves on" })).toBeVisible();
  await expect
    .poll(() => page.evaluate(() => (window as unknown as Recorded).filters.length))
    .toBeGreaterThan(0);
  // The pieces of this test are of 22.05 kHz.
  const asked = Array.from({ length: 55 }, (_, i) => 40 * 2 ** (i / 7));
  const { heard, sampleRate } = await page.evaluate((frequencies) => {
    const { filters } = window as unknown as Recorded;
    const sum = frequencies.map(() => 0);
    for (const filter of filters) {
      const magnitudes = new Float32Array(frequencies.length);
      filter.getFrequencyResponse(
        Float32Array.from(frequencies),
        magnitudes,
        new Float32Array(frequencies.length),
      );
      magnitudes.forEach((value, i) => (sum[i]! += 20 * Math.log10(value)));
    }
    return { heard: sum, sampleRate: filters[0]!.context.sampleRate };
  }, asked);
  const [download] = await Promise.all([
    page.waitForEvent("download"),
    page.getByRole("button", { name: "CSV" }).click(),
  ]);
  expect(download.suggestedFilename()).toMatch(/equaliser\.csv$/);
  const rows = (await readFile((await download.path())!, "utf8")).trim().split("\r\n").slice(1);
  const types: Record<string, EqualiserMove["type"]> = {
    "low cut": "lowCut",
    "low shelf": "lowShelf",
    peak: "peak",
    "high shelf": "highShelf",
    "high cut": "highCut",
  };
  const table = rows.map((row): EqualiserMove => {
    const [type, hz, gainDb, q] = row.split(",");
    return { type: types[type!]!, hz: Number(hz), gainDb: Number(gainDb), q: Number(q) || Math.SQRT1_2 };
  });
  const computed = responseOf(table, asked, sampleRate);
  asked.forEach((_, i) => expect(Math.abs(heard[i]! - computed[i]!)).toBeLessThan(0.3));

  // The impulse response is of the version's own sample rate.
  const [response] = await Promise.all([
    page.waitForEvent("download"),
    page.getByRole("button", { name: "impulse response" }).click(),
  ]);
  const wav = await readFile((await response.path())!);
  expect(wav.readUInt32LE(24)).toBe(22050);

  // Edited by the keyboard, kept over a reload, undone.
  const span = page.getByRole("button", { name: /^Move 1:/ });
  await span.focus();
  const before = await moves.locator(".title").first().textContent();
  await page.keyboard.press("Shift+ArrowDown");
  await expect(moves.locator(".title").first()).not.toHaveText(before!);
  const edited = (await moves.locator(".title").first().textContent())!;
  await expect(page.getByRole("button", { name: "Suggest again" })).toBeVisible();
  await page.waitForLoadState("networkidle");
  await page.reload();
  await expect(moves.locator(".title").first()).toHaveText(edited);
  await page.keyboard.press("Control+z");
  await expect(moves.locator(".title").first()).toHaveText(before!);

  // The other views of the mix, with the same pair.
  await page.getByRole("link", { name: /^Loudness/ }).click();
  await expect(page.getByRole("row", { name: /^Integrated/ })).toBeVisible();
  await expect(page.getByRole("img", { name: /Short-term and momentary/ })).toBeVisible();
  await expectAccessible(page);
  await page.getByRole("link", { name: /^Stereo/ }).click();
  await expect(page.getByText(/^Correlation .+ the reference/)).toBeVisible();
  await page.getByRole("button", { name: "Hear mono" }).click();
  await expect(page.getByRole("contentinfo").getByText("mono")).toBeVisible();
  await expectAccessible(page);
  await expectNoSidewaysScroll(page);
  await page.getByRole("link", { name: /^Low end/ }).click();
  await expect(page.getByRole("img", { name: /^Low end, reference above the line/ })).toBeVisible();
  await page.getByRole("button", { name: "a beat" }).click();
  await page.getByLabel("Cut-off in hertz").fill("150");
  await expect(page.getByRole("img", { name: /^Typical kick|^Low end/ }).first()).toBeVisible();
  const [line] = await Promise.all([
    page.waitForEvent("download"),
    page.getByRole("button", { name: "yours" }).click(),
  ]);
  expect(line.suggestedFilename()).toMatch(/bass\.mid$/);
  await expectAccessible(page);
  await expectNoSidewaysScroll(page);
});

/** Whole jobs in a real browser against the built application. */
import { readFile } from "node:fs/promises";
import { expect } from "@playwright/test";
import { writeWav } from "@/core/formats/wav";
import { knownMix } from "@/core/testing/knownMix";
import {
  addVersions,
  beginStudy,
  expectAccessible,
  expectNoSidewaysScroll,
  fileOf,
  test,
  wavFile,
} from "./helpers";

test("from two files to a match, and what to do about it", async ({ page }) => {
  await beginStudy(page, "Harbour Lights");
  await expect(page.getByText("118.00 BPM").first()).toBeVisible();
  await expectAccessible(page);

  await addVersions(page, [
    wavFile("take one.wav", { bpm: 120, gainDb: -5 }),
    wavFile("take two.wav", { brightDb: 5 }),
  ]);
  await page.getByLabel("What changed in version 2").fill("tempo right, too bright");
  await page.getByLabel("What changed in version 2").press("Enter");
  await expect(page.getByRole("heading", { name: "Version 2 vs. the reference" })).toBeVisible();

  const match = Number(await page.getByTestId("match").textContent());
  expect(match).toBeGreaterThan(20);
  expect(match).toBeLessThan(97);
  const findings = page.getByRole("list", { name: /What to do/ });
  await expect(findings.getByText(/dB (above|from)/)).toBeVisible();

  await page.keyboard.press("Comma");
  await expect(page.getByRole("heading", { name: "Version 1 vs. the reference" })).toBeVisible();
  await expect(page).toHaveURL(/version=1/);
  await expect(findings.getByText("Too fast")).toBeVisible();
  await expect(findings.getByText(/LU too quiet/)).toBeVisible();

  await page.getByRole("button", { name: /^Tempo/ }).click();
  await expect(page.getByText(/every further 1 % halves it/)).toBeVisible();
  // The tempo is the worst of this version: without its weight the match is better.
  const first = Number(await page.getByTestId("match").textContent());
  await page.getByLabel("Weight of tempo").fill("0");
  await page.getByLabel("Weight of tempo").press("Enter");
  await expect
    .poll(async () => Number(await page.getByTestId("match").textContent()))
    .toBeGreaterThan(first + 0.5);
  await page.keyboard.press("Control+z");
  await expect.poll(async () => Number(await page.getByTestId("match").textContent())).toBe(first);
  await page.keyboard.press("Control+Shift+z");
  await expect
    .poll(async () => Number(await page.getByTestId("match").textContent()))
    .toBeGreaterThan(first + 0.5);
  // On paper it is the same.
  const now = await page.getByTestId("match").textContent();
  await page.getByRole("link", { name: "Report" }).click();
  await expect(page.getByTestId("report-match")).toHaveText(now!);
  await page.getByRole("checkbox", { name: "Drum patterns" }).uncheck();
  await expect(page).toHaveURL(/parts=/);
  await expect(page.getByRole("region", { name: "Drum patterns" })).toHaveCount(0);
  const saved = page.waitForEvent("download");
  await page.getByRole("link", { name: "Markdown" }).click();
  expect(await readFile(await (await saved).path(), "utf8")).toContain(`**Match ${now} of 100**`);
  await expectAccessible(page);
  await expectNoSidewaysScroll(page);
  await page.getByRole("link", { name: /^Tone/ }).click();
  await page.getByRole("button", { name: "1/12 octave" }).click();
  await page.getByText("The same in numbers").click();
  await expect(page.getByRole("cell", { name: /matches|too (loud|quiet)/ }).first()).toBeVisible();
  await expectAccessible(page);
  await expectNoSidewaysScroll(page);
});

test("progress is shown, survives a reload in the middle, and can be cancelled", async ({ page }) => {
  // Long enough to be watched.
  const file = wavFile("Long Pier.wav", { seconds: 100, seed: 50 });
  await page.goto("/");
  await page.locator('input[aria-label="Choose the reference"]').setInputFiles(file);
  await page.waitForURL(/overview/);
  await expect(page.getByRole("progressbar", { name: /Analysis/ }).first()).toBeVisible({ timeout: 20_000 });
  await page.reload();
  await page.getByRole("button", { name: "Cancel" }).click();
  await expect(page.getByText("The analysis was cancelled.").first()).toBeVisible();
  await page.getByRole("button", { name: "Analyse again" }).click();
  await expect(page.getByRole("progressbar", { name: /Analysis/ }).first()).toBeVisible();
  await page.reload();
  await expect(page.getByRole("heading", { name: "Reference", exact: true, level: 1 })).toBeVisible({
    timeout: 120_000,
  });
});

test("a wrong file gets a sentence and leaves nothing behind", async ({ page, expectedErrors }) => {
  expectedErrors.push(/status of 4(15|22).*name=(letter|brief)\.wav/);
  await page.goto("/");
  await page
    .locator('input[aria-label="Choose the reference"]')
    .setInputFiles(fileOf("letter.wav", "Dear friend, there is no music in this letter."));
  await expect(page.getByRole("main").getByRole("alert")).toHaveText(
    /letter\.wav: This is not an audio file that Plain Mirror can read\./,
  );
  await page.reload();
  await expect(
    page
      .getByRole("link", { name: "New study" })
      .or(page.getByRole("heading", { level: 2 }))
      .first(),
  ).toBeVisible();
  await expect(page.getByRole("row", { name: /letter/ })).toHaveCount(0);

  await beginStudy(page, "Slate Roofs", { seed: 100 });
  await page
    .locator('input[type="file"][multiple]')
    .first()
    .setInputFiles([wavFile("brief.wav", { seconds: 0.6 }), wavFile("good.wav", { seed: 101 })]);
  const arrivals = page.getByRole("region", { name: "New files" });
  await expect(arrivals.getByRole("alert")).toHaveText(/only 0\.60 s long/);
  await expect(arrivals.getByText("Added as version 1.")).toBeVisible({ timeout: 60_000 });
  await arrivals.getByRole("button", { name: "Close" }).first().click();
  // The same file again is recognised.
  await page.goto(page.url().replace("/overview", "/versions"));
  await page
    .locator('input[aria-label="Choose versions"]')
    .setInputFiles(wavFile("good copy.wav", { seed: 101 }));
  await expect(page.getByText("This file is already here as version 1. Nothing was added.")).toBeVisible();
});

test("a selection is compared, kept in the address, and let go", async ({ page }) => {
  const id = await beginStudy(page, "Tin Whistle", { seconds: 20, seed: 70 });
  await addVersions(page, [wavFile("v.wav", { seconds: 20, gainDb: -3, seed: 70 })]);
  const strip = page.getByRole("img", { name: /Waveforms/ });
  const box = (await strip.boundingBox())!;
  await page.mouse.move(box.x + box.width * 0.25, box.y + 60);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.5, box.y + 60, { steps: 5 });
  await page.mouse.up();
  await expect(page).toHaveURL(/bars=3-5/);
  await expect(page.getByText("Bars 3–5 of the reference against bars 3–5 of version 1.")).toBeVisible();
  await page.reload();
  await expect(page.getByTestId("selection")).toBeVisible();
  await page.keyboard.press("Escape");
  await expect(page.getByTestId("selection")).toHaveCount(0);
  await page.goto(`/studies/${id}/overview?version=1&bars=2-2`);
  await expect(page.getByText("Bar 2 of the reference against bar 2 of version 1.")).toBeVisible();
});

test("either track plays, stops, seeks and changes sides from the keyboard", async ({ page }) => {
  await beginStudy(page, "Night Ferry", { seconds: 20, seed: 70 });
  await addVersions(page, [wavFile("v.wav", { seconds: 20, gainDb: -3, seed: 70 })]);
  const seconds = async () => {
    const [minutes, rest] = (await page.getByTestId("time").textContent())!.split(":");
    return 60 * Number(minutes) + Number(rest);
  };
  await expect(page.getByRole("button", { name: "Version 1", exact: true })).toBeEnabled({ timeout: 20_000 });
  await page.keyboard.press("Space");
  await expect.poll(seconds).toBeGreaterThan(0.4);
  await expect(page.getByRole("button", { name: "Pause" })).toBeVisible();
  await page.keyboard.press("ArrowRight");
  await page.keyboard.press("ArrowRight");
  await expect.poll(seconds).toBeGreaterThan(4);
  await page.keyboard.press("v");
  await expect(page.getByRole("button", { name: "Version 1", exact: true })).toHaveAttribute(
    "aria-pressed",
    "true",
  );
  const afterFlip = await seconds();
  await expect.poll(seconds).toBeGreaterThan(afterFlip);
  await page.keyboard.press("Space");
  await expect(page.getByRole("button", { name: "Play", exact: true })).toBeVisible();
  await page.waitForTimeout(150);
  const stopped = await seconds();
  await page.waitForTimeout(400);
  expect(await seconds()).toBeCloseTo(stopped, 1);
  const box = (await page.getByRole("img", { name: /Waveforms/ }).boundingBox())!;
  await page.mouse.click(box.x + box.width * 0.75, box.y + 50);
  await expect.poll(seconds).toBeCloseTo(15, 0);
  await expect(page.getByRole("button", { name: /reference −3\.0 dB/ })).toBeVisible();
  // Loops, clicks and ways of listening, from the keyboard and the bar.
  await page.keyboard.press("k");
  await expect(page.getByRole("button", { name: "click: medium" })).toBeVisible();
  await page.getByRole("button", { name: /^monitor/ }).click();
  await page.getByRole("button", { name: "below 100 Hz", exact: true }).click();
  await expect(page.getByRole("button", { name: "monitor: below 100 Hz" })).toBeVisible();
  await page.keyboard.press("Escape");
  await page.getByRole("button", { name: /^speed, pitch/ }).click();
  await page.getByRole("button", { name: "50 %", exact: true }).click();
  await page.keyboard.press("Escape");
  await page.keyboard.press("Home");
  await expect.poll(seconds).toBeLessThan(1);
  const begun = await seconds();
  await page.keyboard.press("Space");
  await expect.poll(seconds, { timeout: 15_000 }).toBeGreaterThan(begun + 0.1);
  const slow = await seconds();
  await page.waitForTimeout(2000);
  const passed = (await seconds()) - slow;
  expect(passed).toBeGreaterThan(0.4);
  expect(passed).toBeLessThan(1.5);
  await expectAccessible(page, { withFrame: true });
});

test("an empty study says what to do, and the shortcuts are listed", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("button", { name: "start with an empty study" }).click();
  await expect(page.getByRole("heading", { name: "Add the reference" })).toBeVisible();
  await expectAccessible(page);
  await page.keyboard.press("?");
  await expect(page.getByRole("dialog", { name: "Keyboard shortcuts" })).toBeVisible();
  await page.keyboard.press("Escape");
  await page
    .locator('input[aria-label="Choose the reference"]')
    .setInputFiles(wavFile("late.wav", { seed: 110 }));
  await expect(page.getByRole("heading", { name: "Reference", exact: true, level: 1 })).toBeVisible({
    timeout: 60_000,
  });
});

test("of files whose names say nothing, it is told by their sound what they are", async ({ page }) => {
  const { samples, parts } = knownMix({ beats: 24 });
  const wavOf = (name: string, mono: Float32Array) => fileOf(name, writeWav([mono, mono], 44100, "int24"));
  await page.goto("/");
  await page.locator('input[aria-label="Choose the reference"]').setInputFiles([
    wavOf(
      "01 dusk.wav",
      samples.map((x) => 0.4 * x),
    ),
    wavOf("02 dusk.wav", parts.snare),
    wavOf("03 dusk.wav", samples),
  ]);
  const question = page.getByRole("dialog", { name: "What are these 3 files?" });
  await expect(question.getByText("Guessed from their names and their sound.")).toBeVisible();
  await expect(question.getByRole("combobox")).toHaveCount(3);
  const roleOf = (name: string) => question.getByLabel(`What ${name} is`);
  await expect(roleOf("01 dusk.wav")).toHaveValue("version");
  await expect(roleOf("02 dusk.wav")).toHaveValue("stem");
  await expect(roleOf("03 dusk.wav")).toHaveValue("reference");
  await expectAccessible(page);
  // What is chosen by hand stands.
  await roleOf("01 dusk.wav").selectOption("reference");
  await expect(roleOf("03 dusk.wav")).toHaveValue("version");
  await question.getByRole("button", { name: "Cancel" }).click();
  await expect(question).toHaveCount(0);
});

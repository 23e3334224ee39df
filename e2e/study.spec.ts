/** Whole jobs in a real browser against the built application. */
import { writeFile } from "node:fs/promises";
import { expect, test } from "@playwright/test";
import { addVersions, beginStudy, expectAccessible, expectNoSidewaysScroll, piece, wavFile } from "./helpers";

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
  await expect(page.getByRole("heading", { name: "Version 2 against the reference" })).toBeVisible();

  const match = Number(await page.getByTestId("match").textContent());
  expect(match).toBeGreaterThan(20);
  expect(match).toBeLessThan(97);
  const findings = page.getByRole("list", { name: /What to do/ });
  await expect(findings.getByText(/dB (above|from)/)).toBeVisible();

  await page.keyboard.press("Comma");
  await expect(page.getByRole("heading", { name: "Version 1 against the reference" })).toBeVisible();
  await expect(page).toHaveURL(/version=1/);
  await expect(findings.getByText("Too fast")).toBeVisible();
  await expect(findings.getByText(/LU too quiet/)).toBeVisible();

  await page.getByRole("button", { name: /^Tempo/ }).click();
  await expect(page.getByText(/every further 1 % halves it/)).toBeVisible();
  await page.getByLabel("Weight in the match").fill("0");
  await expect
    .poll(async () => Number(await page.getByTestId("match").textContent()))
    .toBeGreaterThan(match - 60);
  await page.getByRole("button", { name: "1/12 octave" }).click();
  await page.getByText("The same in numbers").click();
  await expect(page.getByRole("cell", { name: /agrees|too (strong|weak)/ }).first()).toBeVisible();
  await expectAccessible(page);
  await expectNoSidewaysScroll(page);
});

test("progress is shown, survives a reload in the middle, and can be cancelled", async ({
  page,
}, testInfo) => {
  // Ten minutes, from disk: long enough to be watched.
  const file = testInfo.outputPath("Long Pier.wav");
  await writeFile(file, piece({ seconds: 600, seed: 50 }));
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
  await expect(page.getByRole("heading", { name: "The reference, measured" })).toBeVisible({
    timeout: 120_000,
  });
});

test("a wrong file gets a sentence and leaves nothing behind", async ({ page }) => {
  await page.goto("/");
  const before = await page.getByRole("row").count();
  await page.locator('input[aria-label="Choose the reference"]').setInputFiles({
    name: "letter.wav",
    mimeType: "audio/wav",
    buffer: Buffer.from("Dear friend, there is no music in this letter."),
  });
  await expect(page.getByRole("main").getByRole("alert")).toHaveText(
    /letter\.wav: This is not an audio file that Plain Mirror can read\./,
  );
  await page.reload();
  expect(await page.getByRole("row").count()).toBe(before);

  await beginStudy(page, "Slate Roofs", { seed: 60 });
  await page
    .locator('input[type="file"][multiple]')
    .first()
    .setInputFiles([
      { name: "brief.wav", mimeType: "audio/wav", buffer: wavFile("x", { seconds: 0.6 }).buffer },
      wavFile("good.wav", { seed: 61 }),
    ]);
  const arrivals = page.getByRole("region", { name: "Files on their way in" });
  await expect(arrivals.getByRole("alert")).toHaveText(/only 0\.60 s long/);
  await expect(arrivals.getByText("This is version 1.")).toBeVisible({ timeout: 60_000 });
  await arrivals.getByRole("button", { name: "Close" }).first().click();
  // The same file again is recognised.
  await page.goto(page.url().replace("/overview", "/versions"));
  await page
    .locator('input[aria-label="Choose versions"]')
    .setInputFiles(wavFile("good copy.wav", { seed: 61 }));
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
  await beginStudy(page, "Night Ferry", { seconds: 20, seed: 80 });
  await addVersions(page, [wavFile("v.wav", { seconds: 20, gainDb: -3, seed: 80 })]);
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
  await page.getByRole("button", { name: /^listen through/ }).click();
  await page.getByRole("button", { name: "below 100 Hz" }).click();
  await expect(page.getByRole("button", { name: "listen through: below 100 Hz" })).toBeVisible();
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
  await expectAccessible(page);
});

test("elements are changed, ordered, removed and brought back", async ({ page }) => {
  const id = await beginStudy(page, "Clay Pipes", { seed: 90 });
  await addVersions(page, [wavFile("v.wav", { brightDb: 6, seed: 90 })]);
  await page.goto(`/studies/${id}/elements`);
  const row = (name: string) => page.getByRole("row", { name: new RegExp(name) });
  await row("Hats").getByRole("button", { name: "Hats", exact: true }).click();
  const detail = page.getByRole("complementary", { name: "About Hats" });
  await expect(detail.getByText(/dB too strong from 6 kHz/)).toBeVisible();
  await detail.getByLabel("State").selectOption("close enough");
  await expect(page.getByRole("link", { name: /✓ Hats/ })).toBeVisible();
  await detail.getByLabel("Focus from, Hz").fill("20000");
  await detail.getByLabel("to, Hz", { exact: true }).focus();
  await expect(detail.getByText("Must lie above the start.")).toBeVisible();
  await detail.getByLabel("Focus from, Hz").fill("7000");
  await detail.getByLabel("Focus from, Hz").press("Enter");
  await expect(page.getByText("“Hats” was changed.").first()).toBeVisible();

  await page.getByRole("button", { name: "Remove Hats from the list" }).click();
  await expect(row("Hats")).toHaveCount(0);
  await page
    .getByRole("status")
    .getByText("“Hats” was removed.")
    .locator("..")
    .getByRole("button", { name: "Undo" })
    .click();
  await expect(row("Hats")).toHaveCount(1);

  const names = () =>
    page
      .getByRole("row")
      .getByRole("button", { name: /^(?!Move)/ })
      .allTextContents();
  await page.getByRole("button", { name: "Move Kick", exact: true }).focus();
  await page.keyboard.press("Space");
  await page.keyboard.press("ArrowDown");
  await page.waitForTimeout(300);
  await page.keyboard.press("Space");
  await expect.poll(async () => (await names())[0]).toBe("Bass");
  await page.reload();
  await expect.poll(async () => (await names())[0]).toBe("Bass");

  await page.getByRole("button", { name: "Add an element" }).click();
  await expect(row("New element")).toHaveCount(1);
  await expectAccessible(page);
  await expectNoSidewaysScroll(page);
});

test("versions are noted and deleted, a study renamed and deleted, after asking", async ({ page }) => {
  const id = await beginStudy(page, "Wool Market", { seed: 100 });
  await addVersions(page, [wavFile("a.wav", { seed: 101 }), wavFile("b.wav", { seed: 102 })]);
  await page.goto(`/studies/${id}/versions`);
  await page.getByRole("button", { name: "Add a note" }).first().click();
  await page.getByLabel("Note on version 2").fill("more wool");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("button", { name: "more wool" })).toBeVisible();
  await expectAccessible(page);
  await page.getByRole("button", { name: "Delete version 1" }).click();
  await page.getByRole("button", { name: "Delete the version" }).click();
  await expect(page.getByRole("button", { name: "Choose version 1" })).toHaveCount(0);
  await expect(page.getByRole("button", { name: "Choose version 2" })).toBeVisible();

  await page.goto("/");
  await expectAccessible(page);
  await expectNoSidewaysScroll(page);
  await page.getByRole("button", { name: "Rename Wool Market" }).click();
  await page.getByLabel("Name of Wool Market").fill("Wool and Water");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("link", { name: "Wool and Water" })).toBeVisible();
  await page.getByRole("button", { name: "Delete Wool and Water" }).click();
  await expect(page.getByRole("dialog")).toContainText("its one version");
  await page.getByRole("button", { name: "Delete the study" }).click();
  await expect(page.getByRole("link", { name: "Wool and Water" })).toHaveCount(0);
  await page.goto(`/studies/${id}/overview`);
  await expect(page.getByRole("heading", { name: "Nothing is here" })).toBeVisible();
});

test("an empty study says what to do, and the shortcuts are listed", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("button", { name: "begin with an empty study" }).click();
  await expect(page.getByRole("heading", { name: "Bring in the reference" })).toBeVisible();
  await expectAccessible(page);
  await page.keyboard.press("?");
  await expect(page.getByRole("dialog", { name: "Keyboard shortcuts" })).toBeVisible();
  await page.keyboard.press("Escape");
  await page
    .locator('input[aria-label="Choose the reference"]')
    .setInputFiles(wavFile("late.wav", { seed: 110 }));
  await expect(page.getByRole("heading", { name: "The reference, measured" })).toBeVisible({
    timeout: 60_000,
  });
});

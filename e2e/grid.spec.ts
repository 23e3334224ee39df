/** The rebuilder's first hour: the grid seen and corrected, the version lined up, changes that are intended. */
import { expect } from "@playwright/test";
import { addVersions, beginStudy, expectAccessible, expectNoSidewaysScroll, test, wavFile } from "./helpers";

const bar = 240 / 118;

test("the grid is read, corrected, undone, and everything follows", async ({ page }) => {
  const id = await beginStudy(page, "Lamp Oil", { seconds: 24, seed: 200 });
  await addVersions(page, [wavFile("v.wav", { seconds: 24, bpm: 124, seed: 200 })]);
  await page.goto(`/studies/${id}/grid`);
  await expect(page.getByTestId("reference-bpm")).toHaveText("118.00");
  await expect(page.getByTestId("version-bpm")).toHaveText("124.00");
  await expect(page.getByText("+6.00 BPM, +5.08 %")).toBeVisible();
  await expectAccessible(page);
  await expectNoSidewaysScroll(page);

  const aside = page.getByRole("complementary", { name: "Corrections" });
  await aside.getByRole("button", { name: "10 ms later" }).click();
  await expect(aside.getByText("Nudge, ms (+10 so far)")).toBeVisible();
  await aside.getByRole("button", { name: /59\.00/ }).click();
  await expect(page.getByTestId("reference-bpm")).toHaveText("59.00");
  await expect(page.getByRole("button", { name: "Reference 59.00 BPM" })).toBeVisible();
  await page.getByRole("button", { name: "Undo", exact: true }).first().click();
  await expect(page.getByTestId("reference-bpm")).toHaveText("118.00");
  await aside.getByLabel("Tempo, BPM", { exact: true }).fill("7");
  await aside.getByLabel("Tempo, BPM", { exact: true }).press("Enter");
  await expect(aside.getByRole("alert")).toHaveText("From 20 to 400 BPM.");
  await aside.getByLabel("Metre").selectOption("3/4");
  await expect(page.getByRole("row", { name: /Metre 3\/4/ })).toBeVisible();
  await page.reload();
  await expect(page.getByRole("row", { name: /Metre 3\/4/ })).toBeVisible();
  await aside.getByRole("button", { name: "Reset to detected" }).click();
  await expect(page.getByRole("row", { name: /Metre 4\/4 4\/4 the same/ })).toBeVisible();

  // Tapped with the space bar, then sharpened by what is heard.
  await aside.getByRole("button", { name: /Tap/ }).focus();
  for (let i = 0; i < 7; i++) {
    await page.keyboard.press("Space");
    await page.waitForTimeout(500);
  }
  await expect(page.getByText(/Tempo tapped: \d{2,3}\.\d\d BPM/)).toBeVisible({
    timeout: 60_000,
  });

  // The sums that people do by hand.
  await page.getByLabel("From, BPM").fill("118");
  await page.getByLabel("To, BPM").fill("124");
  await expect(page.getByTestId("tempo-sum")).toContainText("105.08 %");
  await expect(page.getByTestId("tempo-sum")).toContainText("+0.86 semitones");
});

test("a tempo that is intended does not lower the match", async ({ page }) => {
  const id = await beginStudy(page, "Brick Lane Hymn", { seconds: 24, seed: 200 });
  await addVersions(page, [wavFile("v.wav", { seconds: 24, bpm: 124, seed: 200 })]);
  const match = async () => Number(await page.getByTestId("match").textContent());
  await page.goto(`/studies/${id}/overview`);
  const before = await match();
  await page.goto(`/studies/${id}/grid`);
  await page.getByRole("button", { name: "Keep 124.00 BPM" }).click();
  await page.getByRole("link", { name: /^Overview/ }).click();
  await expect.poll(match).toBeGreaterThan(before + 5);
  await expect(page.getByText("Too fast")).toHaveCount(0);
});

test("a loop out of the middle is found, shown, and its edges moved", async ({ page }) => {
  const id = await beginStudy(page, "Nine Wells", { seconds: 40, seed: 220 });
  const cut: [number, number] = [0.1 + 8 * bar, 0.1 + 12 * bar];
  await addVersions(page, [wavFile("loop.wav", { seconds: 40, seed: 221, cut })]);
  await page.goto(`/studies/${id}/overview`);
  await expect(page.getByText(/4 of \d+ bars are recreated/)).toBeVisible();
  await expect(page.getByTestId("not-recreated").first()).toBeVisible();
  const edge = page.getByRole("button", { name: /^Last recreated bar/ });
  const name = await edge.getAttribute("aria-label");
  await edge.focus();
  await page.keyboard.press("ArrowLeft");
  await expect(page.getByText(/3 of \d+ bars are recreated/)).toBeVisible();
  expect(await edge.getAttribute("aria-label")).not.toBe(name);
  await page.getByRole("status").getByRole("button", { name: "Undo" }).click();
  await expect(page.getByText(/4 of \d+ bars are recreated/)).toBeVisible();
  // What is not recreated has nothing to compare.
  await page.goto(`/studies/${id}/overview?bars=6-6`);
  await expect(page.getByText(/Bar 6 of the reference: not recreated/)).toBeVisible();
  await expect(page.getByTestId("match")).toHaveText("–");
  // Typed, too.
  await page.goto(`/studies/${id}/grid`);
  await page.getByLabel("Number of bars of passage 1").fill("2");
  await page.getByLabel("Number of bars of passage 1").press("Enter");
  await expect(page.getByText(/2 of \d+ bars are recreated/)).toBeVisible();
  await page.getByRole("button", { name: "Find automatically" }).click();
  await expect(page.getByText(/4 of \d+ bars are recreated/)).toBeVisible();
});

test("a stem is brought, lined up, and moved", async ({ page }) => {
  const id = await beginStudy(page, "Paper Boats", { seconds: 20, seed: 70 });
  await page.goto(`/studies/${id}/versions`);
  await page
    .getByLabel("Choose stems of the reference")
    .setInputFiles(wavFile("voice.wav", { seconds: 20, seed: 70, cut: [1.5, 16] }));
  await expect(page.getByRole("link", { name: "+1500.0 ms" })).toBeVisible({ timeout: 30_000 });
  await page.getByLabel("Element of the stem voice.wav").selectOption("Lead or vocal");
  await page.getByRole("link", { name: "+1500.0 ms" }).click();
  await expect(page.getByRole("heading", { name: "Position in the full track" })).toBeVisible();
  await page.getByLabel("Offset, ms").fill("1490");
  await page.getByLabel("Offset, ms").press("Enter");
  await expect(page.getByText("Stem moved")).toBeVisible();
  await page.goto(`/studies/${id}/versions`);
  await expect(page.getByRole("link", { name: "+1490.0 ms" })).toBeVisible();
  await expect(page.getByLabel("Element of the stem voice.wav")).toHaveValue(/.+/);
  await expectAccessible(page);
  await expectNoSidewaysScroll(page);
});

test("a blind test gives a score and what it means", async ({ page }) => {
  await beginStudy(page, "Salt and Chalk", { seconds: 16, seed: 240 });
  await addVersions(page, [wavFile("v.wav", { seconds: 16, brightDb: 8, seed: 240 })]);
  await page.evaluate(() => {
    let draws = 0;
    crypto.getRandomValues = <T extends ArrayBufferView | null>(array: T): T => {
      if (array instanceof Uint8Array) array[0] = draws++ % 3 === 2 ? 200 : 20;
      return array;
    };
  });
  await page.getByRole("button", { name: /^blind test/ }).click();
  await page.getByRole("button", { name: "Start", exact: true }).click();
  for (let i = 0; i < 10; i++) {
    await expect(page.getByText(`${i + 1} of 10. Which is this?`)).toBeVisible();
    await page.keyboard.press(i % 2 === 0 ? "r" : "v");
  }
  // The sides were drawn by what is set below: reference, reference, version, over and over.
  const drawn = Array.from({ length: 10 }, (_, i) => (i % 3 === 2 ? "v" : "r"));
  const right = drawn.filter((side, i) => side === (i % 2 === 0 ? "r" : "v")).length;
  await expect(page.getByTestId("blind-score")).toHaveText(String(right));
  await expect(page.getByRole("dialog")).toContainText(/[Gg]uess/);
  await page.getByRole("dialog").getByRole("button", { name: "Close" }).click();
  await expect(page.getByRole("dialog")).toHaveCount(0);
});

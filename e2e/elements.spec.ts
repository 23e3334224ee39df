/** Elements lifted out of both mixes, from the press on "only this" to the sound and the numbers. */
import { expect } from "@playwright/test";
import {
  addVersions,
  beginStudyWith,
  expectAccessible,
  expectNoSidewaysScroll,
  mixFile,
  test,
} from "./helpers";

test("an element is heard by itself on both sides, measured, and seen where it plays", async ({
  page,
  expectedErrors,
}) => {
  // Until a part is lifted out its sound is not there.
  expectedErrors.push(/404 .*\/api\/audio\//);
  const id = await beginStudyWith(page, mixFile("lifted.wav"));
  await addVersions(page, [mixFile("lifted v1.wav", { kick: 0.5 })]);
  // Some bars go round, however long lifting takes.
  await page.goto(`/studies/${id}/elements?bars=2-5`);
  const kick = page.getByRole("row", { name: /Kick/ }).first();
  await expect(kick).toContainText("dB", { timeout: 120_000 });

  // Asked for, it is lifted out of both, and the page says how it goes.
  const hear = page.getByRole("group", { name: "Hear Kick" });
  await hear.getByRole("button", { name: "only this" }).click();
  await expect(page.getByRole("contentinfo")).toContainText("kick only");
  await expect(page.getByText(/^Being lifted out of the mix/)).toBeVisible();
  await expect(kick).toContainText(/lens: free by \d+ dB/, { timeout: 180_000 });
  await expect(page.getByText(/^Being lifted out of the mix/)).toBeHidden({ timeout: 60_000 });
  // It plays on: the place moves.
  const place = page.getByTestId("position");
  const before = await place.textContent();
  await expect(place).not.toHaveText(before!);
  await page.getByRole("contentinfo").getByRole("button", { name: "Version 1" }).click();
  const flipped = await place.textContent();
  await expect(place).not.toHaveText(flipped!);
  await hear.getByRole("button", { name: "all but this" }).click();
  await expect(page.getByRole("contentinfo")).toContainText("all but kick");
  // Muted on one side alone, it sounds on the other: the place still moves on both.
  await page.getByRole("group", { name: "Mute Kick" }).getByRole("button", { name: "reference" }).click();
  await expect(page.getByRole("contentinfo")).toContainText("version: all but kick");
  const muted = await place.textContent();
  await expect(place).not.toHaveText(muted!);
  await page.getByRole("button", { name: "Pause" }).click();

  // Half as loud: some dB too quiet, and nothing else of it.
  const aspects = page.getByRole("table", { name: "Aspects of Kick" });
  await expect(aspects.getByRole("row", { name: /^Level/ })).toContainText(/−[567]\.\d dB/);
  await expect(aspects.getByRole("row", { name: /^Where it plays/ })).toContainText("100");
  const lanes = page.getByRole("region", { name: "Where each plays" });
  await lanes
    .getByRole("button", { name: /^Kick in / })
    .first()
    .click();
  await expect(page).not.toHaveURL(/bars=2-5/);
  // A press on a section plays the element in it; there it is said to rest in the version, and no longer.
  await expect(page.getByRole("contentinfo")).toContainText("kick only");
  const here = page.getByRole("group", { name: "Kick in the selected bars" }).getByRole("group", {
    name: "Version 1",
  });
  await here.getByRole("button", { name: "rests" }).click();
  await expect(aspects.getByRole("row", { name: /^Where it plays/ })).toContainText("−100 %");
  await page.keyboard.press("Control+z");
  await expect(aspects.getByRole("row", { name: /^Where it plays/ })).not.toContainText("−100 %");
  await page.getByRole("button", { name: "Pause" }).click();
  await expectAccessible(page);
  await expectNoSidewaysScroll(page);

  // Another part for it, and back.
  await page.getByLabel("Heard through").selectOption("");
  await expect(kick.getByRole("img", { name: "40 Hz to 110 Hz" })).toBeVisible();
  await page.keyboard.press("Control+z");
  await expect(kick).toContainText(/lens: free by/);
});

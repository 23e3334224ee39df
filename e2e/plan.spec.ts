/** The plan of a track: chords and sections read, put right by hand, undone, and taken along. */
import { expect } from "@playwright/test";
import { addVersions, beginStudy, expectAccessible, expectNoSidewaysScroll, test, wavFile } from "./helpers";

const loop = ["Am", "F", "C", "G"];
const sixteen = [...loop, ...loop, ...loop, ...loop];
const seconds = 0.2 + (16 * 240) / 118;

test("chords are read against the reference, put right and undone", async ({ page }) => {
  const id = await beginStudy(page, "Cedar Clock", { seconds, seed: 300, chords: sixteen });
  // Bar 6 has another chord.
  const other = sixteen.map((name, i) => (i === 5 ? "Dm" : name));
  await addVersions(page, [wavFile("v.wav", { seconds, seed: 301, chords: other })]);
  await page.goto(`/studies/${id}/harmony`);
  await expect(page.getByText(/^Both are in/)).toBeVisible();
  await expect(page.getByText(/\d+ % of beats have the same chord; 4 beats differ/)).toBeVisible();
  const chords = page.getByRole("group", { name: "Chords, bar by bar" });
  await expect(
    chords.getByRole("button", { name: "Version, bar 6: D minor, not as in the reference" }),
  ).toBeVisible();
  await expectAccessible(page);
  await expectNoSidewaysScroll(page);

  // A chord in full, renamed, and back.
  await chords.getByRole("button", { name: "Reference, bar 6: F major" }).click();
  const detail = page.getByRole("region", { name: "Chosen chord" });
  await expect(detail.getByText("F major: F A C, steps of 4 and 3 semitones")).toBeVisible();
  const name = detail.getByLabel(/^Rename/);
  await name.fill("purple");
  await name.press("Enter");
  await expect(detail.getByRole("alert")).toHaveText("Unknown chord name.");
  await name.fill("Dm");
  await name.press("Enter");
  await expect(page.getByText("Every recreated chord matches the reference.")).toBeVisible();
  await expect(detail.getByText(/D minor: D F A/)).toBeVisible();
  await page.reload();
  await expect(page.getByText("Every recreated chord matches the reference.")).toBeVisible();
  await page.getByRole("button", { name: "Undo", exact: true }).first().click();
  await expect(page.getByText(/4 beats differ/)).toBeVisible();

  // By the keyboard: on to the next chord, split it, and take that back.
  const first = chords.getByRole("button", { name: /^Reference, bar 1: A minor/ });
  await first.click();
  await first.focus();
  await page.keyboard.press("ArrowRight");
  await expect(
    page.getByRole("region", { name: "Chosen chord" }).getByText("Reference, from 2 : 1, 4 beats"),
  ).toBeVisible();
  await chords.getByRole("button", { name: "Reference, bar 2: F major" }).focus();
  await page.keyboard.press("s");
  await expect(
    page.getByRole("region", { name: "Chosen chord" }).getByText("Reference, from 2 : 1, 2 beats"),
  ).toBeVisible();
  await page.keyboard.press("Control+z");
  await expect(
    page.getByRole("region", { name: "Chosen chord" }).getByText("Reference, from 2 : 1, 4 beats"),
  ).toBeVisible();

  // Arithmetic, and files to take along.
  await expect(page.getByTestId("shift")).toBeVisible();
  await page.getByLabel("Target key").selectOption("F♯ minor");
  await expect(page.getByTestId("shift")).toContainText(
    "+2 semitones or −10, by speed: play it at 112.25 % or 56.12 %.",
  );
  const saving = page.waitForEvent("download");
  await page.getByRole("link", { name: "MIDI" }).click();
  expect((await saving).suggestedFilename()).toBe("Cedar Clock chords and sections.mid");
});

test("sections are named, split, moved and said who plays in them", async ({ page, expectedErrors }) => {
  const id = await beginStudy(page, "Wet Slate", { seconds, seed: 300, chords: sixteen });
  await addVersions(page, [
    wavFile("v.wav", { seconds, seed: 311, chords: sixteen, cut: [0, 0.1 + (8 * 240) / 118] }),
  ]);
  await page.goto(`/studies/${id}/sections`);
  await expect(page.getByRole("group", { name: "Sections of both, bar by bar" })).toBeVisible();
  await expectAccessible(page);
  await expectNoSidewaysScroll(page);
  const table = page.getByRole("region", { name: "Section by section" });
  const rows = table.locator("tbody tr");
  const before = await rows.count();
  await table
    .getByRole("button", { name: /^Split/ })
    .first()
    .click();
  await expect(rows).toHaveCount(before + 1);
  await rows.nth(1).locator("td").first().getByRole("button").click();
  const name = table.getByLabel("Name of section 2");
  await name.fill("lantern part");
  await name.press("Enter");
  await expect(page.getByRole("button", { name: /^Reference: lantern part/ })).toBeVisible();
  // It also stands over the strip.
  await expect(
    page.getByRole("group", { name: "Sections of the reference" }).getByText("lantern part"),
  ).toBeVisible();

  const handle = page.getByRole("button", { name: /^lantern part starts at bar/ });
  const bar = Number(/bar (\d+)/.exec((await handle.getAttribute("aria-label"))!)![1]);
  await handle.focus();
  await page.keyboard.press("ArrowRight");
  await expect(
    page.getByRole("button", { name: `lantern part starts at bar ${bar + 1}; arrow keys move it` }),
  ).toBeVisible();

  // The focus stays with the edge that is moved.
  await expect(
    page.getByRole("button", { name: `lantern part starts at bar ${bar + 1}; arrow keys move it` }),
  ).toBeFocused();

  const cell = page.getByRole("button", { name: /^Effects in lantern part/ });
  await cell.click();
  await expect(
    page.getByRole("button", { name: /^Effects in lantern part: play, set by you/ }),
  ).toBeVisible();
  await page.reload();
  await expect(
    page.getByRole("button", { name: /^Effects in lantern part: play, set by you/ }),
  ).toBeVisible();
  await table.getByRole("button", { name: "Reset to detected" }).click();
  await expect(rows).toHaveCount(before);
  await page.getByRole("button", { name: "Undo", exact: true }).first().click();
  await expect(rows).toHaveCount(before + 1);

  // What the version lacks is said.
  await expect(page.getByText(/missing|partly/).first()).toBeVisible();

  // Annotations from elsewhere take their place, and bad ones change nothing.
  const picker = page.locator('input[aria-label="Annotation file"]');
  expectedErrors.push(/status of 400.*\/annotations/);
  await picker.setInputFiles({ name: "bad.jams", mimeType: "application/json", buffer: Buffer.from("{}") });
  await expect(page.getByText(/This is not a JAMS file/)).toBeVisible();
  const data = [
    { time: 0.1, duration: (4 * 240) / 118, value: "brook", confidence: null },
    { time: 0.1 + (4 * 240) / 118, duration: (12 * 240) / 118, value: "meadow", confidence: null },
  ];
  const jams = JSON.stringify({ annotations: [{ namespace: "segment_open", data }] });
  await picker.setInputFiles({ name: "good.jams", mimeType: "application/json", buffer: Buffer.from(jams) });
  await expect(page.getByText("Imported from good.jams: 2 sections.")).toBeVisible();
  await expect(rows).toHaveCount(2);
  await expect(
    page.getByRole("button", { name: /^Reference: meadow, letter B, 12 bars from bar 5/ }),
  ).toBeVisible();

  // From section to section by the keyboard; the field for files lets go of it first.
  await page.getByRole("heading", { name: "Sections", exact: true }).click();
  const strip = page.getByRole("group", { name: "Sections of the reference" });
  const brook = strip.getByRole("button", { name: "brook" });
  await brook.click();
  // A new selection moves the playhead to its start when it counts.
  await expect(brook).toHaveAttribute("aria-pressed", "true");
  await expect(page.getByTestId("position")).toHaveText("1 : 1.0");
  await page.keyboard.press("PageDown");
  await expect(page.getByTestId("position")).toHaveText("5 : 1.0");
  await page.keyboard.press("PageUp");
  await expect(page.getByTestId("position")).toHaveText("1 : 1.0");
});

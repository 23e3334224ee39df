/** The whole job in a person's order, from an empty study to the report. */
import { mkdtempSync, readFileSync, renameSync, writeFileSync } from "node:fs";
import path from "node:path";
import { expect, type Locator, type Page } from "@playwright/test";
import { addVersions, beginStudy, expectAccessible, expectNoSidewaysScroll, test, wavFile } from "./helpers";

const loop = ["Am", "F", "C", "G"];
const chords = [...loop, ...loop];
const seconds = 0.2 + (8 * 240) / 118;

test("from a reference to a second version that the watched folder brings, and the report", async ({
  page,
}) => {
  const id = await beginStudy(page, "Tin Roof Rain", { seconds, seed: 500, chords });
  // The grid, put right; the sections, named.
  await page.getByRole("link", { name: /^Grid/ }).click();
  const aside = page.getByRole("complementary", { name: "Corrections" });
  await aside.getByRole("button", { name: "10 ms later" }).click();
  await expect(aside.getByText("Nudge, ms (+10 so far)")).toBeVisible();
  await page.keyboard.press("Control+z");
  await page.getByRole("link", { name: /^Sections/ }).click();
  await expect(page.getByRole("heading", { level: 1 })).toBeVisible();
  await page.getByRole("link", { name: /^Drums/ }).click();
  await expect(page.getByRole("heading", { level: 1 })).toBeVisible();

  // A first version, and what to do about it.
  await page.getByRole("link", { name: /^Versions/ }).click();
  await addVersions(page, [wavFile("rain 1.wav", { seconds, seed: 501, chords, brightDb: 9, gainDb: -6 })]);
  await page.getByRole("link", { name: /^Overview/ }).click();
  await expect(page.getByRole("list", { name: /What to do/ }).getByText(/LU too quiet/)).toBeVisible();
  const first = Number(await page.getByTestId("match").textContent());

  // A second one, from the folder that renders go to: written half, then whole.
  const renders = mkdtempSync(path.join(process.env.E2E_FOLDERS!, "renders-"));
  await page.getByRole("link", { name: /^Versions/ }).click();
  await page.getByLabel("Path of the folder").fill(path.join(process.env.E2E_FOLDERS!, "..", ".."));
  await page.getByRole("button", { name: "Watch", exact: true }).click();
  await expect(page.getByRole("alert").getByText(/may not be watched/)).toBeVisible();
  await page.getByRole("button", { name: "Stop watching" }).click();
  await page.getByLabel("Path of the folder").fill(renders);
  await page.getByLabel("Path of the folder").press("Enter");
  await expect(page.getByText("Waiting for the next render.")).toBeVisible();
  const bytes = readFileSync(wavFile("rain 2.wav", { seconds, seed: 502, chords, brightDb: 1 }));
  writeFileSync(path.join(renders, "rain 2.wav"), bytes.subarray(0, bytes.length / 2));
  await expect(page.getByText(/rain 2\.wav: .*unfinished/)).toBeVisible();
  writeFileSync(path.join(renders, "part"), bytes);
  renameSync(path.join(renders, "part"), path.join(renders, "rain 2.wav"));
  const arrivals = page.getByRole("region", { name: "New files" });
  await expect(
    arrivals.getByText(/Added as version 2\. Match \d+, \+\d+ on version 1: .*(tone|loudness) \+/),
  ).toBeVisible({
    timeout: 120_000,
  });
  // The newest was being looked at, so the new one is now.
  await expect(page).toHaveURL(/version=2/);
  await arrivals.getByLabel("What changed in version 2").fill("less bright, louder");
  await arrivals.getByLabel("What changed in version 2").press("Enter");
  await page.getByRole("button", { name: "Star version 2" }).click();
  await page.getByRole("button", { name: "Set a target for the match" }).click();
  await expect(page.getByText(/version 2 has (reached it|\d+ to go)/)).toBeVisible();

  // What it brought, on the page and on paper.
  await page.getByRole("link", { name: /^Overview/ }).click();
  const second = Number(await page.getByTestId("match").textContent());
  expect(second).toBeGreaterThan(first);
  // Held against the first in place of the reference, and back.
  await page.getByRole("button", { name: /^Reference 118\.00 BPM/ }).click();
  await page.getByRole("button", { name: /^version 1/ }).click();
  await expect(page.getByRole("heading", { name: "Version 2 vs. version 1" })).toBeVisible();
  await expect(page.getByRole("note")).toHaveText(/^Version 1 stands in for the reference/);
  await page.getByRole("link", { name: "Back to the reference" }).click();
  await expect(page.getByRole("heading", { name: "Version 2 vs. the reference" })).toBeVisible();
  await page.getByRole("link", { name: "Report" }).click();
  await expect(page.getByTestId("report-match")).toHaveText(String(second));
  await expect(page.getByText("less bright, louder").first()).toBeVisible();
  // All of it is kept.
  await page.goto(`/studies/${id}/versions`);
  await expect(page.getByRole("button", { name: "Star version 2" })).toHaveAttribute("aria-pressed", "true");
  await expect(page.getByRole("spinbutton", { name: "Target" })).toHaveValue("90");

  // Beside tracks of its style.
  await expectAccessible(page);
  await page.getByRole("link", { name: "Yardstick" }).click();
  await expect(page.getByText(/Several tracks of one style show/)).toBeVisible();
  await page
    .getByLabel("Choose tracks")
    .setInputFiles(
      [124, 126, 128].map((bpm) => wavFile(`style ${bpm}.wav`, { seconds: 12, bpm, seed: 510 + bpm })),
    );
  await expect(page.getByText("What 3 tracks of the style are typically like")).toBeVisible({
    timeout: 120_000,
  });
  const unusual = page.getByRole("complementary", { name: "What is unusual" });
  await expect(unusual.getByText(/^Slower than is typical: 118\.0 BPM/).first()).toBeVisible();
  await expectAccessible(page);
  await expectNoSidewaysScroll(page);

  // The whole study, saved and opened again as another one.
  await page.getByRole("link", { name: "Report" }).click();
  const saving = page.waitForEvent("download");
  await page.getByRole("link", { name: "The whole study (zip)" }).click();
  const archive = test.info().outputPath("rain.zip");
  await (await saving).saveAs(archive);
  await page.goto("/");
  await page.getByLabel("Choose the reference").setInputFiles(archive);
  await page.waitForURL(
    (url) => /studies\/[0-9a-f]+\/overview/.test(url.pathname) && !url.pathname.includes(id),
  );
  await expect(page.getByTestId("match")).toHaveText(String(second), { timeout: 120_000 });
});

/** Goes on with Tab, as people without a mouse do, until something has the focus. */
async function tabTo(page: Page, wanted: Locator): Promise<void> {
  await expect(wanted).toBeVisible();
  const hasFocus = () => wanted.evaluate((element) => element === document.activeElement);
  for (let tabs = 0; !(await hasFocus()); tabs++) {
    if (tabs > 300) throw new Error("this can't be reached by Tab");
    await page.keyboard.press("Tab");
  }
}

/** Goes to something and presses it, by keys. */
async function press(page: Page, wanted: Locator, key: "Enter" | " " = "Enter"): Promise<void> {
  await tabTo(page, wanted);
  await page.keyboard.press(key);
}

test("the same by keyboard alone", async ({ page }) => {
  const view = (name: RegExp) => page.getByRole("navigation").getByRole("link", { name });
  const choose = async (button: Locator, file: string) => {
    const opened = page.waitForEvent("filechooser");
    await press(page, button, " ");
    await (await opened).setFiles(file);
  };
  await page.goto("/");
  await choose(
    page.getByRole("button", { name: "Choose the reference" }),
    wavFile("Rope Bridge.wav", { seconds, seed: 500, chords }),
  );
  await page.waitForURL(/\/studies\/[0-9a-f]+\/overview/);
  await expect(page.getByRole("heading", { name: "Reference", exact: true, level: 1 })).toBeVisible({
    timeout: 180_000,
  });

  // The grid, put right and taken back.
  await press(page, view(/^Grid/));
  const aside = page.getByRole("complementary", { name: "Corrections" });
  await press(page, aside.getByRole("button", { name: "10 ms later" }), " ");
  await expect(aside.getByText("Nudge, ms (+10 so far)")).toBeVisible();
  await page.keyboard.press("Control+z");
  await expect(aside.getByText("Nudge, ms (+10 so far)")).toHaveCount(0);

  // A section gets another name.
  await press(page, view(/^Sections/));
  const name = page.getByRole("table").getByRole("cell").first().getByRole("button");
  await press(page, name);
  await page.keyboard.press("Control+a");
  await page.keyboard.type("bridge");
  await page.keyboard.press("Enter");
  await expect(name).toHaveText("bridge");
  await expect(name).toBeFocused();

  // A hit is written in at the playhead, and struck more softly.
  await press(page, view(/^Drums/));
  await tabTo(page, page.getByRole("group", { name: /^Drum hits of bars/ }));
  await page.keyboard.press("a");
  await expect(page.getByText("Hit added").first()).toBeVisible();
  await page.keyboard.press("ArrowRight");
  const velocity = page.getByRole("region", { name: "Selected hit" }).getByLabel("velocity");
  await expect(velocity).toHaveValue("95");
  await page.keyboard.press("ArrowDown");
  await expect(velocity).not.toHaveValue("95");

  // A version, what to do about it, and that something of it is done.
  await press(page, view(/^Versions/));
  await choose(
    page.getByRole("button", { name: "Choose versions" }),
    wavFile("bridge 1.wav", { seconds, seed: 501, chords, brightDb: 9, gainDb: -6 }),
  );
  await expect(page.getByRole("region", { name: "New files" }).getByText(/Added as version 1/)).toBeVisible({
    timeout: 180_000,
  });
  await press(page, view(/^Overview/));
  const findings = page.getByRole("list", { name: /What to do/ });
  await expect(findings.getByText(/LU too quiet/)).toBeVisible();
  const first = Number(await page.getByTestId("match").textContent());
  const quiet = findings.locator("li", { hasText: /LU too quiet/ });
  await press(page, quiet.getByRole("button", { name: /^Set aside/ }));
  await press(page, page.getByRole("button", { name: /^Done/ }));
  await expect(findings.getByText(/LU too quiet/)).toHaveCount(0);

  // The next from the folder that renders go to.
  const renders = mkdtempSync(path.join(process.env.E2E_FOLDERS!, "keys-"));
  await press(page, view(/^Versions/));
  await tabTo(page, page.getByLabel("Path of the folder"));
  await page.keyboard.type(renders);
  await page.keyboard.press("Enter");
  await expect(page.getByText("Waiting for the next render.")).toBeVisible();
  const bytes = readFileSync(wavFile("bridge 2.wav", { seconds, seed: 502, chords, brightDb: 1 }));
  writeFileSync(path.join(renders, "part"), bytes);
  renameSync(path.join(renders, "part"), path.join(renders, "bridge 2.wav"));
  await expect(page).toHaveURL(/version=2/, { timeout: 120_000 });

  // What it brought; heard, flipped and stopped; on paper.
  await press(page, view(/^Overview/));
  await expect(page.getByRole("heading", { name: "Version 2 vs. the reference" })).toBeVisible();
  const second = Number(await page.getByTestId("match").textContent());
  expect(second).toBeGreaterThan(first);
  await expect(page.getByText(/Expected \+\d+, got \+\d+/).first()).toBeVisible();
  await page.keyboard.press("Escape");
  await page.keyboard.press("Home");
  const position = page.getByTestId("position");
  const start = await position.textContent();
  await tabTo(page, page.getByRole("button", { name: "Play" }));
  await page.keyboard.press(" ");
  await expect(position).not.toHaveText(start!);
  await page.keyboard.press(" ");
  await expect(page.getByRole("button", { name: "Play" })).toBeVisible();
  await page.keyboard.press("f");
  await expect(page.getByRole("button", { name: "Version 2", exact: true })).toHaveAttribute(
    "aria-pressed",
    "true",
  );
  await press(page, view(/^Report/));
  await expect(page.getByTestId("report-match")).toHaveText(String(second));
});

/** Drums from the first look to the files: what is heard, what differs, put right, intended, brought in, taken along. */
import { readFile } from "node:fs/promises";
import { Midi } from "@/core/formats/midiFile";
import { expect, type Page } from "@playwright/test";
import { practiceKit, stroke } from "@/core/drums/kit";
import { writeWav } from "@/core/formats/wav";
import { placeHits, type CountedHit } from "@/core/drums";
import { drumMidi } from "@/core/formats/drumMidi";
import { drumsAsWritten, playedDrums, steadyGrid, type Written } from "@/core/testing/drums";
import {
  addVersions,
  beginStudyWith,
  expectAccessible,
  expectNoSidewaysScroll,
  fileOf,
  test,
} from "./helpers";

const grid = steadyGrid(120, 12, 0.2);
const written: Written = {
  kick: ["X...X...X...X..."],
  snare: ["....X.......X..."],
  hat: ["x.o.x.o.x.o.x.o."],
};
const rate = 32000;
const file = (name: string, alter?: (hit: CountedHit, beat: number) => CountedHit | null) => {
  const samples = playedDrums(drumsAsWritten(written, grid, alter ? { alter } : {}), 25, rate, grid);
  return fileOf(name, writeWav([samples, samples], rate, "int16"));
};

test("drums are compared hit by hit, put right, intended, heard and taken along", async ({ page }) => {
  const id = await beginStudyWith(page, file("Tin Lanterns.wav"));
  await addVersions(page, [
    // No kick in the middle of bars 3 and 7; the snare drags.
    file("v.wav", (hit, beat) =>
      hit.voice === "kick" && (beat === 10 || beat === 26)
        ? null
        : hit.voice === "snare"
          ? { ...hit, time: hit.time + 0.018 }
          : hit,
    ),
  ]);
  await page.goto(`/studies/${id}/drums`);
  const findings = page.getByRole("list");
  await expect(page.getByText("Kick: 2 hits missing")).toBeVisible();
  await expect(page.getByText("bar 3 beat 3, bar 7 beat 3")).toBeVisible();
  await expect(page.getByText(/^Snare 1\d ms late$/)).toBeVisible();
  await expectAccessible(page);
  await expectNoSidewaysScroll(page);
  const before = Number(await page.getByTestId("drum-match").textContent());
  expect(before).toBeLessThan(99);

  // Going to a finding shows its bars.
  await page.getByRole("button", { name: /Kick: 2 hits missing/ }).click();
  await expect(page).toHaveURL(/bars=3-4/);
  await expect(page.getByRole("heading", { name: /^Drums, bars 3–4 of/ })).toBeVisible();
  const picture = page.getByRole("group", { name: /^Drum hits of bars 3 to 4/ });
  await expect(picture.getByText(/^Kick missing on bar 3 beat 3$/)).toBeAttached();

  // Said to be intended it no longer counts, and undoing brings it back.
  await page.keyboard.press("Escape");
  await findings
    .locator("li", { hasText: "Kick: 2 hits missing" })
    .getByRole("button", { name: "Intended" })
    .click();
  await expect(page.getByText("Kick: 2 hits missing")).toBeHidden();
  await expect(page.getByText(/Intended differences:/)).toBeVisible();
  await page.getByRole("button", { name: /Kick: fewer hits is not intended/ }).click();
  await expect(page.getByText("Kick: 2 hits missing")).toBeVisible();

  // A hit is chosen, struck otherwise by the keyboard, and that is undone.
  const shown = page.getByRole("group", { name: /^Drum hits of bars/ });
  await shown.focus();
  await page.keyboard.press("ArrowRight");
  const detail = page.getByRole("region", { name: "Selected hit" });
  // The key moved on among the hits, not the playhead.
  await expect(page.getByText("3 : 1.0")).toBeVisible();
  await expect(detail.getByLabel("voice")).toHaveValue(/kick|hat/);
  const velocity = Number(await detail.getByLabel("velocity").inputValue());
  await page.keyboard.press("Shift+ArrowDown");
  await expect(detail.getByLabel("velocity")).not.toHaveValue(String(velocity));
  await expect(detail.getByText("set by hand")).toBeVisible();
  // Keys faster than the page: thirty milliseconds, and still one hit.
  const count = await shown.locator(".hit.reference").count();
  for (let i = 0; i < 6; i++) await page.keyboard.press("Alt+Shift+ArrowRight");
  await expect(page.getByText("Hit moved").first()).toBeVisible();
  await page.waitForTimeout(1500);
  await page.reload();
  await expect(shown.locator(".hit.reference")).toHaveCount(count);
  await shown.focus();
  await page.keyboard.press("ArrowRight");
  await detail.getByLabel("voice").selectOption("tom");
  await expect(shown.getByText("Toms", { exact: true })).toBeVisible();
  await page.getByRole("button", { name: "Undo", exact: true }).first().click();
  await page.getByRole("button", { name: "Reset to detected" }).click();
  await expect(page.getByText("Drums reset to detected")).toBeVisible();

  // A hit is added at the playhead by a key: a snare on the first beat of bar 1.
  await page.keyboard.press("Home");
  await page.getByRole("heading", { name: /^Drums/ }).click();
  await page.keyboard.press("ArrowRight");
  await expect(page.getByTestId("position")).toHaveText("1 : 1.0");
  await shown
    .locator(".hit.reference", { hasText: /Snare, bar/ })
    .first()
    .dispatchEvent("click");
  await shown.focus();
  const all = await shown.locator(".hit.reference").count();
  await page.keyboard.press("a");
  await expect(page.getByText("Hit added").first()).toBeVisible();
  await page.keyboard.press("Control+z");
  await expect(shown.locator(".hit.reference")).toHaveCount(all);

  // Files: out as MIDI and back in as the version's exact pattern.
  const download = page.waitForEvent("download");
  await page.getByRole("link", { name: "MIDI quantised" }).click();
  const saved = await readFile(await (await download).path());
  expect(new Midi(saved).tracks.flatMap(({ notes }) => notes).filter(({ midi }) => midi === 36)).toHaveLength(
    48,
  );
  await page.getByRole("group", { name: "Whose files" }).getByRole("button", { name: "Version 1" }).click();
  const placed = placeHits(drumsAsWritten(written, grid).hits, grid);
  const loop = drumMidi(placed, grid, {
    title: "loop",
    bars: { first: 1, last: 2 },
    timing: "as played",
    sections: [],
  });
  const bring = (name: string, buffer: Buffer) =>
    page.locator('input[aria-label="Drum part"]').setInputFiles({ name, mimeType: "audio/midi", buffer });
  await bring("notes.mid", Buffer.from("no music"));
  await expect(page.getByText("notes.mid: This is not a MIDI file.")).toBeVisible();
  await bring("loop.mid", Buffer.from(loop));
  const dialog = page.getByRole("dialog");
  await expect(dialog.getByText(/28 hits over 2 bars/)).toBeVisible();
  await expect(dialog.getByLabel("repeat to the end")).toBeChecked();
  await dialog.getByRole("button", { name: "Take 28 hits" }).click();
  await expect(page.getByText("Pattern imported from loop.mid")).toBeVisible();
  await expect(page.getByText("Kick: 2 hits missing")).toBeHidden();
  await expect(page.getByText(/^Snare .* ms late$/)).toBeHidden();
  await page.reload();
  await expect(page.getByText("Kick: 2 hits missing")).toBeHidden();

  // Close up: the typical kick of both, measured, and taken along.
  await page.goto(`/studies/${id}/hits`);
  await expect(page.getByTestId("hit-closeness")).toBeVisible();
  const sound = page.waitForEvent("download");
  await page.getByRole("link", { name: "Save as WAV" }).first().click();
  expect((await sound).suggestedFilename()).toMatch(/kick-1.*\.wav$/);
  await expectAccessible(page);
  await expectNoSidewaysScroll(page);

  // The bass lines of both, side by side.
  await page.goto(`/studies/${id}/lowend?look=bass`);
  await expect(page.getByRole("group", { name: /^Bass notes of bars/ })).toBeVisible();
  await expectAccessible(page);
  await expectNoSidewaysScroll(page);
});

/** What goes to the loudspeakers is counted: strokes are buffers that are started. */
const countStrokes = (page: Page) =>
  page.evaluate(() => {
    const counted = window as unknown as { strokes: number };
    counted.strokes = 0;
    const { start } = AudioBufferSourceNode.prototype;
    AudioBufferSourceNode.prototype.start = function (...times) {
      counted.strokes++;
      return start.apply(this, times);
    };
  });
const strokes = (page: Page) => page.evaluate(() => (window as unknown as { strokes: number }).strokes);

test("a pattern is heard on the practice kit, alone; kicks are tried in its place", async ({
  page,
  expectedErrors,
}) => {
  expectedErrors.push(/415/);
  const id = await beginStudyWith(
    page,
    file("Tin Lanterns 2.wav", (hit) => ({ ...hit, velocity: hit.velocity * 0.98 })),
  );
  await page.goto(`/studies/${id}/drums`);
  await countStrokes(page);
  await page.getByRole("group", { name: "Practice kit" }).getByRole("button", { name: "reference" }).click();
  await expect(page.getByRole("button", { name: "Pause" })).toBeVisible();
  await expect.poll(() => strokes(page), { timeout: 15_000 }).toBeGreaterThan(8);
  await page.getByRole("group", { name: "Practice kit" }).getByRole("button", { name: "reference" }).click();
  await page.getByRole("button", { name: "Pause" }).click();

  // Other kicks are offered: ranked, heard in the place of the pattern, and one put to use.
  await page.goto(`/studies/${id}/hits?look=candidates`);
  const kick = (name: string, pitch: number) => {
    const drum = { ...practiceKit.kick, tone: { ...practiceKit.kick.tone, pitch } };
    const sound = stroke(drum, rate, () => 0.5).subarray(0, rate / 2);
    return fileOf(name, writeWav([sound, sound], rate, "int16"));
  };
  await page
    .locator('input[aria-label="Candidates for the kick"]')
    .setInputFiles([kick("far.wav", 75), kick("near.wav", 50), fileOf("no.wav", "words")]);
  await expect(page.getByRole("row", { name: /^near\.wav/ })).toBeVisible();
  await expect(page.getByText(/^This is not an audio file/)).toBeVisible();
  const rows = page.getByRole("table").getByRole("row");
  await expect(rows.nth(1)).toContainText("near.wav");
  await expect(rows.nth(2)).toContainText("far.wav");
  await page.getByRole("button", { name: "near.wav", exact: true }).click();
  await countStrokes(page);
  await page
    .getByRole("group", { name: "Hear it in the pattern" })
    .getByRole("button", { name: "alone" })
    .click();
  await expect.poll(() => strokes(page), { timeout: 15_000 }).toBeGreaterThan(3);
  await page.getByRole("button", { name: "Use it for the kick" }).click();
  await expect(page.getByText("in use", { exact: true })).toBeVisible();
  await expectAccessible(page);
  await expectNoSidewaysScroll(page);
  await page.getByRole("button", { name: "strokes", exact: true }).click();
  await page.getByRole("slider", { name: /^Strokes of the kick, Reference/ }).press("ArrowRight");
  await page.getByRole("button", { name: "Leave it out" }).click();
  await expect(page.getByRole("button", { name: "Let it enter" })).toBeVisible();
  await expectAccessible(page);
  await page.getByRole("link", { name: /^Elements/ }).click();
  await expect(page.getByRole("link", { name: "near.wav" })).toBeVisible();
});

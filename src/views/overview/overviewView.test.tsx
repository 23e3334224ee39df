import type { CoverageSpan } from "@/core/align/coverage";
import { madeUpStudy } from "@/core/testing/study";
import { keyOf, overviewModel, referenceNumbers } from "@/models/overview";
import type { StudyResults } from "@/core/study";
import { matchSituations, situationOf } from "@/core/match";
import { addressBar } from "../testing/navigation";
import { cleanup, fireEvent, openStudy, screen, wholeComparison, within } from "../testing/studio";
import { Overview } from "./Overview";

afterEach(cleanup);

function view(results: StudyResults, nothingRecreated = false) {
  const known = wholeComparison(results);
  const keys = {
    reference: keyOf(results, results.study.reference),
    version: keyOf(results, results.study.versions.at(-1) ?? null),
  };
  const model =
    known &&
    overviewModel(known.reference, known.version, known.compared, {
      nothingRecreated,
      outdated: false,
      keys,
    });
  return <Overview model={model} referenceNumbers={referenceNumbers(results)} />;
}
const open = (address = "overview", study = madeUpStudy()) =>
  openStudy(study, address, (results) => view(results));
const match = () => Number(screen.getByTestId("match").textContent);
const row = (name: string) =>
  [
    ...screen
      .getByRole("button", { name: new RegExp(`^${name}`) })
      .closest("tr")!
      .querySelectorAll("td"),
  ].map((cell) => cell.textContent);

describe("the Overview", () => {
  it("says what is held against what, and aspect by aspect how far apart they are", () => {
    open();
    screen.getByText("All 24 bars of the reference against version 2.");
    expect(row("Tempo").slice(2, 5)).toEqual(["120.00 BPM", "120.00 BPM", "0.00 %"]);
    expect(row("Loudness").slice(1, 5)).toEqual(["integrated", "−14.0 LUFS", "−11.0 LUFS", "+3.0 LU"]);
    expect(row("Harmony").slice(1, 4)).toEqual(["transposition", "0", "0"]);
    // The peak is above the ceiling, which is said but not scored.
    screen.getByText("2.0 dBTP");
  });

  it("puts what is worth most first, and leads to where it is", () => {
    open();
    const list = within(screen.getByRole("list", { name: "What to do, most valuable first" }));
    const worth = list
      .getAllByRole("button")
      .flatMap((own) => own.querySelector(".points")?.textContent ?? [])
      .filter((text) => text !== "check")
      .map(Number);
    expect(worth).toEqual([...worth].sort((a, b) => b - a));
    fireEvent.click(list.getByText("Kick range 3.0 dB too quiet"));
    expect(addressBar.now).toBe("/studies/study1/elements?element=kick");
  });

  it("sets aside what is done, intended or for later, and shows what came of it with the next version", async () => {
    const studio = open("overview?version=1");
    const list = () => within(screen.getByRole("list", { name: /What to do, most valuable/ }));
    const titles = () =>
      list()
        .getAllByRole("listitem")
        .map((own) => own.querySelector(".title")!.textContent!);
    const [first] = titles();
    fireEvent.click(list().getByRole("button", { name: `Set aside: ${first}` }));
    fireEvent.click(screen.getByRole("button", { name: /^Done/ }));
    expect(titles()).not.toContain(first);
    await studio.saved();
    expect(studio.log()).toEqual([`“${first}”: done`]);
    expect(Object.values(studio.results().study.marks)).toEqual([
      expect.objectContaining({ mark: "done", title: first, version: 1 }),
    ]);
    fireEvent.click(screen.getByRole("button", { name: /^v2 / }));
    const effects = within(screen.getByRole("list", { name: "What was done, and what it brought" }));
    expect(effects.getByText(/^Done since v1: /).textContent).toMatch(/Expected \+\d+, got [+−]?\d/);
    fireEvent.click(screen.getByRole("button", { name: /^v1 / }));
    fireEvent.click(screen.getByRole("button", { name: `Back in the list: ${first}` }));
    expect(titles()).toContain(first);
    await studio.saved();
    expect(studio.results().study.marks).toEqual({});
  });

  it("tells how much better the version is than the one before, and where", () => {
    open();
    screen.getByText(/ · \d+ in v1/);
    const since = screen.getByText(/^Since v1:/).textContent;
    expect(since).toMatch(/better in .*harmony/);
    expect(since).toMatch(/worse in .*loudness/);
    fireEvent.click(screen.getByRole("button", { name: /^v1 \d+$/ }));
    expect(addressBar.now).toBe("/studies/study1/overview?version=1");
  });

  it("opens an aspect to where its score comes from, and weighs it: the match follows", async () => {
    const studio = open();
    const before = match();
    fireEvent.click(screen.getByRole("button", { name: /^Tempo/ }));
    screen.getByText(/A gap of up to .* scores 100; every further .* halves it/);
    const field = screen.getByLabelText<HTMLInputElement>("Weight of tempo");
    field.focus();
    fireEvent.change(field, { target: { value: "10" } });
    expect(document.activeElement).toBe(field);
    // At once, before the server knows of it; the list of work too.
    const now = match();
    expect(now).toBeGreaterThan(before);
    expect(screen.getByRole("link", { name: /^Overview/ }).textContent).toBe(`Overview${now}`);
    await studio.saved();
    expect(studio.log()).toEqual(["Weight of tempo set to 10"]);
    expect(match()).toBe(now);
    fireEvent.change(field, { target: { value: "11" } });
    expect(screen.getByRole("alert").textContent).toBe("0 to 10");
    expect(studio.requests).toHaveLength(1);
  });

  it("says that selected bars are not recreated, and what to do", () => {
    openStudy(madeUpStudy(), "overview?version=1&bars=17-20", (results) => view(results, true));
    screen.getByText("Bars 17–20 of the reference: not recreated in version 1.");
    screen.getByText(/^Nothing to compare here\. Select bars you have recreated/);
    expect(screen.getByTestId("match").textContent).toBe("–");
  });

  it("says that a version has nothing to do with the reference, unless bars were set by hand", () => {
    const strange = (coverage: CoverageSpan[] | null) => {
      const results = madeUpStudy({
        versions: 1,
        change: (study) => ({ ...study, versions: study.versions.map((own) => ({ ...own, coverage })) }),
      });
      const { value } = results.alignments.get("track1")!;
      const alignment = { ...value.alignment!, spans: [], related: 0.03 };
      return {
        ...results,
        alignments: new Map([["track1", { current: true, value: { ...value, alignment } }]]),
      };
    };
    open("overview", strange(null));
    screen.getByText(
      /^Version 1 doesn’t seem to recreate the reference: no bars of the two answer each other\./,
    );
    expect(screen.getAllByRole("link", { name: "Grid view" })[0]!.getAttribute("href")).toBe(
      "/studies/study1/grid",
    );
    cleanup();
    open("overview", strange([{ referenceFirst: 1, versionFirst: 1, bars: 4 }]));
    expect(screen.queryByText(/doesn’t seem to recreate/)).toBeNull();
  });

  it("says that other chords take from the match, and how to say that they are intended", async () => {
    const results = madeUpStudy({ versions: 1 });
    const { value } = results.alignments.get("track1")!;
    const under = (harmony: number | null) => ({
      ...results,
      alignments: new Map([
        ["track1", { current: true, value: { ...value, alignment: { ...value.alignment!, harmony } } }],
      ]),
    });
    open("overview", under(0.4));
    screen.getByText(
      /^Version 1 goes through other chords than the reference.* set the weight of Harmony to 0\.$/,
    );
    cleanup();
    for (const harmony of [0.9, null]) {
      open("overview", under(harmony));
      expect(screen.queryByText(/goes through other chords/)).toBeNull();
      cleanup();
    }
  });

  it("says what the match means, with the whole scale behind it", () => {
    open("overview", madeUpStudy({ versions: 1 }));
    const meaning = document.querySelector(".match-scale")!;
    expect(meaning.querySelector("summary")!.textContent).toBe(
      `${situationOf(match()).words.replace(/^./, (letter) => letter.toUpperCase())}.`,
    );
    const rows = within(screen.getByRole("table", { name: "What a match means" })).getAllByRole("row");
    expect(rows).toHaveLength(matchSituations.length);
    expect(rows.filter((row) => row.className === "strong")).toHaveLength(1);
  });

  it("asks for the reference, then for a version", () => {
    open("overview", madeUpStudy({ empty: true }));
    screen.getByRole("region", { name: "Add the reference" });
    cleanup();
    open("overview", madeUpStudy({ versions: 0 }));
    screen.getByRole("region", { name: "Add your first version" });
    const facts = screen.getByRole("region", { name: "The reference" }).textContent;
    expect(facts).toContain("Tempo120.00 BPM");
    expect(facts).toContain("True peak−1.0 dBTP");
  });

  it("shows how far analyses are, stops one, and starts it again", async () => {
    const running = madeUpStudy({
      versions: 1,
      change: (study) => ({
        ...study,
        versions: study.versions.map((own) => ({
          ...own,
          job: { state: "running", message: "Listening for onsets", done: 0.42, refusal: null },
        })),
      }),
    });
    const studio = openStudy(running, "overview", (results) => (
      <Overview model={null} referenceNumbers={referenceNumbers(results)} />
    ));
    screen.getByText("Listening for onsets · 42 %");
    fireEvent.click(screen.getByRole("button", { name: "Cancel" }));
    await studio.saved();
    expect(studio.requests).toEqual(["DELETE /api/items/track1/analysis"]);
    // There is nothing of that name in this server, which is said.
    screen.getByText("There is nothing here.");
  });
});

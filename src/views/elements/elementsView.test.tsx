import type { Covering } from "@/core/lens/covering";
import { madeUpStudy } from "@/core/testing/study";
import { madeUpLens } from "@/core/testing/lens";
import { heardInReference, versionOf } from "@/core/study";
import { elementsModel } from "@/models/elements";
import { addressBar } from "../testing/navigation";
import {
  act,
  cleanup,
  fireEvent,
  openStudy,
  press,
  screen,
  type,
  wholeComparison,
  within,
} from "../testing/studio";
import { Elements } from "./Elements";

afterEach(cleanup);

const open = (address = "elements", study = madeUpStudy()) =>
  openStudy(study, address, (results) => {
    const known = wholeComparison(results);
    const version = versionOf(results.study, null);
    return (
      <Elements
        model={known && version && elementsModel(results, version, known.compared)}
        heard={heardInReference(results)}
      />
    );
  });
const rows = () =>
  [...document.querySelectorAll(".element-row")].map((row) => row.querySelectorAll("td")[1]!.textContent);
const detail = (name: string) => within(screen.getByRole("complementary", { name: `About ${name}` }));
const elementOf = (studio: ReturnType<typeof open>, id: string) =>
  studio.results().study.elements.find((own) => own.id === id)!;
/** Fields are checked a moment after they are left. */
const leave = async (field: HTMLElement, text: string) => {
  await act(async () => {
    type(field, text);
    await new Promise((resolve) => setTimeout(resolve, 0));
  });
};

describe("the Elements view", () => {
  it("gives every element its gaps and match, as the list of work has it", () => {
    open();
    expect(rows()).toEqual(["Kick", "Snare body", "Hats"]);
    const body = [...document.querySelectorAll(".element-row")][1]!;
    const match = body.querySelector("td:last-child")!.textContent;
    expect(screen.getByRole("link", { name: /^Snare body/ }).textContent).toBe(`Snare body${match}`);
    // Its range has 3 dB more at some bands, while the whole is brought to equal loudness.
    expect(Number(match)).toBeLessThan(95);
  });

  it("tells of the chosen element what is off, aspect by aspect", () => {
    open("elements?element=body");
    const table = within(detail("Snare body").getByRole("table", { name: "Aspects of Snare body" }));
    expect(table.getAllByRole("row").map((row) => row.querySelector(".strong")?.textContent)).toEqual([
      undefined,
      "Level",
      "Tone",
    ]);
    table.getByText(/dB relative to the loudness/);
    // Without a lens there is nothing to hear by itself.
    expect(detail("Snare body").queryByText("only this")).toBeNull();
    fireEvent.click(screen.getByRole("button", { name: "Hats" }));
    expect(addressBar.now).toBe("/studies/study1/elements?element=hats");
    detail("Hats");
  });

  it("saves a field as it is left, and only what was changed", async () => {
    const studio = open();
    await leave(detail("Kick").getByLabelText(/^Name/), "Kick low");
    await studio.saved();
    await leave(detail("Kick low").getByLabelText("Weight in the match"), "2");
    await leave(detail("Kick low").getByLabelText("Note"), "longer tail");
    await studio.saved();
    expect(elementOf(studio, "kick")).toMatchObject({
      name: "Kick low",
      weight: 2,
      note: "longer tail",
      toHz: 110,
    });
    expect(studio.log()).toEqual(["“Kick low” changed", "“Kick low” changed", "“Kick low” changed"]);
  });

  it("refuses a range that ends below its start, and a name that is empty", async () => {
    const studio = open();
    await leave(detail("Kick").getByLabelText(/^to, Hz/), "30");
    detail("Kick").getByText("Must be above the start.");
    await leave(detail("Kick").getByLabelText(/^Name/), " ");
    detail("Kick").getByText("Enter a name.");
    expect(studio.requests).toEqual([]);
  });

  it("leaves an element out of the match when it is said so", async () => {
    const studio = open("elements?element=body");
    fireEvent.change(detail("Snare body").getByLabelText("State"), { target: { value: "left out" } });
    await studio.saved();
    expect(Object.keys(studio.results().scores[1]!.elements)).toEqual(["kick", "hats"]);
    detail("Snare body").getByText("of 100, left out");
    expect(screen.getByRole("link", { name: /^Snare body/ }).textContent).toBe("Snare bodyleft out");
  });

  it("keeps a target, says how far it is, and takes nothing that is no score", async () => {
    const studio = open();
    const score = Math.round(studio.results().scores.at(-1)!.elements.kick!);
    const field = () => detail("Kick").getByLabelText(/^Target/);
    await leave(field(), String(score));
    await studio.saved();
    detail("Kick").getByText(`The target of ${score} is reached.`);
    await leave(field(), "100");
    await studio.saved();
    if (score < 100) detail("Kick").getByText(`${100 - score} below the target of 100.`);
    expect(document.querySelector(".element-row td:last-child")!.textContent).toBe(`${score} / 100`);
    await leave(field(), "140");
    detail("Kick").getByText("From 1 to 100, or nothing.");
    await leave(field(), "");
    await studio.saved();
    expect(elementOf(studio, "kick").target).toBeNull();
    expect(detail("Kick").queryByText(/target of/)).toBeNull();
  });

  it("hides an element, which counts all the same, and shows it again", async () => {
    const studio = open("elements?element=body");
    const match = studio.results().scores.at(-1)!.match;
    fireEvent.click(detail("Snare body").getByRole("button", { name: "Hide" }));
    await studio.saved();
    expect(rows()).toEqual(["Kick", "Hats"]);
    expect(screen.queryByRole("link", { name: /^Snare body/ })).toBeNull();
    expect(studio.results().scores.at(-1)!.match).toBe(match);
    fireEvent.click(screen.getByRole("button", { name: "Snare body" }));
    fireEvent.click(detail("Snare body").getByRole("button", { name: "Show in the lists" }));
    await studio.saved();
    expect(rows()).toEqual(["Kick", "Snare body", "Hats"]);
  });

  it("adds an element, which is then chosen, and removes it; undo brings it back in its place", async () => {
    const studio = open();
    fireEvent.click(screen.getByRole("button", { name: "Add an element" }));
    expect(rows()).toEqual(["Kick", "Snare body", "Hats", "New element"]);
    detail("New element");
    await studio.saved();
    fireEvent.click(screen.getByRole("button", { name: "Kick" }));
    fireEvent.click(screen.getByRole("button", { name: "Remove Kick" }));
    expect(rows()).toEqual(["Snare body", "Hats", "New element"]);
    await studio.saved();
    press("z", { ctrlKey: true });
    await studio.saved();
    expect(rows()).toEqual(["Kick", "Snare body", "Hats", "New element"]);
    expect(elementOf(studio, "kick").name).toBe("Kick");
  });

  it("merges another into an element and splits it into layers, each undone in one step", async () => {
    const studio = open("elements?element=kick");
    // Going through the list merges nothing yet.
    fireEvent.change(detail("Kick").getByLabelText("Merge another into it"), { target: { value: "hats" } });
    fireEvent.change(detail("Kick").getByLabelText("Merge another into it"), { target: { value: "body" } });
    expect(rows()).toHaveLength(3);
    fireEvent.click(detail("Kick").getByRole("button", { name: "Merge" }));
    expect(rows()).toEqual(["Kick", "Hats"]);
    await studio.saved();
    expect(elementOf(studio, "kick").weight).toBe(1);
    fireEvent.click(detail("Kick").getByRole("button", { name: "Split into two layers" }));
    expect(rows()).toEqual(["Kick, low", "Kick, high", "Hats"]);
    await studio.saved();
    expect(studio.log()).toEqual(["“Snare body” merged into “Kick”", "“Kick” split into layers"]);
    press("z", { ctrlKey: true });
    await studio.saved();
    press("z", { ctrlKey: true });
    await studio.saved();
    expect(rows()).toEqual(["Kick", "Snare body", "Hats"]);
  });

  describe("through the lens", () => {
    /** The kick is 6 dB softer and rests in bars 5 to 8; the hats hardly stand free. */
    const lifted = (coverings?: Covering[]) =>
      madeUpStudy({
        lens: madeUpLens(
          24,
          { kick: { gainDb: -6, plays: (bar) => bar < 5 || bar > 8 }, hats: { freeDb: -1 } },
          coverings,
        ),
        change: (study) => ({
          ...study,
          elements: study.elements.map((own) => ({
            ...own,
            lens: own.id === "kick" ? "kick" : own.id === "hats" ? "hats" : null,
          })),
        }),
      });
    const cell = (name: string) =>
      [...document.querySelectorAll(".element-row")].find((row) =>
        row.querySelectorAll("td")[1]!.textContent!.includes(name),
      )!;

    it("measures an element by what was lifted out, and says how free it stands", () => {
      open("elements", lifted());
      expect(cell("Kick").textContent).toContain("lens: free by 14 dB");
      // 6 dB softer in a whole that is 3 LU louder.
      expect(cell("Kick").textContent).toContain("−9.0 dB");
      expect(cell("Hats").textContent).toContain("lens: hardly free");
      expect(cell("Snare body").querySelector("svg.focus-range")).not.toBeNull();
    });

    it("compares where it plays, its pattern, timing and accents", () => {
      open("elements?element=kick", lifted());
      const table = within(detail("Kick").getByRole("table", { name: "Aspects of Kick" }));
      const rows = table.getAllByRole("row").slice(1);
      expect(rows.map((row) => row.querySelector(".strong")!.textContent)).toEqual([
        "Level",
        "Tone",
        "Width and position",
        "Where it plays",
        "Movement",
        "Space",
        "Envelope",
        "Pattern",
        "Timing",
        "Accents",
      ]);
      const score = (name: string) =>
        Number(rows.find((row) => row.textContent!.startsWith(name))!.lastElementChild!.textContent);
      // 20 of 24 bars.
      expect(score("Where it plays")).toBe(83);
      // The kick that is missing lies in a bar without any: that is no pattern.
      expect(score("Pattern")).toBe(100);
      expect(score("Level")).toBeLessThan(20);
    });

    it("tells what covers it more than in the reference, and selects where", () => {
      const covering = (by: "music" | "bass", reference: number): Covering => ({
        part: "kick",
        by,
        fromHz: 63,
        toHz: 160,
        reference,
        version: 6.2,
        bars: [3, 9, 10, 11],
      });
      const study = lifted([covering("music", 1.4), covering("bass", -2)]);
      open("elements?element=kick", study);
      const list = within(detail("Kick").getByRole("list", { name: "What covers Kick" }));
      expect(list.getAllByRole("button").map((own) => own.textContent)).toEqual([
        "Chords and lead 6 dB above it at 63–160 Hz1 dB above it in the reference.",
        "Bass 6 dB above it at 63–160 Hz2 dB below it in the reference.",
      ]);
      fireEvent.click(list.getAllByRole("button")[0]!);
      expect(addressBar.now).toMatch(/bars=9-11/);
      cleanup();
      open("elements?element=hats", study);
      expect(screen.queryByRole("list", { name: /What covers/ })).toBeNull();
    });

    it("tells what never sounds together, and selects where the version has both", () => {
      open("elements", lifted());
      expect(screen.queryByRole("list", { name: "Never together, and in turn" })).toBeNull();
      cleanup();
      const lens = madeUpLens(24, {
        bass: { playsThere: (bar) => bar <= 12 },
        music: { playsThere: (bar) => bar > 12, plays: (bar) => bar > 8 },
      });
      open("elements", madeUpStudy({ lens }));
      const list = within(screen.getByRole("list", { name: "Never together, and in turn" }));
      const [pair] = list.getAllByRole("button");
      expect(pair!.textContent).toBe(
        "Bass and Chords and lead never sound togetherIn the reference. In yours both sound in bars 9–24.",
      );
      fireEvent.click(pair!);
      expect(addressBar.now).toMatch(/bars=9-24/);
    });

    it("shows in which bars each plays; a press on a section selects it", () => {
      open("elements?element=hats", lifted());
      const lanes = within(screen.getByRole("region", { name: "Where each plays" }));
      const intro = lanes.getByRole("button", { name: /^Kick in intro: / });
      // The version rests in bars 5 to 8.
      expect(intro.getAttribute("aria-label")).toMatch(/: 8 of 8 bars, yours 4 of 8$/);
      expect(document.querySelector(".lane path.gap")!.getAttribute("d")!.match(/M\d+/g)).toEqual([
        "M4",
        "M5",
        "M6",
        "M7",
      ]);
      fireEvent.click(intro);
      expect(addressBar.now).toContain("element=kick");
      expect(addressBar.now).toMatch(/bars=1-8/);
      lanes.getByRole("button", { name: "Hats in chorus: 8 of 8 bars, yours 8 of 8" });
    });

    it("sounds alone where a section is pressed", () => {
      open("elements?element=hats", lifted());
      const lanes = within(screen.getByRole("region", { name: "Where each plays" }));
      fireEvent.click(lanes.getByRole("button", { name: /^Kick in intro: / }));
      screen.getByRole("button", { name: "monitor: kick only" });
    });

    it("is said to rest or to play in the selected bars, on either side, undoably", async () => {
      const studio = open("elements?element=kick", lifted());
      screen.getByText(/Select bars to correct where it plays/);
      fireEvent.click(screen.getByRole("button", { name: /^Kick in intro: / }));
      const choice = (side: string, name: string) =>
        within(
          within(screen.getByRole("group", { name: "Kick in the selected bars" })).getByRole("group", {
            name: side,
          }),
        ).getByRole("button", { name });
      const isPressed = (side: string, name: string) => choice(side, name).getAttribute("aria-pressed");
      expect(isPressed("Version 2", "as heard")).toBe("true");
      const presence = () => studio.results().scores.at(-1)!.elements.kick!;
      const before = presence();
      // The version rests in bars 5 to 8, as it is heard; the producer says that it plays.
      fireEvent.click(choice("Version 2", "plays"));
      await studio.saved();
      expect(isPressed("Version 2", "plays")).toBe("true");
      screen.getByRole("button", { name: /^Kick in intro: 8 of 8 bars, yours 8 of 8$/ });
      expect(presence()).toBeGreaterThan(before);
      expect(document.querySelector(".lane path.set")!.getAttribute("d")!.match(/M\d+/g)).toHaveLength(8);
      fireEvent.click(choice("Reference", "rests"));
      await studio.saved();
      screen.getByRole("button", { name: /^Kick in intro: 0 of 8 bars, yours 8 of 8$/ });
      expect(studio.log()).toEqual([
        "Kick plays in bars 1–8 of version 2",
        "Kick rests in bars 1–8 of the reference",
      ]);
      press("z", { ctrlKey: true });
      await studio.saved();
      press("z", { ctrlKey: true });
      await studio.saved();
      screen.getByRole("button", { name: /^Kick in intro: 8 of 8 bars, yours 4 of 8$/ });
    });

    it("says what tells that it is in the reference", () => {
      const study = lifted();
      open("elements?element=kick", study);
      // Four a bar in each of the bars that there are.
      detail("Kick").getByText("In the reference: 96 hits in 24 of 24 bars.");
      cleanup();
      open("elements?element=body", study);
      expect(detail("Snare body").queryByText(/in the reference/i)).toBeNull();
    });

    it("is heard alone, or all but it, and put back", () => {
      open("elements?element=kick", lifted());
      const group = within(screen.getByRole("group", { name: "Hear Kick" }));
      fireEvent.click(group.getByRole("button", { name: "only this" }));
      screen.getByRole("button", { name: "monitor: kick only" });
      fireEvent.click(group.getByRole("button", { name: "all but this" }));
      screen.getByRole("button", { name: "monitor: all but kick" });
      fireEvent.click(group.getByRole("button", { name: "the whole" }));
      screen.getByRole("button", { name: "monitor: Full range" });
      const links = within(screen.getByRole("group", { name: "Save Kick" })).getAllByRole("link");
      expect(links.map((own) => [own.textContent, own.getAttribute("href")])).toEqual([
        ["reference", "/api/items/track0/lens?part=kick&rest=no&from=bar1"],
        ["all but it", "/api/items/track0/lens?part=kick&rest=yes&from=bar1"],
        ["version 2", "/api/items/track2/lens?part=kick&rest=no&from=bar1"],
        ["all but it", "/api/items/track2/lens?part=kick&rest=yes&from=bar1"],
      ]);
    });

    it("is traded bar by bar with the other side, until one side is chosen", async () => {
      open("elements?element=kick", lifted());
      const hear = within(screen.getByRole("group", { name: "Hear Kick" }));
      fireEvent.click(hear.getByRole("button", { name: "only this" }));
      await act(async () => {
        fireEvent.click(screen.getByRole("button", { name: "monitor: kick only" }));
        await Promise.resolve();
      });
      const turns = within(screen.getByRole("group", { name: "Trade bars" }));
      fireEvent.click(turns.getByRole("button", { name: "2" }));
      expect(turns.getByRole("button", { name: "2" }).getAttribute("aria-pressed")).toBe("true");
      screen.getByRole("button", { name: "monitor: kick only, in turn, 2 bars" });
      fireEvent.click(turns.getByRole("button", { name: "a section" }));
      screen.getByRole("button", { name: "monitor: kick only, in turn, a section each" });
      fireEvent.click(screen.getByRole("button", { name: "Version 2" }));
      screen.getByRole("button", { name: "monitor: kick only" });
    });

    it("is muted on either side, here and in the listening bar", async () => {
      open("elements?element=kick", lifted());
      const mute = within(screen.getByRole("group", { name: "Mute Kick" }));
      fireEvent.click(mute.getByRole("button", { name: "version" }));
      await act(async () => {
        fireEvent.click(screen.getByRole("button", { name: "monitor: version: all but kick" }));
        await Promise.resolve();
      });
      const part = (name: string) => within(screen.getByRole("group", { name }));
      const muteIn = (name: string, side: string) =>
        part(name).getByRole("button", { name: `Mute in the ${side}` });
      expect(muteIn("kick", "version").getAttribute("aria-pressed")).toBe("true");
      expect(muteIn("kick", "reference").getAttribute("aria-pressed")).toBe("false");
      fireEvent.click(muteIn("bass", "reference"));
      screen.getByRole("button", { name: "monitor: reference: all but bass, version: all but kick" });
      fireEvent.click(part("hats").getByRole("button", { name: "only" }));
      screen.getByRole("button", { name: "monitor: hats only" });
      fireEvent.click(screen.getByRole("button", { name: "all parts" }));
      screen.getByRole("button", { name: "monitor: Full range" });
    });

    it("is taken for another part, or for a range of the mix, undoably", async () => {
      const studio = open("elements?element=kick", lifted());
      fireEvent.change(detail("Kick").getByLabelText("Heard through"), { target: { value: "" } });
      await studio.saved();
      expect(elementOf(studio, "kick").lens).toBeNull();
      expect(cell("Kick").querySelector("svg.focus-range")).not.toBeNull();
      press("z", { ctrlKey: true });
      await studio.saved();
      expect(elementOf(studio, "kick").lens).toBe("kick");
    });
  });

  it("without a version says what will be there", () => {
    const alone = madeUpStudy({
      versions: 0,
      change: (study) => ({
        ...study,
        elements: study.elements.map((own) => ({
          ...own,
          lens: own.id === "kick" ? ("kick" as const) : null,
        })),
      }),
    });
    open("elements", alone);
    screen.getByText(/Scores appear with the first analysed version\./);
    expect(
      [...document.querySelectorAll(".element-row")].map((row) =>
        row.textContent!.includes("96 hits in 24 bars"),
      ),
    ).toEqual([true, false, false]);
    cleanup();
    open("elements", madeUpStudy({ empty: true }));
    screen.getByText("No elements yet. Add the ones you want to track.");
  });
});

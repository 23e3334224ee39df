import { madeUpStudy } from "@/core/testing/study";
import { planModel } from "@/models/plan";
import { addressBar } from "../testing/navigation";
import { cleanup, fireEvent, openStudy, screen, within } from "../testing/studio";
import { SectionsView } from "./SectionsView";

afterEach(cleanup);

const open = (address = "sections", number: number | null = null, study = madeUpStudy()) =>
  openStudy(study, address, (results) => <SectionsView model={planModel(results, number)} />);
const sectionsOf = (studio: ReturnType<typeof open>, number = 0) => {
  const { reference, versions } = studio.results().study;
  const track = number === 0 ? reference! : versions[number - 1]!;
  return track.corrections.form.sections?.map(
    (own) => `${own.name} ${own.letter} ${own.firstBar}-${own.lastBar}`,
  );
};
const table = () => within(screen.getAllByRole("table")[0]!);
/** Presses a text of the table and types another. */
const rename = (label: string, old: string, text: string) => {
  fireEvent.click(table().getAllByRole("button", { name: old })[0]!);
  const field = screen.getByLabelText(label);
  fireEvent.change(field, { target: { value: text } });
  fireEvent.keyDown(field, { key: "Enter" });
};

describe("the Sections view", () => {
  it("says what of the reference is recreated", () => {
    open();
    screen.getByText("All 3 sections are fully recreated.");
    cleanup();
    open("sections?version=1", 1);
    screen.getByText((_text, element) =>
      element?.tagName === "P" &&
      /^2 of 3 sections are fully recreated; missing: chorus\.$/.test(element.textContent)
        ? true
        : false,
    );
    expect(table().getAllByText("whole")).toHaveLength(2);
    table().getByText("missing");
  });

  it("gives a version's sections the reference's names where the same bars answer", () => {
    open("sections?version=1", 1);
    // It calls them verse and verse 2 by itself.
    screen.getByRole("button", { name: /^Version: intro/ });
    screen.getByRole("button", { name: /^Version: verse, letter B/ });
  });

  it("names, letters, splits and joins sections, and resets them", async () => {
    const studio = open();
    rename("Name of section 1", "intro", "opening");
    await studio.saved();
    rename("Letter of section 1", "A", "d");
    await studio.saved();
    fireEvent.click(screen.getByRole("button", { name: "Split verse" }));
    await studio.saved();
    expect(sectionsOf(studio)).toEqual(["opening D 1-8", "verse B 9-12", "verse B 13-16", "chorus C 17-24"]);
    fireEvent.click(screen.getByRole("button", { name: "Join opening with the next" }));
    await studio.saved();
    expect(sectionsOf(studio)![0]).toBe("opening D 1-12");
    expect(studio.log()).toEqual([
      "The section is called opening now",
      "Its letter is D now",
      "verse split at bar 13",
      "Two sections joined",
    ]);
    fireEvent.click(screen.getByRole("button", { name: "Reset to detected" }));
    await studio.saved();
    expect(sectionsOf(studio)).toBeUndefined();
  });

  it("keeps a name that is emptied, and the last section cannot be joined", () => {
    const studio = open();
    rename("Name of section 1", "intro", "  ");
    expect(studio.requests).toEqual([]);
    expect(
      screen.getByRole<HTMLButtonElement>("button", { name: "Join chorus with the next" }).disabled,
    ).toBe(true);
  });

  it("moves a section's start by keys, one bar a press, and the handle keeps the focus", async () => {
    const studio = open();
    // The first is the reference's, the second the version's.
    const handle = () =>
      screen.getAllByRole("button", { name: /^verse starts at bar .*arrow keys move it$/ })[0]!;
    handle().focus();
    fireEvent.keyDown(handle(), { key: "ArrowRight" });
    fireEvent.keyDown(handle(), { key: "ArrowRight" });
    expect(document.activeElement).toBe(handle());
    await studio.saved();
    expect(sectionsOf(studio)!.slice(0, 2)).toEqual(["intro A 1-10", "verse B 11-16"]);
    expect(studio.log()).toEqual(["verse now starts at bar 10", "verse now starts at bar 11"]);
  });

  it("selects the bars of a section that is chosen", () => {
    open();
    fireEvent.click(screen.getByRole("button", { name: /^Reference: verse/ }));
    expect(addressBar.now).toBe("/studies/study1/sections?bars=9-16");
  });

  it("edits the version's sections, from when on they have their own names", async () => {
    const studio = open("sections?version=1", 1);
    fireEvent.click(
      within(screen.getByRole("group", { name: "Whose sections" })).getByRole("button", {
        name: "Version 1",
      }),
    );
    rename("Name of section 1", "intro", "drone");
    await studio.saved();
    expect(sectionsOf(studio, 1)).toEqual(["drone A 1-8", "verse B 9-16"]);
    screen.getByRole("button", { name: /^Version: drone/ });
  });

  it("says who plays where, and takes what is put right", async () => {
    const studio = open();
    const cell = (name: RegExp) => screen.getByRole("button", { name });
    expect(cell(/^Bass in intro/).getAttribute("aria-label")).toBe(
      "Bass in intro: do not play, 20 % likely, in yours: no",
    );
    expect(cell(/^Effects in verse/).getAttribute("aria-label")).toBe(
      "Effects in verse: play, by moments, in yours: yes",
    );
    fireEvent.click(cell(/^Bass in intro/));
    await studio.saved();
    expect(studio.log()).toEqual(["intro: bass plays"]);
    expect(cell(/^Bass in intro/).getAttribute("aria-label")).toBe(
      "Bass in intro: play, set by you, in yours: no",
    );
  });

  it("lists moments, and whether the version has them", () => {
    open("sections?version=1", 1);
    const moments = within(screen.getByRole("region", { name: "Moments" }));
    expect(moments.getByRole("listitem").textContent).toMatch(/^bar 16 riser 1 baralso in yours$/);
  });

  it("offers files of the side that is shown", () => {
    open();
    const link = () => screen.getByRole("link", { name: "MIDI with markers" }).getAttribute("href");
    expect(link()).toBe("/api/items/track0/plan?format=midi");
    fireEvent.click(
      within(screen.getByRole("group", { name: "Whose sections" })).getByRole("button", {
        name: "Version 2",
      }),
    );
    expect(link()).toBe("/api/items/track2/plan?format=midi");
  });

  it("without a reference says what to do; without a version counts the bars", () => {
    open("sections", null, madeUpStudy({ empty: true }));
    screen.getByText("Add a reference to see its sections.");
    cleanup();
    open("sections", null, madeUpStudy({ versions: 0 }));
    screen.getByText("3 sections over 24 bars.");
  });
});

import { madeUpStudy } from "@/core/testing/study";
import { drumModel, sentDrums } from "@/models/drums";
import { addressBar } from "../testing/navigation";
import { act, cleanup, fireEvent, openStudy, press, refusal, screen, type, within } from "../testing/studio";
import { DrumsView } from "./DrumsView";

afterEach(() => {
  cleanup();
  localStorage.clear();
});

const open = (address = "drums", study = madeUpStudy()) =>
  openStudy(study, address, (results) => <DrumsView model={sentDrums(drumModel(results, null))} />);
const titles = () => [...document.querySelectorAll(".findings .title")].map((own) => own.textContent);
const hits = (selector: string) => document.querySelectorAll(`.hit-picture ${selector}`).length;
const picture = () => screen.getByRole("group", { name: /^Drum hits of bars/ });
const group = (name: string) => within(screen.getByRole("group", { name }));

describe("the Drums view", () => {
  it("says what differs, the most valuable first, and where", () => {
    open();
    expect(titles()).toEqual(["Snare 30 ms late", "Kick: 4 hits missing"]);
    screen.getByText(/bar 6 beat 1, bar 6 beat 2, bar 6 beat 3 and 1 more/);
    // The list of work shows the same match.
    const shown = screen.getByTestId("drum-match").textContent;
    expect(screen.getByRole("link", { name: /^Drums/ }).textContent).toBe(`Drums${shown}`);
  });

  it("goes to the bar of a finding", () => {
    open();
    fireEvent.click(screen.getByText("Kick: 4 hits missing"));
    expect(addressBar.now).toBe("/studies/study1/drums?bars=6-7");
    expect(screen.getByRole("heading", { level: 1 }).textContent).toBe("Drums, bars 6–7 of intro");
    // Four rings where the kicks should be.
    expect(hits(".mark.missing")).toBe(4);
  });

  it("takes a difference for intended, which raises the match, and takes that back", async () => {
    const studio = open();
    const before = Number(screen.getByTestId("drum-match").textContent);
    fireEvent.click(screen.getAllByRole("button", { name: "Intended" })[0]!);
    expect(titles()).toEqual(["Kick: 4 hits missing"]);
    await studio.saved();
    expect(studio.log()).toEqual(["Marked as intended: Snare: different timing"]);
    expect(Number(screen.getByTestId("drum-match").textContent)).toBeGreaterThan(before);
    fireEvent.click(screen.getByRole("button", { name: "Snare: different timing is not intended" }));
    expect(titles()).toEqual(["Snare 30 ms late", "Kick: 4 hits missing"]);
  });

  it("counts in the selected bars alone", () => {
    open("drums?bars=9-16");
    expect(titles()).toEqual(["Snare 30 ms late"]);
    screen.getByText("of 100 in the selected bars");
    screen.getByText("Groove, in the selected bars");
  });

  it("shows one, two, four or eight bars, pages through them, and remembers how many", () => {
    open();
    fireEvent.click(group("Bars at a time").getByRole("button", { name: "4 bars" }));
    expect(screen.getByRole("heading", { level: 1 }).textContent).toBe("Drums, bars 1–4 of intro");
    fireEvent.click(screen.getByRole("button", { name: "Next bars" }));
    expect(screen.getByRole("heading", { level: 1 }).textContent).toBe("Drums, bars 5–8 of intro");
    // Three kicks of four bars and those of bar 6 missing; 4 · 4 kicks, 4 · 2 snares, 4 · 8 hats above.
    expect([hits(".hit.reference"), hits(".hit.version")]).toEqual([56, 52]);
    cleanup();
    open();
    expect(group("Bars at a time").getByRole("button", { pressed: true }).textContent).toBe("4 bars");
  });

  it("shows the typical bar of a section, on which nothing can be edited", () => {
    const studio = open();
    fireEvent.click(screen.getByRole("button", { name: "typical for intro" }));
    expect(screen.getByRole("heading", { level: 1 }).textContent).toBe("Drums, typical bar of intro");
    expect(hits(".hit.reference")).toBe(14);
    picture().focus();
    press("ArrowRight");
    press("ArrowUp");
    expect(studio.requests).toEqual([]);
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Next bars" }).disabled).toBe(true);
  });

  it("edits a hit by keys: each press counts, all can be undone", async () => {
    const studio = open();
    picture().focus();
    press("ArrowRight");
    screen.getByText("bar 1 beat 1", { selector: ".strong" });
    for (let i = 0; i < 3; i++) press("ArrowDown");
    expect(screen.getByLabelText<HTMLInputElement>("velocity").value).toBe(
      String(Math.round(127 * (0.9 - 0.12))),
    );
    for (let i = 0; i < 4; i++) press("ArrowRight", { altKey: true });
    screen.getByText("set by hand");
    await studio.saved();
    expect(studio.log()).toHaveLength(7);
    const edited = studio.results().study.reference!.corrections.drums;
    expect(edited.added!.map(({ time }) => time.toFixed(3))).toEqual(["0.504"]);
    press("z", { ctrlKey: true });
    await studio.saved();
    expect(studio.log()).toHaveLength(6);
  });

  it("changes voice and velocity of a hit in fields, and removes it", async () => {
    const studio = open();
    picture().focus();
    press("ArrowRight");
    const detail = within(screen.getByRole("region", { name: "Selected hit" }));
    type(detail.getByLabelText("velocity"), "200");
    expect(studio.requests).toEqual([]);
    type(detail.getByLabelText("velocity"), "64");
    fireEvent.change(detail.getByLabelText("voice"), { target: { value: "tom" } });
    await studio.saved();
    const [own] = studio.results().study.reference!.corrections.drums.added!;
    expect([own!.voice, Math.round(127 * own!.velocity)]).toEqual(["tom", 64]);
    fireEvent.click(screen.getByRole("button", { name: "Remove" }));
    expect(screen.queryByRole("region", { name: "Selected hit" })).toBeNull();
    await studio.saved();
    expect(studio.log().at(-1)).toBe("Hit removed");
    expect(hits(".hit.reference")).toBe(27);
  });

  it("gives all hits that sound alike another voice at once, which is undone as one", async () => {
    const studio = open();
    picture().focus();
    press("ArrowRight");
    const detail = within(screen.getByRole("region", { name: "Selected hit" }));
    // Four kicks in each of 24 bars.
    fireEvent.change(detail.getByLabelText("all 96 alike"), { target: { value: "tom" } });
    await studio.saved();
    expect(studio.log()).toEqual(["96 hits are now toms"]);
    expect(studio.results().study.reference!.corrections.drums.added).toHaveLength(96);
    expect(titles()).toContain("Kick in place of toms");
    fireEvent.click(screen.getAllByRole("button", { name: "Undo" })[0]!);
    await studio.saved();
    expect(titles()).toEqual(["Snare 30 ms late", "Kick: 4 hits missing"]);
  });

  it("adds a hit at the playhead, of the voice that is chosen", async () => {
    const studio = open();
    picture().focus();
    press("ArrowRight");
    press("a");
    await studio.saved();
    expect(studio.log()).toEqual(["Hit added"]);
    const [own] = studio.results().study.reference!.corrections.drums.added!;
    expect([own!.voice, own!.time]).toEqual(["kick", 0.5]);
  });

  it("keeps what was edited when the server refuses, as far as it was saved, and says why", async () => {
    const studio = open();
    studio.answer = (method, path) =>
      method === "POST" && path.endsWith("/edits") ? refusal("The disk is full.", 507) : null;
    picture().focus();
    press("ArrowRight");
    press("Delete");
    expect(hits(".hit.reference")).toBe(27);
    await studio.saved();
    screen.getByText("The disk is full.");
    expect(hits(".hit.reference")).toBe(28);
  });

  it("gives every bar a mark, with how much of it the version has", () => {
    open();
    const bars = group("All bars").getAllByRole("button", { name: /^Bar/ });
    expect(bars).toHaveLength(24);
    expect(bars[0]!.getAttribute("aria-label")).toBe("Bar 1: A, typical, 100 % of its hits agree");
    // 4 of 14 hits lack; what agrees counts on both sides: 20 of 24.
    expect(bars[5]!.getAttribute("aria-label")).toBe("Bar 6: A, typical, 83 % of its hits agree");
    fireEvent.click(bars[8]!);
    fireEvent.click(bars[11]!, { shiftKey: true });
    expect(addressBar.now).toBe("/studies/study1/drums?bars=9-12");
  });

  it("offers files of either side, those of the selection for the reference", () => {
    open("drums?bars=5-8");
    const files = within(screen.getByRole("region", { name: "Files" }));
    const address = () => files.getByRole("link", { name: "MIDI as played" }).getAttribute("href");
    expect(address()).toBe("/api/items/track0/drums?format=midi&bars=5-8");
    fireEvent.click(files.getByRole("button", { name: "Version 2" }));
    expect(address()).toBe("/api/items/track2/drums?format=midi");
  });

  it("refuses a file that is no MIDI with a sentence", async () => {
    open();
    const field = screen.getByLabelText("Drum part");
    const file = new File([new Uint8Array([1, 2, 3, 4])], "tune.mid");
    Object.assign(file, { arrayBuffer: () => Promise.resolve(new Uint8Array([1, 2, 3, 4]).buffer) });
    await act(async () => {
      fireEvent.change(field, { target: { files: [file] } });
    });
    screen.getByText(/^tune\.mid: /);
  });

  it("without a version shows the reference alone", () => {
    open("drums", madeUpStudy({ versions: 0 }));
    expect([hits(".hit.reference"), hits(".hit.version")]).toEqual([28, 0]);
    screen.getByText("no version yet");
    expect(titles()).toEqual([]);
    expect(document.querySelectorAll(".groove-table .in-version")).toHaveLength(0);
  });

  it("without a reference says what to do", () => {
    open("drums", madeUpStudy({ empty: true }));
    screen.getByText("Add a reference to see its drum hits.");
  });
});

import { madeUpStudy } from "@/core/testing/study";
import { chordName } from "@/core/harmony/chords";
import { planModel } from "@/models/plan";
import { addressBar } from "../testing/navigation";
import { cleanup, fireEvent, openStudy, press, screen, type, within } from "../testing/studio";
import { HarmonyView } from "./HarmonyView";

afterEach(cleanup);

/** Version 1 has E minor where the reference has C major. */
const open = (address = "harmony?version=1", study = madeUpStudy()) =>
  openStudy(study, address, (results) => <HarmonyView model={planModel(results, 1)} />);
const chord = (bar: number, side = "Reference") =>
  screen.getByRole("button", { name: new RegExp(`^${side}, bar ${bar}:`) });
const chordsOf = (studio: ReturnType<typeof open>) =>
  studio
    .results()
    .study.reference!.corrections.harmony.chords?.slice(0, 5)
    .map((own) => `${chordName(own.chord)} ${own.startBeat}-${own.endBeat}`);

describe("the Harmony view", () => {
  it("says how many beats have the same chord, and marks those that differ", () => {
    open();
    const summary = screen.getByText(/of beats have the/);
    expect(summary.textContent).toBe(
      "75 % of beats have the same chord; 16 beats differ, marked on the line.",
    );
    expect(chord(3, "Version").getAttribute("aria-label")).toBe(
      "Version, bar 3: E minor, not as in the reference",
    );
    expect(document.querySelectorAll(".chord-cell.differs")).toHaveLength(4);
  });

  it("names the key with its confidence, what both opinions say, and how the two keys lie", () => {
    open();
    const head = within(screen.getByRole("region", { name: "Key" }));
    expect(head.getAllByText("A minor")).toHaveLength(2);
    expect(head.getAllByText("86 % confidence")).toHaveLength(2);
    head.getAllByText(/By its notes C major, by its chords A minor\./);
  });

  it("is set to another key of either side, and reset", async () => {
    const studio = open();
    fireEvent.click(screen.getByRole("button", { name: /^C major ?14 %/ }));
    await studio.saved();
    expect(studio.results().study.reference!.corrections.harmony.key).toEqual({ tonic: 0, mode: "major" });
    screen.getByText("set by you");
    const whose = within(screen.getByRole("group", { name: "Whose harmony" }));
    fireEvent.click(whose.getByRole("button", { name: "Version 1" }));
    fireEvent.change(screen.getByLabelText("Other key"), { target: { value: "2" } });
    await studio.saved();
    expect(studio.log()[1]).toMatch(/^Key of version 1 set to /);
    fireEvent.click(screen.getByRole("button", { name: "Reset to detected" }));
    await studio.saved();
    expect(studio.results().study.versions[0]!.corrections.harmony).toEqual({});
    expect(studio.results().study.reference!.corrections.harmony.key).toBeDefined();
  });

  it("edits chords by keys: moved, split and joined", async () => {
    const studio = open();
    fireEvent.click(chord(1));
    chord(1).focus();
    press("ArrowRight");
    screen.getByText("Reference, from 2 : 1, 4 beats", { exact: false });
    fireEvent.keyDown(chord(2), { key: "ArrowRight", altKey: true });
    await studio.saved();
    expect(chordsOf(studio)!.slice(0, 3)).toEqual(["Am 0-5", "F 5-8", "C 8-12"]);
    fireEvent.keyDown(chord(2), { key: "j" });
    await studio.saved();
    expect(chordsOf(studio)!.slice(0, 3)).toEqual(["Am 0-5", "F 5-12", "G 12-16"]);
    fireEvent.keyDown(chord(2), { key: "s" });
    await studio.saved();
    expect(chordsOf(studio)!.slice(0, 4)).toEqual(["Am 0-5", "F 5-9", "F 9-12", "G 12-16"]);
    expect(studio.log()).toEqual(["Chord moved by +1 beat", "Joined with the next chord", "Chord split"]);
  });

  it("renames a chord as the other side has it, after which all of it agrees there", async () => {
    const studio = open();
    for (const bar of [3, 7, 11, 15]) {
      fireEvent.click(chord(bar));
      type(screen.getByLabelText(/^Rename/), "Em");
      await studio.saved();
    }
    screen.getByText("Every recreated chord matches the reference.");
    expect(studio.log()).toEqual(Array(4).fill("Chord renamed to Em"));
  });

  it("names the loop in degrees, and key and loop of each section, which can be selected", () => {
    open();
    screen.getByText(/one bar each · Am – F – C – G · 100 % of the time/);
    const sections = within(screen.getByRole("region", { name: "Section by section" }));
    expect(sections.getAllByText("i – VI – III – VII")).toHaveLength(3);
    sections.getByText("hats only.wav");
    fireEvent.click(sections.getByRole("button", { name: "chorus" }));
    expect(addressBar.now).toBe("/studies/study1/harmony?version=1&bars=17-24");
    // The chart has only the selected bars.
    expect(screen.getAllByRole("button", { name: /^Reference, bar/ })).toHaveLength(8);
  });

  it("says how far a sample of another key is shifted", () => {
    open();
    const helper = within(screen.getByRole("region", { name: "Shift a sample" }));
    expect(helper.getByTestId("shift").textContent).toBe(
      "+5 semitones or −7, by speed: play it at 133.48 % or 66.74 %.",
    );
    const from = helper.getByLabelText<HTMLSelectElement>("Sample key");
    const cMajor = [...from.options].find(({ text }) => text === "C major")!.value;
    fireEvent.change(from, { target: { value: cMajor } });
    expect(helper.getByTestId("shift").textContent).toBe("nothing to do");
    helper.getByText("Brought to the same notes: a minor key sits with its relative major.");
  });

  it("transposes its chords to be read off", () => {
    open();
    const own = within(screen.getByRole("region", { name: "Transpose the chords" }));
    own.getByText("Am, F, C, G");
    fireEvent.change(own.getByLabelText("Semitones"), { target: { value: "3" } });
    own.getByText("Am → Cm, F → A♭, C → E♭, G → B♭");
    fireEvent.change(own.getByLabelText("Semitones"), { target: { value: "99" } });
    expect(own.getByLabelText<HTMLInputElement>("Semitones").value).toBe("11");
  });

  it("without a reference says what to do; without a version shows the reference alone", () => {
    open("harmony", madeUpStudy({ empty: true }));
    screen.getByText("Add a reference to see its key and chords.");
    cleanup();
    open("harmony", madeUpStudy({ versions: 0 }));
    expect(screen.queryByRole("button", { name: /^Version, bar/ })).toBeNull();
    expect(screen.getAllByRole("button", { name: /^Reference, bar/ })).toHaveLength(24);
  });
});

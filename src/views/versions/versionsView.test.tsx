import { madeUpStudy } from "@/core/testing/study";
import type { StoredStemSum, StudyRecord } from "@/core/study";
import { addressBar } from "../testing/navigation";
import { act, cleanup, fireEvent, json, openStudy, screen, tell, within } from "../testing/studio";
import { Versions } from "./Versions";

afterEach(cleanup);

const open = (address = "versions", study = madeUpStudy()) => openStudy(study, address, () => <Versions />);
const numbers = () =>
  within(screen.getByRole("region", { name: "Aspects of each version" }))
    .queryAllByRole("button", { name: /^Choose version \d/ })
    .map((own) => own.textContent);
const withReference = (change: (own: NonNullable<StudyRecord["reference"]>) => object) =>
  madeUpStudy({
    change: (study) => ({ ...study, reference: { ...study.reference!, ...change(study.reference!) } }),
  });

describe("the Versions view", () => {
  it("lists the newest first, with match and aspects, and chooses one by the address", () => {
    const studio = open();
    expect(numbers()).toEqual(["2 ◂", "1"]);
    const [newest] = screen.getAllByRole("row").slice(1);
    expect(newest!.textContent).toContain("lantern v2.wav");
    const shown = Math.round(studio.results().scores[1]!.match!);
    expect(within(newest!).getAllByText(String(shown)).length).toBeGreaterThan(0);
    fireEvent.click(screen.getByRole("button", { name: "Choose version 1" }));
    expect(addressBar.now).toBe("/studies/study1/versions?version=1");
    expect(numbers()).toEqual(["2", "1 ◂"]);
  });

  it("tells the match over versions in words too", () => {
    const studio = open();
    const [first, second] = studio.results().scores.map(({ match }) => Math.round(match!));
    screen.getByRole("img", { name: `Match over versions: version 1 ${first}, version 2 ${second}` });
  });

  it("notes what changed; Escape keeps the old note", async () => {
    const studio = open();
    fireEvent.click(screen.getByRole("button", { name: "Add a note" }));
    const field = () => screen.getByLabelText("Note on version 1");
    fireEvent.change(field(), { target: { value: "first try" } });
    fireEvent.keyDown(field(), { key: "Escape" });
    screen.getByRole("button", { name: "Add a note" });
    fireEvent.click(screen.getByRole("button", { name: "Add a note" }));
    fireEvent.change(field(), { target: { value: " first try " } });
    fireEvent.blur(field());
    await studio.saved();
    expect(studio.results().study.versions[0]!.note).toBe("first try");
  });

  it("puts a version before another, so that what it changed is against that one, and back by undoing", async () => {
    const studio = open();
    const button = (name: string) => screen.getByRole("button", { name }) as HTMLButtonElement;
    expect(button("Move version 2 later").disabled).toBe(true);
    fireEvent.click(button("Move version 2 earlier"));
    expect(numbers()).toEqual(["1 ◂", "2"]);
    await studio.saved();
    expect(studio.log()).toEqual(["Version 2 moved earlier"]);
    expect(studio.results().scores.map(({ number }) => number)).toEqual([2, 1]);
    screen.getByRole("img", { name: /^Match over versions: version 2 \d+, version 1 \d+$/ });
    fireEvent.keyDown(document.body, { key: "z", code: "KeyZ", ctrlKey: true });
    await studio.saved();
    expect(numbers()).toEqual(["2 ◂", "1"]);
  });

  it("deletes a version and brings it back with its number", async () => {
    const studio = open();
    fireEvent.click(screen.getByRole("button", { name: "Delete version 1" }));
    expect(numbers()).toEqual(["2 ◂"]);
    await studio.saved();
    const notice = screen.getByText("Version 1 deleted").parentElement!;
    fireEvent.click(within(notice).getByRole("button", { name: "Undo" }));
    await studio.saved();
    expect(numbers()).toEqual(["2 ◂", "1"]);
  });

  it("says what a file is, what its tags claim beside what was measured, and what was noticed", () => {
    open(
      "versions",
      withReference(({ file }) => ({
        file: {
          ...file,
          channels: 1,
          format: "flac",
          warnings: ["The end of the file is missing."],
          tags: { title: "Lantern", artist: "Nobody", bpm: 60, key: "Am" },
        },
      })),
    );
    const reference = within(screen.getByRole("region", { name: "The reference" }));
    reference.getByText(/^FLAC, 0:48, 44\.1 kHz, mono, 3\.8 MB/);
    reference.getByText("The end of the file is missing.");
    reference.getByText("File tags: title “Lantern”, artist “Nobody”, 60 BPM (measured 120.00), key Am.");
  });

  it("ties a stem to an element, leads to its grid, and removes it", async () => {
    const studio = open();
    expect(screen.getByRole("link", { name: "+12.0 ms" }).getAttribute("href")).toBe(
      "/studies/study1/grid?grid=stem1",
    );
    fireEvent.change(screen.getByLabelText("Element of the stem hats only.wav"), {
      target: { value: "kick" },
    });
    await studio.saved();
    expect(studio.results().study.reference!.stems[0]!.elementId).toBe("kick");
    fireEvent.click(screen.getByRole("button", { name: "Remove the stem hats only.wav" }));
    await studio.saved();
    expect(studio.results().study.reference!.stems).toEqual([]);
    expect(studio.log()).toEqual(["Element of “hats only.wav” changed", "Stem “hats only.wav” removed"]);
  });

  it("shows an analysis as it goes on, and how it failed", async () => {
    const studio = open(
      "versions",
      withReference(() => ({
        job: { state: "running", message: "Measuring the spectrum", done: 0.3, refusal: null },
      })),
    );
    screen.getByText("Measuring the spectrum · 30 %");
    act(() =>
      tell({
        kind: "analysis",
        fileHash: "hash0",
        state: "running",
        progress: { message: "Finding tempo and bars", done: 0.8 },
      }),
    );
    screen.getByText("Finding tempo and bars · 80 %");
    act(() =>
      tell({ kind: "analysis", fileHash: "hash0", state: "cancelled", progress: { message: "", done: 0 } }),
    );
    screen.getByText(/^The analysis was cancelled\./);
    studio.answer = (method) => (method === "POST" ? json({}) : null);
    fireEvent.click(screen.getByRole("button", { name: "Analyse again" }));
    await studio.saved();
    expect(studio.requests).toEqual(["POST /api/items/track0/analysis"]);
  });

  describe("the stems of a track", () => {
    const sum = (own: Partial<StoredStemSum>) => ({
      ...madeUpStudy(),
      stemSums: new Map([
        ["track0", { current: true, value: { restDb: -21.4, missing: [], gainsDb: { stem1: 4.2 }, ...own } }],
      ]),
    });
    const group = () => screen.getByRole("group", { name: "Sum of the stems" });
    const missing = { share: 0.9, bars: [3, 4, 5, 9], throughout: false, fromHz: 250, toHz: 2000 };

    it("add up to it, each as loud as it is there", () => {
      open("versions", sum({}));
      expect(group().textContent).toBe(
        "The stems add up to the track: what is left without them is 21 dB softer.",
      );
      screen.getByRole("cell", { name: "+4.2 dB" });
    });

    it("lack what is named: an element throughout, another in some bars, something that nobody knows", () => {
      const kick = { ...missing, part: "kick" as const, throughout: true };
      open("versions", sum({ restDb: -5, missing: [kick, { ...missing, part: "music" }] }));
      const [sentence, ...missed] = [...group().querySelectorAll("p")].map(({ textContent }) => textContent);
      expect(sentence).toContain("The stems do not add up to the track");
      expect(missed).toEqual([
        "Missing: Kick.",
        "Partly missing: Chords and lead, from 250 Hz to 2 kHz, in bars 3–5, bar 9.",
      ]);
      cleanup();
      open("versions", sum({ missing: [{ ...missing, part: null }] }));
      screen.getByText("Missing: something from 250 Hz to 2 kHz, in bars 3–5, bar 9.");
    });

    it("name one that is hardly heard in it", () => {
      const study = sum({ gainsDb: { stem1: null } });
      open("versions", study);
      const { fileName } = study.study.reference!.stems[0]!;
      expect(group().textContent).toContain(`“${fileName}” is hardly heard in the track`);
    });
  });
});

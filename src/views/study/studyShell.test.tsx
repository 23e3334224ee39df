import { madeUpStudy } from "@/core/testing/study";
import { gridModel } from "@/models/grid";
import { GridView } from "../grid/GridView";
import { addressBar } from "../testing/navigation";
import {
  act,
  cleanup,
  fireEvent,
  openStudy,
  press,
  refusal,
  screen,
  waitFor,
  within,
} from "../testing/studio";

afterEach(() => {
  cleanup();
  localStorage.clear();
});

const open = (address = "grid", study = madeUpStudy()) =>
  openStudy(study, address, (results) => <GridView model={gridModel(results, null)} />);
const position = () => screen.getByTestId("position").textContent;
/** The bar below the pictures is written anew within a tenth of a second. */
const frame = () => act(() => new Promise((resolve) => setTimeout(resolve, 120)));
const later = () => fireEvent.click(screen.getByRole("button", { name: "5 ms later" }));

describe("the list of changes", () => {
  it("has every change, each of which can be undone on its own and done again", async () => {
    const studio = open();
    later();
    await studio.saved();
    fireEvent.change(screen.getByLabelText("Metre"), { target: { value: "3" } });
    await studio.saved();
    fireEvent.click(screen.getByRole("button", { name: "Changes" }));
    await studio.saved();
    const list = within(screen.getByRole("dialog"));
    expect(list.getAllByRole("listitem").map((own) => own.querySelectorAll("span")[1]!.textContent)).toEqual([
      "Grid nudged by +5 ms",
      "Metre set to 3/4",
    ]);
    fireEvent.click(list.getByRole("button", { name: "Undo: Grid nudged by +5 ms" }));
    await studio.saved();
    expect(studio.results().study.reference!.corrections.grid).toEqual({ beatsPerBar: 3 });
    fireEvent.click(list.getByRole("button", { name: "Redo: Grid nudged by +5 ms" }));
    await studio.saved();
    expect(studio.results().study.reference!.corrections.grid).toEqual({
      beatsPerBar: 3,
      nudgeSeconds: 0.005,
    });
  });

  it("says so where it cannot be read", async () => {
    const studio = open();
    studio.answer = (method, path) =>
      method === "GET" && path.endsWith("/edits") ? refusal("The database is locked.") : null;
    fireEvent.click(screen.getByRole("button", { name: "Changes" }));
    await studio.saved();
    within(screen.getByRole("dialog")).getByText("The database is locked.");
  });

  it("is empty where nothing was changed", async () => {
    const studio = open();
    fireEvent.click(screen.getByRole("button", { name: "Changes" }));
    await studio.saved();
    within(screen.getByRole("dialog")).getByText("Nothing has been changed yet.");
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Undo", hidden: true }).disabled).toBe(true);
  });
});

describe("notices", () => {
  it("undo what they tell of, not what was changed since", async () => {
    const studio = open();
    later();
    await studio.saved();
    fireEvent.change(screen.getByLabelText("Metre"), { target: { value: "3" } });
    await studio.saved();
    const notice = screen.getByText("Grid nudged by +5 ms").parentElement!;
    fireEvent.click(within(notice).getByRole("button", { name: "Undo" }));
    await studio.saved();
    expect(studio.results().study.reference!.corrections.grid).toEqual({ beatsPerBar: 3 });
    screen.getByText("Undone: Grid nudged by +5 ms");
  });

  it("tell of quick changes as one", async () => {
    const studio = open();
    for (let i = 0; i < 4; i++) later();
    await studio.saved();
    screen.getByText("Grid nudged by +5 ms (3 changes)");
  });
});

describe("keys", () => {
  it("move the playhead by bars and sections", async () => {
    open();
    press("ArrowRight");
    await frame();
    expect(position()).toBe("2 : 1.0");
    press("ArrowRight", { shiftKey: true });
    await frame();
    expect(position()).toBe("10 : 1.0");
    press("PageDown");
    await frame();
    expect(position()).toBe("17 : 1.0");
    press("PageUp");
    press("PageUp");
    await frame();
    expect(position()).toBe("1 : 1.0");
  });

  it("select bars from the playhead, and let go", () => {
    open();
    press("ArrowRight", { shiftKey: true });
    press("i");
    expect(addressBar.now).toBe("/studies/study1/grid?bars=9-9");
    press("ArrowRight");
    press("ArrowRight");
    press("o");
    expect(addressBar.now).toBe("/studies/study1/grid?bars=9-11");
    press("Escape");
    expect(addressBar.now).toBe("/studies/study1/grid");
  });

  it("go from version to version", () => {
    open();
    press(",", { code: "Comma" });
    expect(addressBar.now).toBe("/studies/study1/grid?version=1");
    press(",", { code: "Comma" });
    expect(addressBar.now).toBe("/studies/study1/grid?version=1");
    press(".", { code: "Period" });
    expect(addressBar.now).toBe("/studies/study1/grid?version=2");
  });

  it("flip sides, loop, click and equal loudness", () => {
    open();
    const pressed = (name: string | RegExp) =>
      screen.getByRole("button", { name }).getAttribute("aria-pressed");
    const side = (name: string) =>
      within(screen.getByRole("group", { name: "Which side is heard" }))
        .getByRole("button", { name })
        .getAttribute("aria-pressed");
    press("f");
    expect([side("Reference"), side("Version 2")]).toEqual(["false", "true"]);
    press("r");
    expect(side("Reference")).toBe("true");
    press("l");
    expect(pressed(/^loop/)).toBe("false");
    press("e");
    expect(pressed(/^equal loudness/)).toBe("false");
    press("k");
    screen.getByRole("button", { name: "click: medium" });
  });

  it("typed into a field are the field's", () => {
    open();
    screen.getByLabelText<HTMLInputElement>(/^Tempo, BPM/).focus();
    press("f");
    expect(
      within(screen.getByRole("group", { name: "Which side is heard" }))
        .getByRole("button", { name: "Reference" })
        .getAttribute("aria-pressed"),
    ).toBe("true");
  });

  it("are listed", () => {
    open();
    press("?", { shiftKey: true });
    const list = within(screen.getByRole("dialog"));
    list.getByText("Flip to the other side, at the same beat");
    list.getByText("Ctrl Shift Z");
  });
});

describe("the listening bar", () => {
  it("remembers click, equal loudness and a common tempo for the next visit", () => {
    open();
    press("k");
    press("e");
    cleanup();
    open();
    screen.getByRole("button", { name: "click: medium" });
    expect(screen.getByRole("button", { name: /^equal loudness/ }).textContent).toBe("equal loudness off");
  });

  it("says what is heard through what", async () => {
    open();
    fireEvent.click(screen.getByRole("button", { name: "monitor: Full range" }));
    await frame();
    const what = within(screen.getByRole("group", { name: "What you hear" }));
    fireEvent.click(what.getByRole("button", { name: "both, mixed" }));
    what.getByLabelText("Share of the version in the mix");
    screen.getByRole("button", { name: "monitor: mixed" });
    fireEvent.click(screen.getByRole("button", { name: "speed, pitch: 100 %" }));
    await frame();
    fireEvent.click(screen.getByRole("button", { name: "50 %" }));
    fireEvent.click(screen.getByRole("button", { name: "− 1" }));
    screen.getByRole("button", { name: "speed, pitch: 50 %, −1 st" });
  });

  it("sounds all parts in a blind test where one side has some muted, and mutes them again after it", async () => {
    open();
    fireEvent.click(screen.getByRole("button", { name: "monitor: Full range" }));
    await frame();
    const kick = within(screen.getByRole("group", { name: "kick" }));
    fireEvent.click(kick.getByRole("button", { name: "Mute in the version" }));
    const monitor = (words: string) =>
      screen.getByRole("button", { name: `monitor: ${words}`, hidden: true });
    monitor("version: all but kick");
    fireEvent.click(screen.getByRole("button", { name: "blind test Start" }));
    fireEvent.click(within(screen.getByRole("dialog")).getByRole("button", { name: "Start" }));
    monitor("Full range");
    fireEvent.click(within(screen.getByRole("dialog")).getByRole("button", { name: /Close|Stop|End/ }));
    monitor("version: all but kick");
  });

  it("gives nothing away in a blind test, and is as before when it ends", () => {
    open();
    press("e");
    fireEvent.click(screen.getByRole("button", { name: "blind test Start" }));
    const sides = () =>
      within(screen.getByRole("group", { name: "Which side is heard", hidden: true }))
        .getAllByRole<HTMLButtonElement>("button", { hidden: true })
        .map((own) => [own.disabled, own.getAttribute("aria-pressed")]);
    fireEvent.click(within(screen.getByRole("dialog")).getByRole("button", { name: "Start" }));
    expect(sides()).toEqual([
      [true, "false"],
      [true, "false"],
    ]);
    expect(screen.getByRole("button", { name: /^equal loudness/, hidden: true }).textContent).toContain("on");
    const answer = within(screen.getByRole("dialog"));
    for (let i = 0; i < 10; i++) fireEvent.click(answer.getByRole("button", { name: /^The reference/ }));
    const right = Number(screen.getByTestId("blind-score").textContent);
    expect(right).toBeGreaterThanOrEqual(0);
    expect(right).toBeLessThanOrEqual(10);
    fireEvent.click(answer.getByRole("button", { name: "Close" }));
    expect(screen.getByRole("button", { name: /^equal loudness/, hidden: true }).textContent).toBe(
      "equal loudness off",
    );
  });
});

describe("the frame", () => {
  it("names the reference and its tempo, and the version", async () => {
    open();
    screen.getByRole("button", { name: "Reference 120.00 BPM, A minor" });
    fireEvent.click(screen.getByRole("button", { name: "Version 2, choose another" }));
    await frame();
    fireEvent.click(screen.getByRole("button", { name: /lantern v1\.wav/ }));
    expect(addressBar.now).toBe("/studies/study1/grid?version=1");
  });

  it("keeps version and selection from view to view", () => {
    open("grid?version=1&bars=5-8");
    expect(screen.getByRole("link", { name: /^Drums/ }).getAttribute("href")).toBe(
      "/studies/study1/drums?version=1&bars=5-8",
    );
  });

  it("folds a group of the list of views, and remembers that", () => {
    open();
    const group = () => screen.getByRole("button", { name: "Parts" });
    expect(group().getAttribute("aria-expanded")).toBe("true");
    fireEvent.click(group());
    expect(group().getAttribute("aria-expanded")).toBe("false");
    expect(screen.queryByRole("link", { name: /^Drums/ })).toBeNull();
    screen.getByRole("link", { name: /^Tone/ });
    cleanup();
    open();
    expect(screen.queryByRole("link", { name: /^Drums/ })).toBeNull();
    fireEvent.click(group());
    screen.getByRole("link", { name: /^Drums/ });
  });

  /** Uploads go nowhere; gives what would have been sent. */
  function fakeUploads(): string[] {
    const sent: string[] = [];
    class FakeUpload {
      upload = {} as { onprogress?: (event: object) => void };
      status = 200;
      responseText = JSON.stringify({ studyId: "study1", itemId: "track2", number: 2 });
      onload = () => {};
      open(method: string, path: string) {
        sent.push(`${method} ${path}`);
      }
      send() {
        this.upload.onprogress?.({ lengthComputable: true, loaded: 1, total: 1 });
        setTimeout(() => this.onload(), 0);
      }
    }
    Object.assign(globalThis, { XMLHttpRequest: FakeUpload });
    return sent;
  }
  function dropFiles(...names: string[]): void {
    const drop = new Event("drop", { bubbles: true, cancelable: true });
    Object.assign(drop, { dataTransfer: { files: names.map((name) => new File(["x"], name)) } });
    act(() => void window.dispatchEvent(drop));
  }

  it("asks what several files are that are not plainly versions, and takes them as that", async () => {
    const sent = fakeUploads();
    open();
    dropFiles("mix 10.wav", "kick stem.wav", "mix 9.wav", "sleeve.txt");
    const dialog = within(screen.getByRole("dialog", { name: "What are these 4 files?" }));
    const guesses = dialog.getAllByRole("combobox").map((own) => (own as HTMLSelectElement).value);
    expect(guesses).toEqual(["stem", "version", "version", "leave out"]);
    fireEvent.change(dialog.getByLabelText("What mix 10.wav is"), { target: { value: "yardstick" } });
    fireEvent.click(dialog.getByRole("button", { name: "Add 3 files" }));
    await waitFor(() => expect(sent).toHaveLength(3));
    const address = "PUT /api/studies/study1/items?role=";
    expect(sent).toEqual([
      `${address}version&name=mix%209.wav`,
      `${address}yardstick&name=mix%2010.wav`,
      `${address}stem&name=kick%20stem.wav&parent=track0`,
    ]);
    expect(screen.queryByRole("dialog")).toBeNull();
  });

  it("takes a file that is dropped anywhere as the next version", async () => {
    const sent = fakeUploads();
    const studio = open();
    dropFiles("night mix.wav");
    const line = within(await screen.findByRole("region", { name: "New files" }));
    await line.findByText(/^Added as version 2\. Match \d+, −\d+ on version 1: loudness −\d+/);
    expect(sent).toEqual(["PUT /api/studies/study1/items?role=version&name=night%20mix.wav"]);
    const field = line.getByLabelText("What changed in version 2");
    fireEvent.change(field, { target: { value: "new bass" } });
    fireEvent.blur(field);
    await studio.saved();
    expect(studio.results().study.versions[1]!.note).toBe("new bass");
    fireEvent.click(line.getByRole("button", { name: "Close" }));
    expect(screen.queryByRole("region", { name: "New files" })).toBeNull();
  });

  it("is read anew for a change, and not over and over", async () => {
    const studio = open();
    const before = addressBar.refreshes;
    later();
    await studio.saved();
    // Once more where the first was lost on a slow machine, and then no more.
    expect(addressBar.refreshes - before).toBeGreaterThanOrEqual(1);
    expect(addressBar.refreshes - before).toBeLessThanOrEqual(2);
  });
});

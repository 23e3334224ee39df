import { jest } from "@jest/globals";
import { madeUpStudy } from "@/core/testing/study";
import { gridModel } from "@/models/grid";
import { addressBar } from "../testing/navigation";
import {
  act,
  cleanup,
  fireEvent,
  json,
  openStudy,
  press,
  refusal,
  screen,
  type,
  within,
} from "../testing/studio";
import { GridView } from "./GridView";

afterEach(cleanup);

const open = (address = "grid", study = madeUpStudy()) =>
  openStudy(study, address, (results) => <GridView model={gridModel(results, null)} />);
const gridOf = (studio: ReturnType<typeof open>) => studio.results().study.reference!.corrections.grid;
const sumOf = (id: string) => screen.getByTestId(id).textContent!.replace(/\s+/g, " ");

describe("the grid of a track", () => {
  it("is nudged as often as is pressed, undone and done again as often", async () => {
    const studio = open();
    for (let i = 0; i < 10; i++) fireEvent.click(screen.getByRole("button", { name: "5 ms later" }));
    screen.getByText("Nudge, ms (+50 so far)");
    await studio.saved();
    expect(gridOf(studio).nudgeSeconds).toBe(0.05);
    expect(studio.requests).toEqual(["POST /api/studies/study1/edits", "POST /api/studies/study1/edits"]);
    for (let i = 0; i < 4; i++) press("z", { ctrlKey: true });
    await studio.saved();
    expect(gridOf(studio).nudgeSeconds).toBe(0.03);
    press("z", { ctrlKey: true, shiftKey: true });
    await studio.saved();
    screen.getByText("Nudge, ms (+35 so far)");
  });

  it("takes a typed tempo, with a comma too, and refuses one that is none", async () => {
    const studio = open();
    const field = () => screen.getByLabelText<HTMLInputElement>(/^Tempo, BPM/);
    type(field(), "1200");
    screen.getByText("From 20 to 400 BPM.");
    type(field(), "60,5");
    await studio.saved();
    expect(gridOf(studio).bpm).toBe(60.5);
    expect(field().value).toBe("60.50");
    expect(studio.log()).toEqual(["Tempo set to 60.50 BPM"]);
  });

  it("is read at another tempo that is offered, with how the two relate", async () => {
    const studio = open();
    const readings = within(screen.getByText("Tempo readings, by confidence").parentElement!);
    expect(readings.getAllByRole("button").map((own) => own.textContent)).toEqual([
      "120.00 95 %",
      "60.00half 5 %",
      "240.00double",
    ]);
    fireEvent.click(readings.getByRole("button", { name: /^60/ }));
    await studio.saved();
    expect(readings.getByRole("button", { pressed: true }).textContent).toContain("60.00");
  });

  it("begins its bars where another reading has them, and where it was detected again", async () => {
    const studio = open();
    const readings = within(screen.getByText("Bar 1 readings, by confidence").parentElement!);
    // What is hardly probable is not offered.
    expect(readings.getAllByRole("button").map((own) => own.textContent)).toEqual([
      "as detected93 %",
      "½ beat later6 %",
    ]);
    fireEvent.click(readings.getByRole("button", { name: /^½ beat later/ }));
    await studio.saved();
    expect(gridOf(studio)).toEqual({ barOneAt: 0.75 });
    expect(readings.getByRole("button", { pressed: true }).textContent).toContain("½ beat later");
    fireEvent.click(readings.getByRole("button", { name: /^as detected/ }));
    await studio.saved();
    expect(gridOf(studio)).toEqual({});
    expect(studio.log()).toEqual(["Bar 1 moved: ½ beat later than detected", "Bar 1 as detected"]);
    // They belong to the detected tempo.
    fireEvent.click(screen.getByRole("button", { name: /^60/ }));
    await studio.saved();
    expect(screen.queryByText("Bar 1 readings, by confidence")).toBeNull();
  });

  it("is set to another metre, to bar 1 at the playhead, and back to what was detected", async () => {
    const studio = open();
    fireEvent.change(screen.getByLabelText("Metre"), { target: { value: "3" } });
    fireEvent.click(screen.getByRole("button", { name: "Bar 1 here" }));
    await studio.saved();
    expect(gridOf(studio)).toEqual({ beatsPerBar: 3, barOneAt: 0.5 });
    screen.getByText("Edited by you. The detected grid is kept.");
    fireEvent.click(screen.getByRole("button", { name: "Reset to detected" }));
    await studio.saved();
    expect(gridOf(studio)).toEqual({});
    screen.getByText("As detected.");
  });

  it("takes a tapped tempo as the music has it, and says so where none is found", async () => {
    const studio = open();
    const asked: string[] = [];
    studio.answer = (_method, path) => {
      if (!path.includes("/tempo?")) return null;
      asked.push(path);
      return asked.length === 1 ? refusal("No tempo near this was found.", 404) : json({ bpm: 119.97 });
    };
    const button = screen.getByRole("button", { name: "Tap, or Space" });
    const tap = async () => {
      jest.useFakeTimers({ doNotFake: ["setImmediate"] });
      for (let i = 0; i < 5; i++) {
        fireEvent.keyDown(button, { key: " " });
        jest.advanceTimersByTime(500);
      }
      act(() => void jest.advanceTimersByTime(1700));
      jest.useRealTimers();
      await studio.saved();
    };
    await tap();
    screen.getByText("No tempo near this was found.");
    await tap();
    expect(gridOf(studio).bpm).toBe(119.97);
    expect(asked[0]).toMatch(/^\/api\/items\/track0\/tempo\?near=1(19|20)/);
  });

  it("of a version or stem is chosen by the address", async () => {
    const studio = open();
    fireEvent.click(
      within(screen.getByRole("group", { name: "Whose grid" })).getByRole("button", { name: "Version 2" }),
    );
    expect(addressBar.now).toBe("/studies/study1/grid?grid=track2");
    fireEvent.click(screen.getByRole("button", { name: "1 ms earlier" }));
    await studio.saved();
    expect(studio.results().study.versions[1]!.corrections.grid).toEqual({ nudgeSeconds: -0.001 });
    expect(gridOf(studio)).toEqual({});
  });

  it("of a stem has its offset, which can be typed and reset", async () => {
    const studio = open("grid?grid=stem1");
    const place = within(screen.getByRole("region", { name: "Position of the stem" }));
    place.getByText(/Measured: \+12\.0 ms, 98 % confidence/);
    type(place.getByLabelText(/^Offset, ms/), "soon");
    place.getByText("Enter a number of milliseconds.");
    type(place.getByLabelText(/^Offset, ms/), "-3,5");
    await studio.saved();
    expect(studio.results().study.reference!.stems[0]!.offsetSeconds).toBe(-0.0035);
    fireEvent.click(place.getByRole("button", { name: "Reset to detected" }));
    await studio.saved();
    expect(studio.results().study.reference!.stems[0]!.offsetSeconds).toBeNull();
  });
});

describe("the two grids", () => {
  it("are held against each other in numbers", () => {
    open();
    const rows = [...document.querySelectorAll(".grid-table tbody tr")].map((row) =>
      [...row.querySelectorAll("td")].map((cell) => cell.textContent),
    );
    expect(rows).toContainEqual(["Metre", "4/4", "4/4", "the same"]);
    expect(rows).toContainEqual(["Bar 1 starts at", "0.500 s", "0.500 s", "0 ms"]);
    expect(rows).toContainEqual(["Sure of tempo · of bars", "95 % · 93 %", "95 % · 93 %", ""]);
  });

  it("are looked at bar by bar and closer, within the bars that there are", () => {
    open("grid?bars=23-24");
    const view = within(screen.getByRole("region", { name: "Close view" }));
    view.getByText("Bar 23");
    fireEvent.click(view.getByRole("button", { name: "Next bar" }));
    fireEvent.click(view.getByRole("button", { name: "Next bar" }));
    view.getByText("Bar 24");
    view.getByText("2.00 s wide");
    fireEvent.click(view.getByRole("button", { name: "one beat" }));
    view.getByText("500 ms wide");
    fireEvent.click(view.getByRole("button", { name: "Previous bar" }));
    expect(view.getByRole("img").getAttribute("aria-label")).toBe(
      "Reference above, Version 2 below, bar 23, 500 milliseconds wide",
    );
  });
});

describe("recreated bars", () => {
  const table = () => within(screen.getByRole("region", { name: "Recreated bars" }));
  const coverage = (studio: ReturnType<typeof open>) =>
    studio
      .results()
      .study.versions[1]!.coverage?.map(({ referenceFirst, versionFirst, bars }) => [
        referenceFirst,
        bars,
        versionFirst,
      ]);

  it("are shortened, added to and found again", async () => {
    const studio = open();
    table().getByText(
      /All 24 bars of the reference against version 2\..*Found automatically; bars agree by 100 %\./,
    );
    type(table().getByLabelText("Number of bars of passage 1"), "8");
    await studio.saved();
    expect(coverage(studio)).toEqual([[1, 8, 1]]);
    table().getByText(/8 of 24 bars are recreated: bars 1–8\. Set by you\./);
    fireEvent.click(table().getByRole("button", { name: "Add a passage" }));
    await studio.saved();
    expect(coverage(studio)).toEqual([
      [1, 8, 1],
      [9, 1, 9],
    ]);
    fireEvent.click(table().getByRole("button", { name: "Remove passage 1" }));
    await studio.saved();
    expect(coverage(studio)).toEqual([[9, 1, 9]]);
    fireEvent.click(table().getByRole("button", { name: "Find automatically" }));
    await studio.saved();
    expect(coverage(studio)).toBeUndefined();
  });

  it("cannot lie outside the tracks or be used twice; a sentence says which are there", async () => {
    const studio = open();
    type(table().getByLabelText("Number of bars of passage 1"), "25");
    table().getByText("The reference has bars 1 to 24, the version 1 to 24.");
    fireEvent.click(table().getByRole("button", { name: "Add a passage" }));
    table().getByText("Every bar of one side is already used.");
    type(table().getByLabelText("Number of bars of passage 1"), "8");
    fireEvent.click(table().getByRole("button", { name: "Add a passage" }));
    await studio.saved();
    type(table().getByLabelText("First bar in the reference of passage 2"), "4");
    table().getByText("Those reference bars are already used by another passage.");
  });

  it("can be selected", () => {
    open();
    fireEvent.click(table().getByRole("button", { name: "Select" }));
    expect(addressBar.now).toBe("/studies/study1/grid?bars=1-24");
  });
});

describe("what is intended", () => {
  const intended = () => within(screen.getByRole("region", { name: "Intended differences" }));

  it("is a tempo or a transposition, within bounds", async () => {
    const studio = open();
    type(intended().getByLabelText("My tempo, BPM"), "nine");
    intended().getByText("Enter a tempo from 20 to 400 BPM.");
    type(intended().getByLabelText("My tempo, BPM"), "118");
    type(intended().getByLabelText("Transposed by, semitones"), "30");
    intended().getByText("Enter a whole number from −24 to 24.");
    type(intended().getByLabelText("Transposed by, semitones"), "-2");
    await studio.saved();
    expect(studio.results().study.intended).toMatchObject({ bpm: 118, semitones: -2 });
    expect(studio.log()).toEqual(["118.00 BPM marked as intended", "−2 semitones marked as intended"]);
    type(intended().getByLabelText("My tempo, BPM"), "");
    await studio.saved();
    expect(studio.results().study.intended.bpm).toBeNull();
  });
});

describe("tempo arithmetic", () => {
  it("gives speed, stretch and semitones, and note lengths", () => {
    open();
    type(screen.getByLabelText("From, BPM"), "90");
    expect(sumOf("tempo-sum")).toBe(
      "Play at 133.33 % of the speed; stretched, it becomes 75.00 % as long. Repitched instead, it sounds +4.98 semitones higher.",
    );
    const row = screen.getByRole("cell", { name: "1/8" }).parentElement!;
    expect([...row.querySelectorAll("td")].map((cell) => cell.textContent)).toEqual([
      "1/8",
      "250.0",
      "375.0",
      "166.7",
    ]);
    type(screen.getByLabelText("From, BPM"), "");
    expect(sumOf("tempo-sum")).toBe("Give two tempi.");
  });
});

it("says what to do without a reference, and while it is analysed", () => {
  open("grid", madeUpStudy({ empty: true }));
  screen.getByText("Add a reference to see its tempo, beats and bars.");
});

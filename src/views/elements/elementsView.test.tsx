import { madeUpStudy } from "@/core/testing/study";
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
    return <Elements model={known && elementsModel(known.reference, known.version, known.compared)} />;
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

  it("tells of the chosen element what is off and how it is scored", () => {
    open("elements?element=body");
    detail("Snare body").getByText(/dB too loud from 150 Hz to 400 Hz|Level matches|dB too quiet/);
    detail("Snare body").getByText(/^Tone off by /);
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

  it("chooses resolution and stereo part of its spectra, and remembers the resolution", () => {
    open();
    const count = () => document.querySelectorAll(".band-table tbody tr").length;
    expect(count()).toBe(31);
    fireEvent.click(screen.getByRole("button", { name: "1/12 octave" }));
    expect(count()).toBeGreaterThan(100);
    fireEvent.click(screen.getByRole("button", { name: "side" }));
    // 3 dB less at equal loudness, and no peak: that is in the middle.
    expect(document.querySelectorAll(".band-table td:last-child")[40]!.textContent).toBe("clearly too quiet");
    cleanup();
    open();
    expect(count()).toBeGreaterThan(100);
    localStorage.clear();
  });

  it("without a version says what will be there", () => {
    open("elements", madeUpStudy({ versions: 0 }));
    screen.getByText(/Scores appear with the first analysed version\./);
    cleanup();
    open("elements", madeUpStudy({ empty: true }));
    screen.getByText("No elements yet. Add the ones you want to track.");
  });
});

import { madeUpStudy } from "@/core/testing/study";
import { suggestedMoves } from "@/models/equaliser";
import { toneModel } from "@/models/tone";
import { addressBar } from "../testing/navigation";
import { act, cleanup, fireEvent, openStudy, screen, wholeComparison, within } from "../testing/studio";
import { moved } from "./MoveSpans";
import { ToneView } from "./ToneView";
import type { MovesAnswer, MovesQuestion } from "./useSuggestedMoves";

afterEach(cleanup);

/** In place of the worker, which the tests in a browser have. */
class MovesAtOnce {
  onmessage: ((event: { data: MovesAnswer }) => void) | null = null;
  postMessage({ id, spectra, sampleRate }: MovesQuestion) {
    this.onmessage?.({ data: { id, moves: suggestedMoves(spectra, sampleRate) } });
  }
  terminate() {}
}
beforeAll(() => Object.assign(globalThis, { Worker: MovesAtOnce }));

const open = (address = "tone", study = madeUpStudy()) =>
  openStudy(study, address, (results) => {
    const known = wholeComparison(results);
    const version = results.study.versions.at(-1);
    return (
      <ToneView
        model={
          known && version
            ? toneModel(results, {
                version,
                reference: known.reference,
                measured: known.version,
                nothingRecreated: false,
                outdated: false,
                compared: known.compared,
              })
            : null
        }
      />
    );
  });
const click = (own: HTMLElement) => fireEvent.click(own);
const query = () => new URL(addressBar.now, "http://here").searchParams;
const list = () => screen.getByRole("list", { name: "Equaliser moves" });
const titles = () =>
  within(list())
    .getAllByRole("listitem")
    .map((own) => own.querySelector(".title")!.textContent);
const keptMoves = (studio: ReturnType<typeof open>) =>
  studio.results().study.versions.at(-1)!.corrections.equaliser.moves;

describe("the Tone view", () => {
  it("suggests moves against the gap and says what they bring", () => {
    open();
    // The version has 3 dB more from the 46th to the 54th twelfth-octave.
    expect(titles()).toContainEqual(expect.stringMatching(/Cut \d\.\d dB at [23]\d\d Hz/));
    expect(screen.getByTestId("moves-worth").textContent).toMatch(/average gap from \d\.\d to \d\.\d dB/);
  });

  it("says that moves are being fitted, and fits them itself where no worker can run", () => {
    const asked: { onerror: (() => void) | null }[] = [];
    class Broken {
      onerror: (() => void) | null = null;
      postMessage() {
        asked.push(this);
      }
      terminate() {}
    }
    Object.assign(globalThis, { Worker: Broken });
    open();
    Object.assign(globalThis, { Worker: MovesAtOnce });
    expect(screen.getByTestId("moves-worth").textContent).toBe("Fitting equaliser moves …");
    act(() => asked.at(-1)!.onerror!());
    expect(titles()).toContainEqual(expect.stringMatching(/Cut \d\.\d dB at [23]\d\d Hz/));
  });

  it("keeps what is switched with the version, undoes it, and suggests again", async () => {
    const studio = open();
    const before = titles();
    click(screen.getByRole("switch", { name: "Move 1 on" }));
    await studio.saved();
    expect(keptMoves(studio)![0]).toMatchObject({ on: false });
    expect(studio.log()).toEqual(["Equaliser move 1 switched off"]);
    click(screen.getByTitle(/^Undo: Equaliser/));
    await studio.saved();
    expect(keptMoves(studio)).toBeUndefined();
    expect(titles()).toEqual(before);
    click(screen.getByRole("button", { name: "Add a move" }));
    await studio.saved();
    expect(titles()).toHaveLength(before.length + 1);
    click(screen.getByRole("button", { name: "Suggest again" }));
    await studio.saved();
    expect(titles()).toEqual(before);
  });

  it("moves a span by the arrow keys: frequency, gain, width", async () => {
    const studio = open();
    const span = screen.getByRole("button", { name: /^Move 1:/ });
    fireEvent.keyDown(span, { key: "ArrowUp", shiftKey: true });
    await studio.saved();
    const [first] = keptMoves(studio)!;
    fireEvent.keyDown(screen.getByRole("button", { name: /^Move 1:/ }), { key: "ArrowRight" });
    await studio.saved();
    const [second] = keptMoves(studio)!;
    expect(second!.gainDb).toBe(first!.gainDb);
    expect(Math.log2(second!.hz / first!.hz)).toBeCloseTo(1 / 12, 1);
    click(within(list()).getByRole("button", { name: "Remove" }));
    await studio.saved();
    expect(keptMoves(studio)!.some(({ hz }) => hz === second!.hz)).toBe(false);
  });

  it("goes to a region that is pressed, and to an element's focus", () => {
    open();
    click(screen.getByRole("button", { name: "250 Hz – 500 Hz" }));
    expect(query().get("range")).toBe("250-500");
    fireEvent.change(screen.getByRole("combobox", { name: "Focus" }), { target: { value: "body" } });
    expect(query().get("focus")).toBe("body");
    expect(query().get("range")).toBeNull();
  });

  it("says what to do while there is nothing to compare", () => {
    open("tone", madeUpStudy({ empty: true }));
    expect(screen.getByText("Add a reference first.")).toBeTruthy();
  });
});

it("a moved move stays inside its limits and on round numbers", () => {
  const peak = { type: "peak", hz: 1000, gainDb: 14.9, q: 15 } as const;
  expect(moved(peak, { gain: 5, q: 2 })).toEqual({ ...peak, gainDb: 15, q: 16 });
  expect(moved(peak, { octaves: -10 }).hz).toBe(20);
  expect(moved({ type: "lowCut", hz: 40, gainDb: 0, q: 0.7 }, { gain: 3, octaves: 1 })).toMatchObject({
    hz: 80,
    gainDb: 0,
    q: 0.7,
  });
});

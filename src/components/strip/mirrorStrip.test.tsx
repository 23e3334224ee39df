import { madeUpStudy } from "@/core/testing/study";
import { addressBar } from "@/views/testing/navigation";
import { act, cleanup, fireEvent, openStudy, press, screen } from "@/views/testing/studio";

afterEach(cleanup);

/** The reference takes 48.5 s on 1000 pixels: a bar of 2 s is 41 pixels wide. */
const seconds = 48.5;
const open = (address = "grid", study = madeUpStudy()) => {
  HTMLCanvasElement.prototype.setPointerCapture = () => {};
  HTMLButtonElement.prototype.setPointerCapture = () => {};
  HTMLCanvasElement.prototype.getBoundingClientRect = () =>
    ({ left: 0, width: 1000, top: 0, height: 110 }) as DOMRect;
  return openStudy(study, address, () => <p>a view</p>);
};
const canvas = () => screen.getByRole("img", { name: /^Waveforms/ });
const at = (time: number) => (1000 * time) / seconds;
/** jsdom has no pointer events: the coordinates have to be put on. */
const pointer = (element: Element, type: string, x: number, more: object = {}) => {
  const event = new Event(type, { bubbles: true, cancelable: true });
  Object.assign(event, { clientX: x, pointerId: 1, shiftKey: false, ...more });
  act(() => void element.dispatchEvent(event));
};
const drag = (from: number, to: number, more: object = {}) => {
  pointer(canvas(), "pointerdown", at(from), more);
  pointer(canvas(), "pointermove", at((from + to) / 2), more);
  pointer(canvas(), "pointermove", at(to), more);
  pointer(canvas(), "pointerup", at(to), more);
};
const frame = () => act(() => new Promise((resolve) => setTimeout(resolve, 120)));
const position = () => screen.getByTestId("position").textContent;

describe("the strip", () => {
  it("says what it shows", () => {
    open();
    expect(canvas().getAttribute("aria-label")).toBe("Waveforms: reference above, Version 2 below");
    cleanup();
    open("grid", madeUpStudy({ versions: 0 }));
    expect(canvas().getAttribute("aria-label")).toBe("Waveforms: reference above, no version");
    screen.getByText("Your recreation will appear here, below the line.");
  });

  it("selects the bars that a drag reaches into", () => {
    open();
    // Bars 3 to 5 begin at 4.5, 6.5 and 8.5 s.
    drag(4.9, 9.8);
    expect(addressBar.now).toBe("/studies/study1/grid?bars=3-5");
    const frame = screen.getByTestId("selection");
    expect(parseFloat(frame.style.left)).toBeCloseTo((100 * 4.5) / seconds, 3);
  });

  it("extends the selection from its far end with Shift", () => {
    open("grid?bars=5-8");
    drag(20.4, 20.4, { shiftKey: true });
    expect(addressBar.now).toBe("/studies/study1/grid?bars=5-10");
    // Nearer to its start: the end stays.
    drag(3, 3, { shiftKey: true });
    expect(addressBar.now).toBe("/studies/study1/grid?bars=2-10");
  });

  it("moves the playhead to where it is pressed without a drag", async () => {
    open();
    pointer(canvas(), "pointerdown", at(16.5));
    pointer(canvas(), "pointermove", at(16.5) + 2);
    pointer(canvas(), "pointerup", at(16.5));
    await frame();
    expect(position()).toBe("9 : 1.0");
    expect(addressBar.now).toBe("/studies/study1/grid");
  });

  it("selects a section by its name, and lets go with Escape or a button", () => {
    open();
    fireEvent.click(screen.getByRole("button", { name: "verse" }));
    expect(addressBar.now).toBe("/studies/study1/grid?bars=9-16");
    press("Escape");
    expect(addressBar.now).toBe("/studies/study1/grid");
    fireEvent.click(screen.getByRole("button", { name: "chorus" }));
    fireEvent.click(screen.getByRole("button", { name: "Clear selection" }));
    expect(addressBar.now).toBe("/studies/study1/grid");
  });

  it("zooms in and out by buttons and keys, and shows the whole again", () => {
    open("grid?bars=9-12");
    const width = () => parseFloat(screen.getByTestId("selection").style.width.replace("calc(", ""));
    const whole = screen.getByTestId("selection").style.width;
    fireEvent.click(screen.getByRole("button", { name: "Zoom in" }));
    const closer = screen.getByTestId("selection").style.width;
    expect(closer).not.toBe(whole);
    fireEvent.click(screen.getByRole("button", { name: "Zoom out" }));
    expect(screen.getByTestId("selection").style.width).toBe(whole);
    press("+", { code: "Equal" });
    expect(screen.getByTestId("selection").style.width).not.toBe(whole);
    press("0", { code: "Digit0" });
    expect(screen.getByTestId("selection").style.width).toBe(whole);
    expect(width()).toBeGreaterThan(0);
  });
});

describe("what is recreated", () => {
  const edge = (name: RegExp) => screen.getByRole("button", { name });

  it("is bounded by handles, and the rest is marked", () => {
    open("grid?version=1");
    const gap = screen.getByTestId("not-recreated");
    expect(gap.title).toBe("Bars 17 to 24 are not recreated");
    expect(parseFloat(gap.style.left)).toBeCloseTo((100 * 32.5) / seconds, 3);
  });

  it("is changed by the arrow keys of a handle, within both tracks", async () => {
    const studio = open("grid?version=1");
    fireEvent.keyDown(edge(/^Last recreated bar: 16/), { key: "ArrowLeft" });
    await studio.saved();
    expect(studio.results().study.versions[0]!.coverage).toEqual([
      { referenceFirst: 1, versionFirst: 1, bars: 15 },
    ]);
    fireEvent.keyDown(edge(/^First recreated bar: 1/), { key: "ArrowRight" });
    await studio.saved();
    expect(studio.results().study.versions[0]!.coverage).toEqual([
      { referenceFirst: 2, versionFirst: 2, bars: 14 },
    ]);
    // The version has no 17th bar.
    fireEvent.keyDown(edge(/^Last recreated bar: 15/), { key: "ArrowRight" });
    fireEvent.keyDown(edge(/^Last recreated bar: 16/), { key: "ArrowRight" });
    await studio.saved();
    expect(studio.results().study.versions[0]!.coverage).toEqual([
      { referenceFirst: 2, versionFirst: 2, bars: 15 },
    ]);
    expect(studio.log()).toHaveLength(3);
  });

  it("is changed by dragging a handle, shown while it is dragged and saved once", async () => {
    const studio = open("grid?version=1");
    const handle = edge(/^Last recreated bar: 16/);
    pointer(handle, "pointerdown", at(32.5));
    pointer(handle, "pointermove", at(28.5));
    edge(/^Last recreated bar: 14/);
    expect(studio.requests).toEqual([]);
    pointer(edge(/^Last recreated bar: 14/), "pointerup", at(28.5));
    await studio.saved();
    expect(studio.results().study.versions[0]!.coverage).toEqual([
      { referenceFirst: 1, versionFirst: 1, bars: 14 },
    ]);
    expect(studio.log()).toEqual(["Recreated bars of version 1 set"]);
  });
});

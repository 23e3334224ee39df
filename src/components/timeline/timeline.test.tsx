/** Axes, rulers, and edges and stretches that are dragged. */
import { fireEvent, render, screen } from "@testing-library/react";
import { steadyGrid } from "@/core/testing/drums";
import { pointedAt, shareAt, stretchOn, valueAt } from "./axis";
import { EdgeHandle } from "./EdgeHandle";
import { barMarks, beatMarks, timeMarks } from "./ruler";
import { useRangeDrag } from "./useRangeDrag";

// 32 bars of two seconds.
const grid = steadyGrid(120, 31, 0);

describe("an axis", () => {
  const axis = { from: 20, to: 60 };
  it("leads from values to shares and back", () => {
    for (const value of [20, 31.4, 60]) expect(valueAt(axis, shareAt(axis, value))).toBeCloseTo(value, 12);
    expect(valueAt(axis, -0.3)).toBe(20);
    expect(valueAt(axis, 1.2)).toBe(60);
  });

  it("cuts stretches where it ends", () => {
    expect(stretchOn(axis, 10, 40)).toEqual({ left: "0%", width: "50%", share: 0.5 });
    expect(stretchOn(axis, 50, 90)).toEqual({ left: "75%", width: "25%", share: 0.25 });
    expect(stretchOn(axis, 0, 20)).toBeNull();
    expect(stretchOn(axis, 60, 80)).toBeNull();
  });

  it("knows where a pointer is", () => {
    const element = { getBoundingClientRect: () => ({ left: 100, width: 400 }) } as Element;
    expect(pointedAt(axis, { clientX: 200 }, element)).toBe(30);
    expect(pointedAt(axis, { clientX: 900 }, element)).toBe(60);
  });
});

describe("a ruler", () => {
  it("of bars marks their starts, farther apart the less room there is, counted from bar 1", () => {
    const marks = (width: number) =>
      barMarks(grid, { from: 0, to: 64 }, width).map(({ text }) => Number(text));
    expect(marks(2000)).toEqual(Array.from({ length: marks(2000).length }, (_, i) => i + 1));
    expect(marks(2000).length).toBeGreaterThanOrEqual(31);
    const narrow = marks(400);
    const step = narrow[1]! - narrow[0]!;
    expect(step).toBeGreaterThan(1);
    expect(narrow).toEqual(narrow.map((_, i) => 1 + i * step));
    expect((step * 2 * 400) / 64).toBeGreaterThanOrEqual(30);
    expect(barMarks(grid, { from: 20, to: 28 }, 1000).map(({ at, text }) => [at, text])).toEqual([
      [20, "11"],
      [22, "12"],
      [24, "13"],
      [26, "14"],
    ]);
  });

  it.each([
    [0, 156, 1048, 15],
    [0, 60, 1000, 5],
    [10, 12, 1000, 0.2],
  ])("of time from %f to %f s over %f px steps by %f s, with room for the last", (from, to, width, step) => {
    const times = timeMarks({ from, to }, width).map(({ at }) => at);
    times.slice(1).forEach((time, i) => expect(time - times[i]!).toBeCloseTo(step, 6));
    expect(times[0]).toBeGreaterThanOrEqual(from - 1e-9);
    expect(((times.at(-1)! - from) / (to - from)) * width).toBeLessThanOrEqual(width - 40);
  });

  it("of beats names bars and what lies between", () => {
    expect(beatMarks(grid, { from: 7, to: 9.5 }, 1).map(({ text }) => text)).toEqual(["4", "bar 3", "2"]);
    expect(beatMarks(grid, { from: 8, to: 9 }, 0.25).map(({ text }) => text)).toEqual([
      "bar 3",
      "1.25",
      "1.5",
      "1.75",
    ]);
  });
});

// jsdom knows no pointer capture and no layout.
beforeAll(() => {
  Element.prototype.setPointerCapture = () => {};
  Element.prototype.getBoundingClientRect = () => new DOMRect(0, 0, 100, 10);
});
const pointer = (target: Element, type: string, clientX: number, shiftKey = false) =>
  fireEvent(target, new MouseEvent(type, { bubbles: true, clientX, shiftKey }));

describe("an edge", () => {
  it("is dragged by whole steps, told once when let go, and moved by keys", () => {
    const moves: number[] = [];
    const drags: number[] = [];
    render(
      <EdgeHandle
        className=""
        style={{}}
        label="Start"
        title=""
        step={() => 10}
        onDrag={(by) => drags.push(by)}
        onMove={(by) => moves.push(by)}
      />,
    );
    const edge = screen.getByRole("button", { name: /Start/ });
    pointer(edge, "pointerdown", 50);
    for (const x of [52, 61, 74, 73]) pointer(edge, "pointermove", x);
    expect(moves).toEqual([]);
    pointer(edge, "pointerup", 73);
    expect(drags).toEqual([1, 2, 0]);
    expect(moves).toEqual([2]);
    pointer(edge, "pointerdown", 50);
    pointer(edge, "pointermove", 20);
    pointer(edge, "pointercancel", 20);
    expect(moves).toEqual([2]);
    fireEvent.keyDown(edge, { key: "ArrowLeft" });
    fireEvent.keyDown(edge, { key: "x" });
    expect(moves).toEqual([2, -1]);
  });
});

describe("dragging over a timeline", () => {
  const told: unknown[] = [];
  function Area({ kept }: { kept: { from: number; to: number } | null }) {
    const { handlers, dragged } = useRangeDrag({ from: 0, to: 10 }, kept, {
      onPoint: (at) => told.push(at),
      onRange: (range) => told.push(range),
    });
    return (
      <div data-testid="area" {...handlers}>
        {dragged && `${dragged.from}–${dragged.to}`}
      </div>
    );
  }
  it("points, selects in either direction, and stretches with Shift", () => {
    const { rerender } = render(<Area kept={null} />);
    const area = screen.getByTestId("area");
    pointer(area, "pointerdown", 30);
    pointer(area, "pointermove", 32);
    pointer(area, "pointerup", 32);
    pointer(area, "pointerdown", 60);
    pointer(area, "pointermove", 20);
    expect(area.textContent).toBe("2–6");
    pointer(area, "pointerup", 20);
    rerender(<Area kept={{ from: 2, to: 6 }} />);
    pointer(area, "pointerdown", 90, true);
    pointer(area, "pointerup", 90, true);
    expect(told).toEqual([3.2, { from: 2, to: 6 }, { from: 2, to: 9 }]);
    expect(area.textContent).toBe("");
  });
});

/** What is drawn into a chart from properties, against places worked out by hand. */
import { cleanup, render } from "@testing-library/react";
import { LineChart, XAxis, YAxis } from "recharts";
import { DrawnBars, DrawnLine, placeLine, placesOf, placeTip, TipOf, type DrawnBar } from "./chartDrawing";

afterEach(cleanup);

const at = [0, 1, 2, 3];
/** A plane of 300 × 100 pixels over 0 … 3 and −10 … 10. */
const chart = (children: React.ReactNode) => (
  <TipOf value={() => "here"}>
    <LineChart width={300} height={100} data={placesOf(at)} margin={{ top: 0, right: 0, bottom: 0, left: 0 }}>
      <XAxis dataKey="x" type="number" domain={[0, 3]} allowDataOverflow hide />
      <YAxis domain={[-10, 10]} allowDataOverflow hide />
      {placeTip}
      {placeLine}
      {children}
    </LineChart>
  </TipOf>
);
const bars = (values: (number | null)[]): DrawnBar[] => values.map((value) => ({ value, fill: "red" }));
const numbers = (own: Element, names: string[]) => names.map((name) => Number(own.getAttribute(name)));

describe("what is drawn into a chart", () => {
  it("stands where both axes have it, and is broken where there is no value", () => {
    const { container } = render(chart(<DrawnLine at={at} values={[-10, 0, null, 10]} stroke="red" />));
    expect(container.querySelector("path[stroke=red]")!.getAttribute("d")).toBe(
      "M0.0 100.0L100.0 50.0M300.0 0.0",
    );
    // No line is drawn of the places themselves.
    expect(container.querySelectorAll(".recharts-line-curve")).toHaveLength(0);
  });

  it("grows from zero either way, and is cut off outside the axes", () => {
    const { container } = render(
      chart(<DrawnBars at={at} bars={bars([5, -5, null, 40])} from={-0.2} to={0.3} />),
    );
    const drawn = [...container.querySelectorAll("rect[fill=red]")];
    const [up, down, high] = drawn.map((own) => numbers(own, ["x", "y", "width", "height"]));
    expect(drawn).toHaveLength(3);
    [
      [-20, 25, 50, 25],
      [80, 50, 50, 25],
    ].forEach((expected, i) =>
      expected.forEach((value, k) => expect([up, down][i]![k]).toBeCloseTo(value, 6)),
    );
    expect(high![1]).toBeLessThan(0);
    expect(numbers(drawn[2]!.closest("svg")!, ["x", "y", "width", "height"])).toEqual([0, 0, 300, 100]);
  });

  it("follows new values", () => {
    const { container, rerender } = render(chart(<DrawnBars at={at} bars={bars([5])} from={0} to={1} />));
    rerender(chart(<DrawnBars at={at} bars={bars([-10])} from={0} to={1} />));
    const [y, height] = numbers(container.querySelector("rect[fill=red]")!, ["y", "height"]);
    expect([y, height]).toEqual([50, 50]);
  });
});

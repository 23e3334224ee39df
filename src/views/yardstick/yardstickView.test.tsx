import { trackFigures } from "@/core/yardstick";
import { done, file } from "@/core/testing/records";
import { madeUpStudy } from "@/core/testing/study";
import type { StudyResults } from "@/core/study";
import { yardstickModel } from "@/models/yardstick";
import { cleanup, fireEvent, openStudy, screen, within } from "../testing/studio";
import { YardstickView } from "./YardstickView";

afterEach(cleanup);

/** A study with so many tracks of a style, all as its reference is but for their loudness. */
function open(tracks: number) {
  const yardstick = Array.from({ length: tracks }, (_, i) => ({
    id: `y${i}`,
    fileName: `mill ${i}.wav`,
    file: file(`style${i}`, 60),
    job: done,
  }));
  const view = (results: StudyResults) => {
    const own = new Map([...results.analyses].map(([hash, analysis]) => [hash, trackFigures(analysis)]));
    const base = own.get("hash0")!;
    const figures = new Map(own);
    yardstick.forEach(({ file: { hash } }, i) =>
      figures.set(hash, {
        ...base,
        values: { ...base.values, loudness: base.values.loudness! + 1 + i / 4 },
      }),
    );
    return <YardstickView model={yardstickModel(results, figures, null)} sources={[]} />;
  };
  return openStudy(madeUpStudy({ change: (study) => ({ ...study, yardstick }) }), "yardstick", (results) =>
    view(results),
  );
}

describe("the Yardstick view", () => {
  it("says what is missing before it can say anything", () => {
    open(2);
    screen.getByText(/^1 more is needed before anything can be said/);
    expect(screen.queryByRole("table")).toBeNull();
  });

  it("shows each figure with its range and where both sides lie, and what is unusual", () => {
    open(5);
    const row = screen.getByRole("row", { name: /Integrated loudness/ });
    expect([...row.querySelectorAll("td")].map(({ textContent }) => textContent)).toEqual([
      "−12.9 to −12.1 LUFS",
      "",
      "−14.0",
      "−11.0",
    ]);
    const aside = within(screen.getByRole("complementary", { name: "What is unusual" }));
    aside.getByText(/^Quieter than is typical: −14\.0 LUFS/);
    aside.getByText(/^Louder than is typical: −11\.0 LUFS/);
  });

  it("is what versions are aimed at where that is chosen, aspect by aspect, until it is undone", async () => {
    const studio = open(5);
    const of = (aspect: string) => within(screen.getByRole("group", { name: `${aspect} is held against` }));
    const pressed = (aspect: string) => of(aspect).getByRole("button", { pressed: true }).textContent;
    expect(["Loudness", "Dynamics", "Tone", "Width"].map(pressed)).toEqual(Array(4).fill("Reference"));
    fireEvent.click(of("Tone").getByRole("button", { name: "Yardstick" }));
    fireEvent.click(of("Loudness").getByRole("button", { name: "Yardstick" }));
    expect(["Loudness", "Dynamics", "Tone", "Width"].map(pressed)).toEqual([
      "Yardstick",
      "Reference",
      "Yardstick",
      "Reference",
    ]);
    await studio.saved();
    expect(studio.results().study.styleAspects).toEqual(["loudness", "tone"]);
    expect(studio.log()).toEqual(["Tone held against the yardstick", "Loudness held against the yardstick"]);
    fireEvent.keyDown(document.body, { key: "z", code: "KeyZ", ctrlKey: true });
    await studio.saved();
    expect(studio.results().study.styleAspects).toEqual(["tone"]);
  });

  it("lets a track go, which comes back by undoing", async () => {
    const studio = open(4);
    fireEvent.click(screen.getByRole("button", { name: "Remove mill 2.wav from the yardstick" }));
    await studio.saved();
    expect(studio.results().study.yardstick.map(({ fileName }) => fileName)).not.toContain("mill 2.wav");
    expect(studio.log()).toEqual(["Yardstick track “mill 2.wav” removed"]);
  });
});

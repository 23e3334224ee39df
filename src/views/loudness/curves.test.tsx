/** The pictures of the Loudness view over levels that are written down. */
import type { ReactElement } from "react";
import { madeUpStudy } from "@/core/testing/study";
import { steadyGrid } from "@/core/testing/drums";
import type { AlignedBars } from "@/core/study";
import { cleanup, fireEvent, openStudy, screen } from "../testing/studio";
import { LoudnessCurves } from "./LoudnessCurves";
import { PeaksOverBars } from "./PeaksOverBars";

afterEach(cleanup);

const render = (element: ReactElement) => openStudy(madeUpStudy(), "loudness", () => element);
/** Points at a share of the picture's width. */
function pointAt(name: RegExp, share: number) {
  const picture = screen.getByRole("img", { name });
  picture.getBoundingClientRect = () => new DOMRect(0, 0, 800, 176);
  fireEvent(picture, new MouseEvent("pointermove", { bubbles: true, clientX: 800 * share }));
  return picture;
}
const textOf = (region: string) => screen.getByRole("region", { name: region }).textContent;

const bars = { first: 1, last: 8 };
const grid = steadyGrid(120, 12, 0);
/** The version plays the same bars two seconds later, and has nothing for bars 7 and 8. */
const later = steadyGrid(120, 14, 2);
const aligned = {
  reference: grid,
  version: later,
  spans: [{ referenceFirst: 1, versionFirst: 1, bars: 6 }],
} as unknown as AlignedBars;

/** K-weighted mean square of each 10 ms at a level in LUFS by time. */
const levels = (seconds: number, lufs: (time: number) => number) =>
  Float32Array.from({ length: 100 * seconds }, (_, i) => 10 ** ((lufs(i / 100) + 0.691) / 10));
const reference = levels(24, () => -20);
const version = levels(28, (time) => (time < 2 ? -60 : -26));

const path = (kind: string) => document.querySelector(`path.${kind.replace(" ", ".")}`)!.getAttribute("d")!;
/** Heights of a path above or below the middle of the picture. */
const heights = (d: string) =>
  [...d.matchAll(/[ML][\d.]+ ([\d.]+)/g)].map((found) => Math.abs(Number(found[1]) - 88));

describe("loudness over the bars", () => {
  const show = (shift = 0, version_ = version) =>
    render(
      <LoudnessCurves
        reference={reference}
        version={version_}
        aligned={aligned}
        bars={bars}
        selected={null}
        onBars={() => {}}
        shift={shift}
      />,
    );

  it("is a surface for each side, as high as it is loud against the loudest moment", () => {
    show();
    screen.getByRole("img", {
      name: "Short-term and momentary loudness, reference above the line, version below",
    });
    screen.getByText(/−44 LUFS at the line, −20 at the edges$/);
    // At −20 LUFS the surface touches the edge; at −26 of 24 dB shown it is three quarters as high.
    expect(Math.max(...heights(path("up surface")))).toBeCloseTo(86, 0);
    expect(Math.max(...heights(path("down surface")))).toBeCloseTo(0.75 * 86, 0);
  });

  it("of the version is shifted as the listener hears it", () => {
    show(6);
    expect(Math.max(...heights(path("down surface")))).toBeCloseTo(86, 0);
    expect(Math.max(...heights(path("line-down")))).toBeCloseTo(86, 0);
  });

  it("has nothing below the line where nothing is recreated", () => {
    show();
    const ends = [...path("down surface").matchAll(/[ML]([\d.]+) /g)].map((found) => Number(found[1]));
    // Six of eight bars.
    expect(Math.max(...ends)).toBeLessThanOrEqual(75.01);
    expect(Math.max(...ends)).toBeGreaterThan(74);
    expect(path("up surface")).toMatch(/100 88Z$/);
  });

  it("is not taken from what the version plays elsewhere", () => {
    // Its first two seconds, before bar 1, are far softer.
    show(
      0,
      levels(28, (time) => (time < 2 ? -20 : -40)),
    );
    expect(Math.max(...heights(path("line-down")).slice(10))).toBeLessThan(0.3 * 86);
  });

  it("is told in numbers where it is pointed at", () => {
    show();
    const picture = pointAt(/^Short-term/, 250 / 800);
    expect(textOf("Loudness over bars")).toMatch(/Bar 3: short-term −20\.0 against −26\.0 LUFS/);
    pointAt(/^Short-term/, 750 / 800);
    expect(textOf("Loudness over bars")).toMatch(/Bar 8: short-term −20\.0 LUFS/);
    fireEvent(picture, new MouseEvent("pointerout", { bubbles: true, relatedTarget: document.body }));
    expect(textOf("Loudness over bars")).toMatch(/at the line/);
  });
});

describe("peaks over the bars", () => {
  const peaks = (seconds: number, peak: number) => new Float32Array(10 * seconds).fill(peak);

  it("are how far each bar's peaks stand above its loudness", () => {
    render(
      <PeaksOverBars
        reference={reference}
        version={version}
        // −6 dBTP over −20 LUFS; −20 dBTP over −26 LUFS.
        peaks={{ reference: peaks(24, 0.501), version: peaks(28, 0.1) }}
        aligned={aligned}
        bars={bars}
        onBars={() => {}}
      />,
    );
    pointAt(/^Peak to loudness of each bar/, 150 / 800);
    expect(textOf("Peaks over bars")).toMatch(/Bar 2: 14\.0 against 6\.0 LU/);
    pointAt(/^Peak to loudness of each bar/, 750 / 800);
    expect(textOf("Peaks over bars")).toMatch(/Bar 8: 14\.0 against – LU/);
  });
});

import { madeUpStudy } from "@/core/testing/study";
import { loudnessModel } from "@/models/loudness";
import { stereoModel } from "@/models/stereo";
import { StereoView } from "../stereo/StereoView";
import { cleanup, fireEvent, openStudy, screen, within, wholeComparison } from "../testing/studio";
import { LoudnessView } from "./LoudnessView";

afterEach(cleanup);

const open = (view: "loudness" | "stereo", study = madeUpStudy()) =>
  openStudy(study, view, (results) => {
    const known = wholeComparison(results);
    const version = results.study.versions.at(-1);
    const compared = known &&
      version && {
        version,
        reference: known.reference,
        measured: known.version,
        nothingRecreated: false,
        outdated: false,
        compared: known.compared,
      };
    return view === "loudness" ? (
      <LoudnessView model={compared ? loudnessModel(results, compared) : null} />
    ) : (
      <StereoView model={compared ? stereoModel(results, compared) : null} />
    );
  });

describe("the Loudness view", () => {
  it("leads with what to do, and has every measure of both sides with its gap", () => {
    open("loudness");
    screen.getByText(/^Turn it down by 3\.0 dB/);
    const row = screen.getByRole("row", { name: /^Integrated/ });
    const [reference, version, gap] = within(row)
      .getAllByRole("cell")
      .slice(1)
      .map(({ textContent }) => textContent);
    expect(reference).toMatch(/ LUFS$/);
    expect(version).toMatch(/ LUFS$/);
    expect(gap).toBe("+3.0 LU");
    expect(screen.getAllByRole("row").length).toBeGreaterThan(7);
  });

  it("tells of hits and of the dip at the kicks, and draws the range that is chosen", () => {
    open("loudness");
    screen.getByRole("row", { name: /^Attack of the hits/ });
    screen.getByText("Hits stand out and ring on as in the reference.");
    screen.getByRole("img", { name: "Level around a kick above 150 Hz, reference and version 2" });
    fireEvent.click(screen.getByRole("button", { name: "below 150 Hz" }));
    screen.getByRole("img", { name: "Level around a kick below 150 Hz, reference and version 2" });
  });

  it("calls a version that stands in for the reference by its own name", () => {
    open("loudness");
    screen.getByRole("columnheader", { name: "Reference" });
    cleanup();
    const study = madeUpStudy();
    open("loudness", { ...study, study: { ...study.study, standIn: 1 } });
    screen.getByRole("columnheader", { name: "Version 1" });
    expect(screen.queryByRole("columnheader", { name: "Reference" })).toBeNull();
  });

  it("says what is missing before there is anything to compare", () => {
    open("loudness", madeUpStudy({ empty: true }));
    screen.getByText("Add a reference first.");
  });
});

describe("the Stereo view", () => {
  it("tells width, correlation and what mono takes away, and switches the monitor", () => {
    open("stereo");
    screen.getByText(/^Correlation \d\.\d\d, the reference \d\.\d\d\./);
    expect(screen.getByRole("button", { name: "Hear mono" }).getAttribute("aria-pressed")).toBe("false");
    fireEvent.click(screen.getByRole("button", { name: "Hear mono" }));
    expect(screen.getByRole("button", { name: "Hear mono" }).getAttribute("aria-pressed")).toBe("true");
    fireEvent.click(screen.getByRole("button", { name: "Hear what mono loses" }));
    expect(screen.getByRole("button", { name: "Hear mono" }).getAttribute("aria-pressed")).toBe("false");
    expect(screen.getByRole("cell", { name: "125 Hz" })).toBeTruthy();
  });

  it("places hits and held sounds, and tells of space and texture with how sure that is", () => {
    open("stereo");
    const kick = screen.getByRole("row", { name: /^Kick/ });
    expect(within(kick).getAllByText("middle")).toHaveLength(2);
    expect(screen.getAllByRole("row", { name: /^150 Hz to 600 Hz/ })).toHaveLength(1);
    expect(screen.getByRole("row", { name: /^Wobble of pitch/ }).textContent).toContain("sure");
  });

  it("says what is missing before there is anything to compare", () => {
    open("stereo", madeUpStudy({ empty: true }));
    screen.getByText("Add a reference first.");
  });
});

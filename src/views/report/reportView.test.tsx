/** The report on the screen: chosen parts, kept in the address, printed and saved. */
import { jest } from "@jest/globals";
import { madeUpLens } from "@/core/testing/lens";
import { madeUpStudy } from "@/core/testing/study";
import { reportedIn, reportOf } from "@/models/report";
import { addressBar } from "../testing/navigation";
import { cleanup, fireEvent, openStudy, screen, wholeComparison, within } from "../testing/studio";
import { ReportView } from "./ReportView";

afterEach(cleanup);

const open = (address = "report", study = madeUpStudy()) =>
  openStudy(study, address, (results) => {
    const known = wholeComparison(results);
    const version = results.study.versions.at(-1);
    const reported =
      known &&
      version &&
      reportedIn(results, {
        version,
        reference: known.reference,
        measured: known.version,
        compared: known.compared,
        nothingRecreated: false,
        outdated: false,
      });
    return <ReportView report={reportOf(results, reported ?? null)} lifted={[...results.lifted]} />;
  });
const chapters = () => [...document.querySelectorAll(".report .chapter h2")].map((own) => own.textContent);
const saveAddress = (format: string) =>
  new URL(screen.getByRole("link", { name: format }).getAttribute("href")!, "http://x").searchParams;

it("shows the match with what it means, and every part as a table with its head", () => {
  open();
  expect(Number(screen.getByTestId("report-match").textContent)).toBeGreaterThan(0);
  expect(chapters()).toHaveLength(9);
  screen.getByRole("img", { name: /^Average spectra of both sides and the gap between them, largest at / });
  const table = within(screen.getByRole("region", { name: "Versions so far" })).getByRole("table");
  expect(
    within(table)
      .getAllByRole("columnheader")
      .map((own) => own.textContent),
  ).toEqual(["Version", "What changed", "Points against the one before", "Match", "File", "Added"]);
  expect(within(table).getAllByRole("row")).toHaveLength(3);
  screen.getByRole("rowheader", { name: "Tempo" });
});

it("leaves out parts, keeps that in the address, and saves what is shown", () => {
  open();
  expect(saveAddress("Markdown").get("parts")).toBeNull();
  fireEvent.click(screen.getByRole("checkbox", { name: "Drum patterns" }));
  fireEvent.click(screen.getByRole("checkbox", { name: "Elements" }));
  expect(chapters()).not.toContain("Drum patterns");
  expect(chapters()).toHaveLength(7);
  const kept = new URL(addressBar.now, "http://x").searchParams.get("parts")!;
  expect(kept.split(",")).toEqual(["next", "aspects", "tone", "versions", "reference", "sections", "method"]);
  for (const format of ["Markdown", "CSV", "JSON"]) {
    expect(saveAddress(format).get("parts")).toBe(kept);
    expect(saveAddress(format).get("version")).toBe("2");
  }
  // With all of them again the address is plain.
  fireEvent.click(screen.getByRole("checkbox", { name: "Drum patterns" }));
  fireEvent.click(screen.getByRole("checkbox", { name: "Elements" }));
  expect(new URL(addressBar.now, "http://x").searchParams.get("parts")).toBeNull();
});

it("takes along what the lens has lifted out of a track, each part from bar 1, once there is something", () => {
  open();
  expect(screen.queryByText("As WAV from bar 1:")).toBeNull();
  cleanup();
  open("report", madeUpStudy({ lens: madeUpLens(24, { snare: {} }) }));
  expect(screen.getAllByText("As WAV from bar 1:")).toHaveLength(2);
  expect(
    screen.getAllByRole("link", { name: "snare or clap" }).map((own) => own.getAttribute("href")),
  ).toEqual(["track0", "track2"].map((track) => `/api/items/${track}/lens?part=snare&from=bar1`));
});

it("opens with the parts that the address names", () => {
  open("report?parts=sections,nothing,drums");
  expect(chapters()).toEqual(["Sections and chords", "Drum patterns"]);
});

it("is printed by the browser", () => {
  const print = jest.spyOn(window, "print").mockImplementation(() => {});
  open();
  fireEvent.click(screen.getByRole("button", { name: "Print or save as PDF" }));
  expect(print).toHaveBeenCalledTimes(1);
  print.mockRestore();
});

it("is how the reference is made where there is no version", () => {
  open("report", madeUpStudy({ versions: 0 }));
  expect(screen.queryByTestId("report-match")).toBeNull();
  expect(chapters()[0]).toBe("How the reference is made");
  screen.getByText(/^Without a version this is the sheet to start from/);
});

import { cleanup, fireEvent, render, screen, waitFor } from "@testing-library/react";
import type { JobRecord } from "@/core/study";
import { AskFirst } from "./AskFirst";
import { DropArea, FileDrop } from "./DropArea";
import { FileLinks } from "./FileLinks";
import { FilePick } from "./FilePick";
import { HistoryLine } from "./HistoryLine";
import { JobLine } from "./JobLine";
import { Problem } from "./Problem";
import { ThemeSwitch } from "./ThemeSwitch";

afterEach(() => {
  cleanup();
  localStorage.clear();
  delete document.documentElement.dataset.bsTheme;
});

const file = (name: string) => new File(["x"], name);

describe("a drop area", () => {
  const open = (several = false) => {
    const taken: string[][] = [];
    render(
      <DropArea
        title="Add versions"
        action="Choose versions"
        several={several}
        onFiles={(files) => taken.push(files.map(({ name }) => name))}
      >
        <p>or drop them</p>
      </DropArea>,
    );
    return taken;
  };
  const area = () => screen.getByRole("region", { name: "Add versions" });

  it("takes what is dropped: one file, or several where it may", () => {
    const one = open();
    fireEvent.drop(area(), { dataTransfer: { files: [file("a.wav"), file("b.wav")] } });
    expect(one).toEqual([["a.wav"]]);
    cleanup();
    const several = open(true);
    fireEvent.drop(area(), { dataTransfer: { files: [file("a.wav"), file("b.wav")] } });
    expect(several).toEqual([["a.wav", "b.wav"]]);
  });

  it("shows that files hang over it, and takes nothing that is no file", () => {
    const taken = open();
    fireEvent.dragOver(area());
    expect(area().className).toContain("is-over");
    fireEvent.dragLeave(area());
    expect(area().className).not.toContain("is-over");
    fireEvent.drop(area(), { dataTransfer: { files: [] } });
    expect(taken).toEqual([]);
  });

  it("takes what is chosen, the same file twice too", () => {
    const taken = open();
    const field = screen.getByLabelText<HTMLInputElement>("Choose versions", { selector: "input" });
    fireEvent.change(field, { target: { files: [file("a.wav")] } });
    fireEvent.change(field, { target: { files: [file("a.wav")] } });
    expect(taken).toEqual([["a.wav"], ["a.wav"]]);
  });
});

it("a dropped folder gives all of its files, also those in folders, but no hidden ones", async () => {
  const taken: string[][] = [];
  const entry = (name: string, inside?: unknown[]) =>
    inside
      ? {
          name,
          isFile: false,
          isDirectory: true,
          createReader: () => {
            // A reader gives a part at a time, then nothing.
            const parts = [inside.slice(0, 1), inside.slice(1), []];
            return { readEntries: (give: (entries: unknown[]) => void) => give(parts.shift() ?? []) };
          },
        }
      : {
          name,
          isFile: true,
          isDirectory: false,
          file: (give: (file: File) => void) => give(new File(["x"], name)),
        };
  render(
    <FileDrop label="Sounds" onFiles={(files) => taken.push(files.map(({ name }) => name))}>
      {() => <p>Drop a kit</p>}
    </FileDrop>,
  );
  const kit = entry("kit", [
    entry("snare.wav"),
    entry("kicks", [entry("b.wav"), entry("a.wav")]),
    entry(".hidden"),
  ]);
  fireEvent.drop(screen.getByText("Drop a kit"), {
    dataTransfer: { files: [], items: [{ webkitGetAsEntry: () => kit }] },
  });
  await waitFor(() => expect(taken).toEqual([["a.wav", "b.wav", "snare.wav"]]));
});

describe("the line of an analysis", () => {
  const open = (job: Partial<JobRecord>) => {
    const done: string[] = [];
    render(
      <JobLine
        job={{ state: "running", message: "Measuring", done: 0.256, refusal: null, ...job }}
        onCancel={() => done.push("cancel")}
        onAgain={() => done.push("again")}
      />,
    );
    return done;
  };

  it("says how far it is, and can be cancelled", () => {
    const done = open({});
    screen.getByText("Measuring · 26 %");
    fireEvent.click(screen.getByRole("button", { name: "Cancel" }));
    expect(done).toEqual(["cancel"]);
  });

  it("says what is known of the track before the end", () => {
    const early = { integratedLufs: -9.24, truePeakDbtp: -0.31, slopeDbPerOctave: -4.4 };
    open({ early: { ...early, grid: { bpm: 118, beatsPerBar: 4 } } });
    screen.getByText("118.00 BPM, 4 beats to the bar · −9.2 LUFS · −0.3 dBTP · slope −4.4 dB/oct");
    open({ early });
    screen.getByText("−9.2 LUFS · −0.3 dBTP · slope −4.4 dB/oct");
    open({ early: { ...early, integratedLufs: null } });
    screen.getByText("Silent.");
  });

  it.each<[string, Partial<JobRecord>, RegExp]>([
    ["waiting, without a share", { state: "queued", message: "Waiting" }, /^Waiting$/],
    ["cancelled", { state: "cancelled" }, /^The analysis was cancelled\./],
    ["failed", { state: "failed" }, /^The analysis failed\./],
    [
      "failed for a reason",
      {
        state: "failed",
        refusal: { code: "damaged", sentence: "It is cut off.", remedy: "Export it again." },
      },
      /^It is cut off\. Export it again\./,
    ],
  ])("%s", (_name, job, words) => {
    open(job);
    screen.getByText(words);
  });

  it("is not there once it is done", () => {
    open({ state: "done" });
    expect(document.body.textContent).toBe("");
  });
});

describe("small parts", () => {
  it("a file pick hands over the file", () => {
    const taken: string[] = [];
    render(<FilePick text="Import" label="Part" accept=".mid" onFile={({ name }) => taken.push(name)} />);
    const field = screen.getByLabelText("Part");
    fireEvent.change(field, { target: { files: [file("a.mid")] } });
    fireEvent.change(field, { target: { files: [] } });
    expect(taken).toEqual(["a.mid"]);
  });

  it("file links lead to each format", () => {
    render(
      <FileLinks
        formats={[
          { format: "csv", label: "CSV" },
          { format: "midi", label: "MIDI" },
        ]}
        addressOf={(format) => `/x?format=${format}`}
      />,
    );
    expect(screen.getAllByRole("link").map((own) => own.getAttribute("href"))).toEqual([
      "/x?format=csv",
      "/x?format=midi",
    ]);
  });

  it("the theme changes and is remembered", () => {
    let told = 0;
    window.addEventListener("themechange", () => told++);
    render(<ThemeSwitch />);
    const button = screen.getByRole("button", { name: "Paper or dark theme" });
    fireEvent.click(button);
    expect([document.documentElement.dataset.bsTheme, localStorage.getItem("theme")]).toEqual([
      "dark",
      "dark",
    ]);
    fireEvent.click(button);
    expect([document.documentElement.dataset.bsTheme, localStorage.getItem("theme"), told]).toEqual([
      "light",
      "light",
      2,
    ]);
  });

  it("a question is asked before something is lost", () => {
    const done: string[] = [];
    render(
      <AskFirst
        title="Delete?"
        action="Delete"
        onConfirm={() => done.push("yes")}
        onCancel={() => done.push("no")}
      >
        <p>It is gone then.</p>
      </AskFirst>,
    );
    screen.getByRole("dialog", { name: "Delete?" });
    fireEvent.click(screen.getByRole("button", { name: "Keep" }));
    fireEvent.click(screen.getByRole("button", { name: "Delete" }));
    expect(done).toEqual(["no", "yes"]);
  });

  it("a problem says what it is and what to do", () => {
    render(<Problem refusal={{ code: "not-found", sentence: "This study is not here any more." }} />);
    screen.getByRole("heading", { name: "Nothing is here" });
    cleanup();
    render(<Problem refusal={{ code: "internal", sentence: "It can't be read.", remedy: "Reload." }} />);
    expect(screen.getByRole("alert").textContent).toBe("It can't be read. Reload.");
    screen.getByRole("link", { name: "Go to the list of studies" });
  });

  it("a small change of score is not drawn as a leap", () => {
    const heights = (scores: number[]) => {
      render(<HistoryLine scores={scores} label="Match" height={38} />);
      const points = document.querySelector("polyline")!.getAttribute("points")!.split(" ");
      cleanup();
      return points.map((own) => Number(own.split(",")[1]));
    };
    const [a, b] = heights([70, 71]);
    expect(a! - b!).toBeCloseTo(1, 6);
    const [c, d] = heights([10, 90]);
    expect(c! - d!).toBeCloseTo(30, 6);
  });
});

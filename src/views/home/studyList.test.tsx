import { act, cleanup, fireEvent, render, screen, within } from "@testing-library/react";
import { Notices } from "@/components/Notices";
import type { RemovedStudy, StudyRow } from "@/core/study";
import { addressBar } from "../testing/navigation";
import { json, prepareWindow, refusal, tell } from "../testing/studio";
import { StudyList } from "./StudyList";

afterEach(cleanup);
beforeEach(() => prepareWindow());

const summary = {
  artist: null,
  referenceFile: "reference.wav",
  pending: false,
  bpm: 120,
  key: { tonic: 9, mode: "minor" as const },
  referenceState: null,
  versions: 2,
  match: 71.6,
  history: [60, 71.6],
};
const row = (
  id: string,
  title: string,
  addedAt: number,
  change: (Partial<Omit<typeof summary, "match">> & { match?: number | null }) | null = {},
): StudyRow => ({
  id,
  title,
  addedAt,
  summary: change && { ...summary, ...change },
});
const rows = [
  row("a", "Copper", 2, { match: 40 }),
  row("b", "Amber", 3),
  row("c", "Birch", 1, { match: null }),
];

function open(list: StudyRow[] = rows, removed: RemovedStudy[] = []) {
  const requests: { method: string; path: string; body: unknown }[] = [];
  const state = { answer: (): Response => json([{ id: 7 }]) };
  globalThis.fetch = ((path: string, init?: RequestInit) => {
    requests.push({
      method: init?.method ?? "GET",
      path,
      body: init?.body ? JSON.parse(String(init.body)) : null,
    });
    return Promise.resolve(state.answer());
  }) as typeof fetch;
  addressBar.open("/");
  render(
    <Notices>
      <StudyList rows={list} removed={removed} revision={5} />
    </Notices>,
  );
  return { requests, state };
}
const titles = () =>
  within(screen.getByRole("region", { name: "Studies" }))
    .getAllByRole("link")
    .map((own) => own.textContent);
const settle = () => act(() => new Promise((resolve) => setTimeout(resolve, 5)));

describe("the list of studies", () => {
  it("is sorted by age, name or match", () => {
    open();
    expect(titles()).toEqual(["Amber", "Copper", "Birch"]);
    fireEvent.click(screen.getByRole("button", { name: "by name" }));
    expect(titles()).toEqual(["Amber", "Birch", "Copper"]);
    fireEvent.click(screen.getByRole("button", { name: "closest first" }));
    expect(titles()).toEqual(["Amber", "Copper", "Birch"]);
  });

  it("says of each what is known", () => {
    open([row("a", "Copper", Date.UTC(2026, 10, 2))]);
    const cells = screen.getAllByRole("cell").map((own) => own.textContent);
    expect(cells.slice(0, 5)).toEqual([
      "Copperstarted 2 Nov 2026",
      "reference.wav",
      "120.00 BPM",
      "A minor",
      "2",
    ]);
    screen.getByRole("img", { name: "Match of Copper over versions: 60, 72" });
  });

  it("shows one that cannot be read beside the others", () => {
    open([row("a", "Copper", 2), row("d", "Damaged", 1, null)]);
    screen.getByText("Its summary can't be read; open it to see why.");
    expect(titles()).toEqual(["Copper", "Damaged"]);
  });

  it("renames a study, which can be undone from the notice", async () => {
    const { requests } = open();
    fireEvent.click(screen.getByRole("button", { name: "Rename Birch" }));
    const field = screen.getByLabelText("Name of Birch");
    fireEvent.change(field, { target: { value: "Silver birch" } });
    fireEvent.keyDown(field, { key: "Enter" });
    await settle();
    expect(requests[0]).toEqual({
      method: "POST",
      path: "/api/studies/c/edits",
      body: {
        edits: [
          {
            label: "Renamed to “Silver birch”",
            patch: [{ path: ["study", "title"], from: "Birch", to: "Silver birch" }],
          },
        ],
      },
    });
    expect(addressBar.refreshes).toBe(1);
    fireEvent.click(screen.getByRole("button", { name: "Undo" }));
    await settle();
    expect(requests[1]).toEqual({ method: "POST", path: "/api/studies/c/undo", body: { id: 7 } });
    expect(addressBar.refreshes).toBe(2);
  });

  it("says why something cannot be done", async () => {
    const { state } = open();
    state.answer = () => refusal("The disk is full.", 507);
    fireEvent.click(screen.getByRole("button", { name: "Delete Birch" }));
    await settle();
    screen.getByText("The disk is full.");
    globalThis.fetch = () => Promise.reject(new TypeError("no network"));
    fireEvent.click(screen.getByRole("button", { name: "start with an empty study" }));
    await settle();
    screen.getByText("Can't reach the server. Check that Plain Mirror is still running, then try again.");
  });

  it("begins an empty study and goes to it", async () => {
    const { state, requests } = open([]);
    state.answer = () => json({ studyId: "new" });
    screen.getByRole("region", { name: "Start with a reference track" });
    fireEvent.click(screen.getByRole("button", { name: "start with an empty study" }));
    await settle();
    expect(requests[0]).toMatchObject({ path: "/api/studies", body: { title: "Untitled study" } });
    expect(addressBar.now).toBe("/studies/new/overview");
  });

  it("is read anew when a study has changed, and not for what it knows already", async () => {
    open();
    act(() => tell({ kind: "study", studyId: "a", revision: 4 }));
    await settle();
    expect(addressBar.refreshes).toBe(0);
    act(() => tell({ kind: "study", studyId: "a", revision: 6 }));
    await settle();
    expect(addressBar.refreshes).toBeGreaterThan(0);
  });
});

describe("a reference that is dropped", () => {
  class FakeUpload {
    static last: FakeUpload;
    upload = {} as { onprogress?: (event: object) => void };
    status = 200;
    responseText = "";
    onload = () => {};
    onabort = () => {};
    path = "";
    constructor() {
      FakeUpload.last = this;
    }
    open(_method: string, path: string) {
      this.path = path;
    }
    send() {}
    abort() {
      this.onabort();
    }
  }
  beforeEach(() => Object.assign(globalThis, { XMLHttpRequest: FakeUpload }));
  const drop = (...names: string[]) =>
    fireEvent.drop(screen.getByRole("region", { name: "New study" }), {
      dataTransfer: { files: names.map((name) => new File(["x"], name)) },
    });

  it("is uploaded with progress, and opens its study", async () => {
    open();
    drop("my song.wav");
    expect(FakeUpload.last.path).toBe("/api/studies?name=my%20song.wav");
    act(() => FakeUpload.last.upload.onprogress!({ lengthComputable: true, loaded: 1, total: 4 }));
    screen.getByText("Uploading my song.wav");
    expect(screen.getByRole("progressbar").getAttribute("aria-valuenow")).toBe("25");
    act(() => FakeUpload.last.upload.onprogress!({ lengthComputable: true, loaded: 4, total: 4 }));
    screen.getByText("Checking my song.wav");
    FakeUpload.last.responseText = JSON.stringify({ studyId: "s", itemId: "i", number: 0 });
    await act(async () => FakeUpload.last.onload());
    expect(addressBar.now).toBe("/studies/s/overview");
  });

  it("with what there is of it makes a study of all, the reference first", async () => {
    open();
    drop("rebuild 2.wav", "my song.wav", "rebuild 1.wav", "kick.wav");
    const dialog = within(screen.getByRole("dialog", { name: "What are these 4 files?" }));
    fireEvent.click(dialog.getByRole("button", { name: "Add 4 files" }));
    const paths: string[] = [];
    for (let i = 0; i < 4; i++) {
      paths.push(FakeUpload.last.path);
      const isRefused = i === 3;
      FakeUpload.last.status = isRefused ? 422 : 201;
      FakeUpload.last.responseText = JSON.stringify(
        isRefused
          ? { refusal: { code: "damaged", sentence: "This file is damaged." } }
          : { studyId: "s", itemId: "r", number: i },
      );
      await act(async () => FakeUpload.last.onload());
    }
    expect(paths).toEqual([
      "/api/studies?name=my%20song.wav",
      "/api/studies/s/items?name=kick.wav&role=stem&parent=r",
      "/api/studies/s/items?name=rebuild%201.wav&role=version",
      "/api/studies/s/items?name=rebuild%202.wav&role=version",
    ]);
    // What went wrong is read before the study is opened.
    expect(screen.getByRole("alert").textContent).toBe("rebuild 2.wav: This file is damaged.");
    expect(addressBar.now).toBe("/");
  });

  it("that is refused is told with its name; nothing else is lost", async () => {
    open();
    drop("notes.txt");
    FakeUpload.last.status = 415;
    FakeUpload.last.responseText = JSON.stringify({
      refusal: { code: "unknown-format", sentence: "This is no audio file.", remedy: "Choose another." },
    });
    await act(async () => FakeUpload.last.onload());
    expect(screen.getByRole("alert").textContent).toBe("notes.txt: This is no audio file. Choose another.");
    expect(titles()).toHaveLength(3);
  });

  it("can be cancelled", async () => {
    open();
    drop("long.wav");
    await act(async () => fireEvent.click(screen.getByRole("button", { name: "Cancel" })));
    expect(screen.getByRole("alert").textContent).toBe("long.wav: The upload was cancelled.");
  });
});

describe("deleted studies", () => {
  const removed: RemovedStudy[] = [{ id: "r", title: "Old idea", removedAt: Date.UTC(2026, 10, 20) }];

  it("are brought back", async () => {
    const { requests } = open(rows, removed);
    screen.getByText("Recently deleted (1), kept for seven days");
    fireEvent.click(screen.getByRole("button", { name: "Restore Old idea", hidden: true }));
    await settle();
    expect(requests[0]).toMatchObject({
      path: "/api/studies/r/edits",
      body: { edits: [{ patch: [{ path: ["study", "removed"], from: true, to: false }] }] },
    });
    screen.getByText("“Old idea” restored");
  });

  it("are deleted for good only when that is said twice", async () => {
    const { requests } = open(rows, removed);
    fireEvent.click(screen.getByRole("button", { name: "Delete Old idea permanently", hidden: true }));
    const dialog = within(screen.getByRole("dialog"));
    fireEvent.click(dialog.getByRole("button", { name: "Keep" }));
    await settle();
    expect(requests).toEqual([]);
    fireEvent.click(screen.getByRole("button", { name: "Delete Old idea permanently", hidden: true }));
    fireEvent.click(
      within(screen.getAllByRole("dialog").at(-1)!).getByRole("button", { name: "Delete permanently" }),
    );
    await settle();
    expect(requests).toEqual([{ method: "DELETE", path: "/api/studies/r", body: null }]);
    screen.getByText("“Old idea” deleted permanently");
  });
});

/** Edits faster than the server, refused ones, undo in between: what is shown and what is sent. */
import { applyPatch, inverted } from "@/core/edits/patch";
import { refuse, success, type Outcome, type Refusal } from "@/core/outcome";
import { defaultAspectWeights } from "@/core/match";
import type { StudyDocument } from "@/core/study";
import { EditQueue, type AppliedEdit, type EditPort } from "./EditQueue";

const empty: StudyDocument = {
  study: {
    title: "Made up",
    aspectWeights: defaultAspectWeights,
    intended: { bpm: null, semitones: 0, drums: [] },
    marks: {},
    target: null,
    styleAspects: [],
    folder: null,
    removed: false,
  },
  elements: {},
  elementOrder: [],
  items: {
    a: {
      note: "",
      elementId: null,
      offsetSeconds: null,
      coverage: null,
      chosenFor: null,
      starred: false,
      place: null,
      removed: false,
      grid: {},
      harmony: {},
      form: {},
      drums: {},
      equaliser: {},
      hits: {},
      bass: {},
      presence: {},
    },
  },
};

/** A server that answers when it is told to. */
function world(refuses: (label: string) => boolean = () => false) {
  let document = empty;
  let sequence = 0;
  const log: AppliedEdit[] = [];
  const requests: string[][] = [];
  const said: string[] = [];
  const refusals: Refusal[] = [];
  let waiting: (() => void)[] = [];
  const turn = () => new Promise<void>((resolve) => waiting.push(resolve));
  const apply = (label: string, patch: AppliedEdit["patch"]): AppliedEdit => {
    const next = applyPatch(document, patch);
    if (!next.ok) throw new Error("a patch does not fit");
    document = next.value;
    const own = { id: log.length + 1, label, patch, sequence: ++sequence };
    log.push(own);
    return own;
  };
  const port: EditPort = {
    async send(edits): Promise<Outcome<AppliedEdit[]>> {
      requests.push(edits.map(({ label }) => label));
      await turn();
      if (edits.some(({ label }) => refuses(label))) return refuse("bad-request", "This can't be saved.");
      return success(edits.map(({ label, patch }) => apply(label, patch)));
    },
    async turn(direction, id) {
      requests.push([`${direction} ${id ?? "newest"}`]);
      await turn();
      const own = id === null ? log.at(-1) : log.find((one) => one.id === id);
      if (!own) return refuse("not-found", "There is nothing to undo.");
      return success(apply(own.label, direction === "undo" ? inverted(own.patch) : own.patch));
    },
    saved: ({ label }, count) => said.push(`${label} ×${count}`),
    turned: (direction, { label }) => said.push(`${direction} ${label}`),
    refused: (refusal) => refusals.push(refusal),
  };
  const queue = new EditQueue(empty, 0, port);
  return {
    queue,
    requests,
    said,
    refusals,
    server: () => document,
    sequence: () => sequence,
    /** Lets the server answer until nothing is on its way. */
    async settle() {
      for (let i = 0; i < 100; i++) {
        const now = waiting;
        waiting = [];
        now.forEach((resolve) => resolve());
        await new Promise((resolve) => setImmediate(resolve));
      }
    },
  };
}

const nudge = (document: StudyDocument): StudyDocument => ({
  ...document,
  items: {
    a: { ...document.items.a!, grid: { nudgeSeconds: (document.items.a!.grid.nudgeSeconds ?? 0) + 0.005 } },
  },
});
const titled = (title: string) => (document: StudyDocument) => ({
  ...document,
  study: { ...document.study, title },
});
const nudgeOf = (document: StudyDocument) => Math.round(1000 * (document.items.a!.grid.nudgeSeconds ?? 0));

describe("the queue of edits", () => {
  it("counts ten quick presses as ten, at once and on the server, in few requests", async () => {
    const { queue, requests, said, server, settle } = world();
    for (let i = 0; i < 10; i++) queue.edit("Nudged", nudge);
    expect(nudgeOf(queue.document)).toBe(50);
    expect(queue.isSaving).toBe(true);
    await settle();
    expect(nudgeOf(server())).toBe(50);
    expect(requests.map((own) => own.length)).toEqual([1, 9]);
    expect(said).toEqual(["Nudged ×1", "Nudged ×9"]);
    expect(queue.isSaving).toBe(false);
  });

  it("sends nothing where nothing changes", async () => {
    const { queue, requests, settle } = world();
    queue.edit("Same", (document) => ({ ...document }));
    await settle();
    expect(requests).toEqual([]);
  });

  it("keeps what is shown while the page still has the old document, and drops it when it has the new", async () => {
    const { queue, server, sequence, settle } = world();
    queue.edit("Renamed", titled("One"));
    await settle();
    // A page that was read before the edit arrived.
    queue.setBase({ ...empty }, 0);
    expect(queue.document.study.title).toBe("One");
    queue.setBase(server(), sequence());
    expect(queue.document).toBe(server());
  });

  it("lays an edit after an undo over what the undo left", async () => {
    const { queue, server, settle } = world();
    queue.edit("Renamed", titled("One"));
    await settle();
    queue.undo();
    await settle();
    expect(queue.document.study.title).toBe("Made up");
    queue.edit("Nudged", nudge);
    await settle();
    expect([server().study.title, nudgeOf(server())]).toEqual(["Made up", 5]);
  });

  it("keeps edit, undo and edit in the order in which they were pressed", async () => {
    const { queue, requests, server, settle } = world();
    queue.edit("Renamed", titled("One"));
    queue.undo();
    queue.edit("Nudged", nudge);
    await settle();
    expect(requests).toEqual([["Renamed"], ["undo newest"], ["Nudged"]]);
    expect([server().study.title, nudgeOf(server())]).toEqual(["Made up", 5]);
  });

  it("makes an edit for the study as an undo leaves it, also where the undo is still on its way", async () => {
    const { queue, refusals, server, settle } = world();
    queue.edit("Nudged", nudge);
    queue.edit("Nudged", nudge);
    await settle();
    queue.undo();
    // What it starts from is gone once the undo has been done.
    queue.edit("Nudged", nudge);
    expect(nudgeOf(queue.document)).toBe(15);
    await settle();
    expect(refusals).toEqual([]);
    expect([nudgeOf(server()), nudgeOf(queue.document)]).toEqual([10, 10]);
  });

  it("drops an edit that an undo before it has made needless", async () => {
    const { queue, requests, refusals, server, settle } = world();
    queue.edit("Nudged", nudge);
    await settle();
    queue.undo();
    queue.edit("Reset", (document) => ({ ...document, items: { a: { ...document.items.a!, grid: {} } } }));
    await settle();
    expect(refusals).toEqual([]);
    expect(requests).toEqual([["Nudged"], ["undo newest"]]);
    expect(nudgeOf(server())).toBe(0);
  });

  it("makes an unsent edit again where somebody else has changed the same", () => {
    const { queue } = world();
    queue.edit("Renamed", titled("One"));
    queue.edit("Nudged", nudge);
    // A page that holds what another window has set, while the first edit is still on its way.
    queue.setBase({ ...empty, items: nudge(empty).items }, 0);
    expect(nudgeOf(queue.document)).toBe(10);
  });

  it("takes back a refused edit with all that built on it, says why, and goes on", async () => {
    const { queue, refusals, server, settle } = world((label) => label === "Bad");
    queue.edit("Good", titled("One"));
    await settle();
    queue.edit("Bad", titled("Two"));
    queue.edit("After", nudge);
    expect(queue.document.study.title).toBe("Two");
    await settle();
    expect(refusals).toHaveLength(1);
    expect([queue.document.study.title, nudgeOf(queue.document)]).toEqual(["One", 0]);
    queue.edit("Good again", nudge);
    await settle();
    expect(nudgeOf(server())).toBe(5);
  });

  it("tells its listeners of every change, and no more after they have left", async () => {
    const { queue, settle } = world();
    let heard = 0;
    const leave = queue.subscribe(() => heard++);
    queue.edit("Nudged", nudge);
    expect(heard).toBe(1);
    await settle();
    const before = heard;
    leave();
    queue.edit("Nudged", nudge);
    await settle();
    expect(heard).toBe(before);
  });
});

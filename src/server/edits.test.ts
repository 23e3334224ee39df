/** Everything that people change, over a real database file: edited, undone, deleted, brought back. */
import { readdir } from "node:fs/promises";
import { eq } from "drizzle-orm";
import { GET as changesRoute } from "@/app/api/studies/[studyId]/edits/route";
import { PUT as addItemRoute } from "@/app/api/studies/[studyId]/items/route";
import { DELETE as removeForGoodRoute } from "@/app/api/studies/[studyId]/route";
import { filesFolder } from "./storage/paths";
import { files, jobs, studies } from "./storage/schema";
import { clearAway, keptDays } from "./storage/sweep";
import type { LoggedEdit } from "./study/edit";
import { listRemovedStudies, listStudies } from "./study/summary";
import { pageRequest, pieceWav } from "./testing/helpers";
import { context, testServer, type Added } from "./testing/testServer";

const { db, read, newStudy, begin, beginVersion, edit, editItem, send, undo, redo, idle } = testServer();

describe("editing", () => {
  it("changes everything through one log, and takes it back and does it again in order", async () => {
    const { studyId } = await begin({ seed: 31 });
    const { itemId } = await beginVersion(studyId, pieceWav({ seed: 32 }));
    expect((await edit(studyId, (d) => ({ ...d, study: { ...d.study, title: "Renamed" } }))).status).toBe(
      200,
    );
    await editItem(studyId, itemId, { note: "  snare later " });
    await edit(studyId, (d) => ({
      ...d,
      study: { ...d.study, aspectWeights: { ...d.study.aspectWeights, tempo: 5 } },
    }));
    const now = async () => {
      const { study } = await read(studyId);
      return [study.title, study.versions[0]?.note, study.aspectWeights.tempo];
    };
    expect(await now()).toEqual(["Renamed", "snare later", 5]);
    await undo(studyId);
    await undo(studyId);
    expect(await now()).toEqual(["Renamed", "", 2]);
    await redo(studyId);
    expect(await now()).toEqual(["Renamed", "snare later", 2]);
    // Something new: what was undone before cannot be done again.
    await editItem(studyId, itemId, { note: "snare earlier" });
    expect((await redo(studyId)).status).toBe(404);
    expect((await undo("gone")).status).toBe(404);
  });

  it("undoes what is named, not only the newest, and says where that is not possible", async () => {
    const { studyId } = await begin({ seed: 34 });
    const rename = async (title: string) =>
      (await (await edit(studyId, (d) => ({ ...d, study: { ...d.study, title } }))).json()) as {
        id: number;
      }[];
    const [first] = await rename("One");
    await edit(studyId, (d) => ({ ...d, study: { ...d.study, intended: { bpm: 99, semitones: 0 } } }));
    await undo(studyId, first!.id);
    const { study } = await read(studyId);
    expect([study.title, study.intended.bpm]).toEqual(["song", 99]);
    const [second] = await rename("Two");
    await rename("Three");
    const refused = await undo(studyId, second!.id);
    expect(refused.status).toBe(409);
    expect(((await refused.json()) as { refusal: { sentence: string } }).refusal.sentence).toMatch(
      /later change/,
    );
    expect((await undo(studyId, first!.id)).status).toBe(409);
    const logged = (await (
      await changesRoute(pageRequest("GET", "/x"), context({ studyId }))
    ).json()) as LoggedEdit[];
    expect(logged.map(({ undone }) => undone)).toEqual([false, false, false, true]);
  });

  it("keeps equaliser moves with their version, and refuses those that no filter can be", async () => {
    const { studyId } = await begin({ seed: 36 });
    const { itemId } = await beginVersion(studyId, pieceWav({ seed: 37 }));
    const move = { type: "peak", hz: 310, gainDb: -2.9, q: 0.9, on: true } as const;
    const kept = async () => (await read(studyId)).study.versions[0]!.corrections.equaliser;
    const set = (moves: object[]) => editItem(studyId, itemId, { equaliser: { moves } } as never);
    expect((await set([move, { ...move, hz: 5000, on: false }])).status).toBe(200);
    expect(await kept()).toEqual({ moves: [move, { ...move, hz: 5000, on: false }] });
    for (const wrong of [
      [{ ...move, hz: 5 }],
      [{ ...move, hz: 1e9 }],
      [{ ...move, gainDb: 40 }],
      [{ ...move, q: 0 }],
      [{ ...move, type: "comb" }],
      new Array<object>(13).fill(move),
    ])
      expect((await set(wrong)).status).toBe(400);
    expect(await kept()).toEqual({ moves: [move, { ...move, hz: 5000, on: false }] });
    await undo(studyId);
    expect(await kept()).toEqual({});
  });

  it("counts ten edits that arrive together as ten, each on the one before", async () => {
    const { studyId, itemId } = await begin({ seed: 35 });
    const patch = (from: number | undefined, to: number) => [
      { path: ["items", itemId, "grid", "nudgeSeconds"], ...(from === undefined ? {} : { from }), to },
    ];
    const steps = Array.from({ length: 10 }, (_, i) => ({
      label: "+5 ms",
      patch: patch(i === 0 ? undefined : i * 0.005, (i + 1) * 0.005),
    }));
    await Promise.all(steps.map((step) => send(studyId, [step])));
    expect((await read(studyId)).study.reference!.corrections.grid.nudgeSeconds).toBeCloseTo(0.05, 9);
    for (let i = 0; i < 10; i++) await undo(studyId);
    expect((await read(studyId)).study.reference!.corrections.grid).toEqual({});
  });

  it("orders, removes and brings back elements under the same identity", async () => {
    const { studyId } = await begin({ seed: 33 });
    const order = async () => (await read(studyId)).study.elements.map(({ name }) => name);
    const before = await order();
    await edit(studyId, (d) => ({ ...d, elementOrder: [...d.elementOrder].reverse() }));
    expect(await order()).toEqual([...before].reverse());
    const [gone] = (await read(studyId)).study.elements;
    await edit(studyId, (d) => ({ ...d, elementOrder: d.elementOrder.slice(1) }));
    expect(await order()).not.toContain(gone!.name);
    await undo(studyId);
    expect((await read(studyId)).study.elements[0]).toEqual(gone);
    const cowbell = {
      name: "Cowbell",
      lens: null,
      fromHz: 500,
      toHz: 900,
      state: "done" as const,
      note: "",
      weight: 2,
      target: null,
      hidden: false,
    };
    const add = (element: object) =>
      edit(studyId, (d) => ({
        ...d,
        elements: { ...d.elements, c0: element as typeof cowbell },
        elementOrder: [...d.elementOrder, "c0"],
      }));
    expect((await add({ ...cowbell, toHz: 100 })).status).toBe(400);
    expect((await add(cowbell)).status).toBe(200);
    await undo(studyId);
    expect(await order()).not.toContain("Cowbell");
    await redo(studyId);
    expect((await read(studyId)).study.elements.at(-1)).toEqual({ id: "c0", ...cowbell });
  });

  it("keeps the numbers of versions: none is given twice", async () => {
    const { studyId } = await begin({ seed: 36 });
    const one = await beginVersion(studyId, pieceWav({ seed: 37 }));
    await editItem(studyId, one.itemId, { removed: true });
    expect((await read(studyId)).study.versions).toEqual([]);
    const two = await beginVersion(studyId, pieceWav({ seed: 38 }));
    expect([one.number, two.number]).toEqual([1, 2]);
    await undo(studyId);
    await undo(studyId);
    expect((await read(studyId)).study.versions.map(({ number }) => number)).toEqual([1]);
  });

  it("takes an upload back and brings it again, the reference too", async () => {
    const { studyId } = await begin({ seed: 39 });
    const first = (await read(studyId)).study.reference!.id;
    const replaced = (await (
      await addItemRoute(
        pageRequest("PUT", "/x?role=reference&name=new.wav", pieceWav({ seed: 40 })),
        context({ studyId }),
      )
    ).json()) as Added;
    const reference = async () => (await read(studyId)).study.reference!.id;
    expect(await reference()).toBe(replaced.itemId);
    await undo(studyId);
    expect(await reference()).toBe(first);
    await redo(studyId);
    expect(await reference()).toBe(replaced.itemId);
  });
});

describe("deleting", () => {
  const remove = (studyId: string, removed = true) =>
    send(studyId, [
      { label: "Deleted", patch: [{ path: ["study", "removed"], from: !removed, to: removed }] },
    ]);
  const forGood = (studyId: string) => removeForGoodRoute(pageRequest("DELETE", "/x"), context({ studyId }));

  it("can be taken back; for good it removes the files, but not those that another study has", async () => {
    const shared = pieceWav({ seed: 30 });
    const one = (await (await newStudy(shared)).json()) as Added;
    const two = (await (await newStudy(shared)).json()) as Added;
    const hash = (await read(one.studyId)).study.reference!.file.hash;
    expect((await forGood(one.studyId)).status).toBe(404);
    await remove(one.studyId);
    expect(await read(one.studyId)).toBeNull();
    expect((await listStudies(db())).map(({ id }) => id)).not.toContain(one.studyId);
    expect((await listRemovedStudies(db())).map(({ id }) => id)).toContain(one.studyId);
    await undo(one.studyId);
    expect((await read(one.studyId)).study.id).toBe(one.studyId);
    await remove(one.studyId);
    expect((await forGood(one.studyId)).status).toBe(200);
    expect(await readdir(filesFolder())).toContain(hash);
    await remove(two.studyId);
    await forGood(two.studyId);
    expect(await readdir(filesFolder())).not.toContain(hash);
    expect(await db().select().from(files).where(eq(files.hash, hash))).toEqual([]);
    expect(await db().select().from(jobs).where(eq(jobs.subject, hash))).toEqual([]);
    await idle();
  });

  it("is for good after some days", async () => {
    const { studyId } = await begin({ seed: 41 });
    await remove(studyId);
    await clearAway(db(), Date.now() + (keptDays - 1) * 86_400_000);
    expect(await db().select().from(studies).where(eq(studies.id, studyId))).toHaveLength(1);
    await clearAway(db(), Date.now() + (keptDays + 1) * 86_400_000);
    expect(await db().select().from(studies).where(eq(studies.id, studyId))).toEqual([]);
  });
});

/** A version in place of the reference, against the same two files in a study of their own. */
import { GET as reportRoute } from "@/app/api/studies/[studyId]/report/route";
import { parseStudyAddress, studyAddress } from "@/core/study";
import { studyAt } from "./study/address";
import { pageRequest, pieceWav, until } from "./testing/helpers";
import { context, testServer } from "./testing/testServer";

const server = testServer();

const loud = pieceWav({ seconds: 6, seed: 2 });
const quiet = pieceWav({ seconds: 6, seed: 3, gainDb: -5 });
/** The study at an address once its versions are compared. */
const compared = (address: string) =>
  until(async () => {
    const found = await studyAt(server.db(), address);
    if (!found.ok) throw new Error(found.refusal.sentence);
    const { study, alignments, comparisons } = found.value;
    const areDone = study.versions.every(
      ({ id }) => alignments.get(id)?.current && comparisons.get(id)?.current,
    );
    return study.versions.length > 0 && areDone && found.value;
  });

describe("the address of a study", () => {
  it("names the version that stands in", () => {
    for (const own of [
      { id: "a1", standIn: null },
      { id: "0f", standIn: 12 },
    ])
      expect(parseStudyAddress(studyAddress(own))).toEqual(own);
    for (const wrong of ["", "~3", "a~", "a~0", "a~x", "a~1~2", "../a", "a~12345678"])
      expect(parseStudyAddress(wrong)).toBeNull();
  });
});

describe("a version in place of the reference", () => {
  let studyId: string;

  it("gives what it would as a reference, and leaves the study as it is", async () => {
    const begun = await server.begin({ seconds: 6, seed: 1, bpm: 124 });
    ({ studyId } = begun);
    const first = await server.beginVersion(studyId, loud);
    const second = await server.beginVersion(studyId, quiet);
    // Something that was set against the reference does not hold between versions.
    await server.edit(studyId, (document) => ({
      ...document,
      study: { ...document.study, intended: { ...document.study.intended, semitones: 5 } },
    }));
    const before = await server.allDone(studyId);
    const own = await compared(`${studyId}~1`);
    expect(own.study.reference!.id).toBe(first.itemId);
    expect(own.study.versions.map(({ id }) => id)).toEqual([second.itemId]);

    const other = await server.begin(loud);
    const { itemId: otherVersion } = await server.beginVersion(other.studyId, quiet);
    const alone = await server.allDone(other.studyId);
    const scores = (of: typeof alone, id: string) => of.scores.find(({ trackId }) => trackId === id)!;
    const [asStandIn, asReference] = [scores(own, second.itemId), scores(alone, otherVersion)];
    expect(asStandIn.aspects).toEqual(asReference.aspects);
    // The other study tracks the elements that its own reference has.
    expect(alone.study.elements.length).toBeGreaterThan(0);
    const named = (of: typeof alone, id: string) =>
      new Map(of.study.elements.map((element) => [element.name, scores(of, id).elements[element.id]]));
    const ownScores = named(own, second.itemId);
    const inBoth = [...named(alone, otherVersion)].filter(([name]) => ownScores.has(name));
    expect(inBoth.length).toBeGreaterThan(0);
    for (const [name, score] of inBoth) expect(ownScores.get(name)).toBe(score);

    const after = await server.read(studyId);
    expect(after.study.reference!.id).toBe(begun.itemId);
    expect(after.scores).toEqual(before.scores);
    // A correction of either reaches it.
    await server.editItem(studyId, first.itemId, { grid: { bpm: 60 } });
    expect((await studyAt(server.db(), `${studyId}~1`)).ok).toBe(true);
    const corrected = await compared(`${studyId}~1`);
    expect(corrected.grids.get(first.itemId)!.bpm).toBe(60);
  }, 90_000);

  it("is reported, and is refused where there is no such version", async () => {
    const report = (address: string) =>
      reportRoute(pageRequest("GET", "/x?format=markdown"), context({ studyId: address }));
    expect(await (await report(`${studyId}~1`)).text()).toMatch(/v\.wav against version 1, v\.wav\./);
    for (const wrong of [`${studyId}~9`, `${studyId}~`, "nobody~1"])
      expect((await report(wrong)).status).toBe(404);
  });
});

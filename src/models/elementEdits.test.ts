/** Two elements made one, and one taken apart into layers. */
import { documentOf, studyDocumentSchema, type StudyDocument } from "@/core/study";
import { madeUpStudy } from "@/core/testing/study";
import { merged, split } from "./elementEdits";

const document = documentOf(madeUpStudy().study);
const [kick, body, hats] = document.elementOrder as [string, string, string];
const withElements = (
  changes: Record<string, Partial<StudyDocument["elements"][string]>>,
): StudyDocument => ({
  ...document,
  elements: Object.fromEntries(
    Object.entries(document.elements).map(([id, own]) => [id, { ...own, ...changes[id] }]),
  ),
});

describe("two elements made one", () => {
  it("reach over both, weigh as both and keep both notes", () => {
    const two = withElements({
      [kick]: { fromHz: 40, toHz: 110, weight: 0.5, note: "long", lens: "kick" },
      [body]: { fromHz: 150, toHz: 4000, weight: 1, note: "dull", lens: "kick" },
    });
    const one = merged(two, kick, body);
    expect(one.elements[kick]).toMatchObject({
      fromHz: 40,
      toHz: 4000,
      weight: 1.5,
      note: "long; dull",
      lens: "kick",
    });
    expect(one.elementOrder).toEqual([kick, hats]);
    expect(studyDocumentSchema.safeParse(one).success).toBe(true);
  });

  it("are a range of the mix where they are heard through other parts, and never weigh more than may be", () => {
    const two = withElements({ [kick]: { lens: "kick", weight: 8 }, [body]: { lens: "snare", weight: 9 } });
    expect(merged(two, kick, body).elements[kick]).toMatchObject({ lens: null, weight: 10 });
  });

  it("take over the stems of both", () => {
    const items = Object.fromEntries(
      Object.entries(document.items).map(([id, item], i) => [
        id,
        { ...item, elementId: i === 0 ? body : null },
      ]),
    );
    const one = merged({ ...document, items }, kick, body);
    expect(Object.values(one.items).map(({ elementId }) => elementId)[0]).toBe(kick);
  });

  it("stay as they are where one is not there, or both are one", () => {
    expect(merged(document, kick, "gone")).toBe(document);
    expect(merged(document, kick, kick)).toBe(document);
  });
});

describe("an element taken apart", () => {
  it("is two layers that meet in the middle of its range and weigh as much together", () => {
    const two = split(withElements({ [kick]: { fromHz: 40, toHz: 1000, weight: 1 } }), kick, "new1");
    expect(two.elementOrder).toEqual([kick, "new1", body, hats]);
    expect(two.elements[kick]).toMatchObject({ name: "Kick, low", fromHz: 40, toHz: 200, weight: 0.5 });
    expect(two.elements.new1).toMatchObject({
      name: "Kick, high",
      fromHz: 200,
      toHz: 1000,
      weight: 0.5,
      note: "",
    });
    expect(studyDocumentSchema.safeParse(two).success).toBe(true);
  });

  it("keeps its name within what a name may be", () => {
    const two = split(withElements({ [kick]: { name: "x".repeat(60) } }), kick, "new1");
    expect(two.elements.new1!.name).toHaveLength(60);
    expect(two.elements.new1!.name.endsWith(", high")).toBe(true);
    expect(split(document, "gone", "new1")).toBe(document);
  });

  it("is itself again when its layers are made one", () => {
    const own = withElements({ [kick]: { fromHz: 40, toHz: 1000, weight: 1, lens: "kick" } });
    const again = merged(split(own, kick, "new1"), kick, "new1");
    expect(again.elements[kick]).toEqual({ ...own.elements[kick], name: "Kick, low" });
    expect(again.elementOrder).toEqual(own.elementOrder);
  });
});

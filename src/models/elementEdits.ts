/** Edits of several elements at once: two made one, one taken apart into layers. */
import { elementLimits, type ElementRecord, type StudyDocument } from "@/core/study";

const { max, min, round, sqrt } = Math;

/**
 * Two elements as one, under the name of the first: its range reaches over both, its weight is that of both,
 * and stems of the other are its own. It is heard through the lens where both are heard through the same part.
 */
export function merged(document: StudyDocument, id: string, otherId: string): StudyDocument {
  const [own, other] = [document.elements[id], document.elements[otherId]];
  if (!own || !other || id === otherId) return document;
  const note = [own.note, other.note].filter(Boolean).join("; ").slice(0, elementLimits.noteLength);
  return {
    ...document,
    elements: {
      ...document.elements,
      [id]: {
        ...own,
        lens: own.lens === other.lens ? own.lens : null,
        fromHz: min(own.fromHz, other.fromHz),
        toHz: max(own.toHz, other.toHz),
        weight: min(elementLimits.weight, own.weight + other.weight),
        note,
      },
    },
    elementOrder: document.elementOrder.filter((one) => one !== otherId),
    items: Object.fromEntries(
      Object.entries(document.items).map(([itemId, item]) => [
        itemId,
        item.elementId === otherId ? { ...item, elementId: id } : item,
      ]),
    ),
  };
}

/** Two layers of an element, the lower and the upper half of its range; each counts half. */
export function layersOf({
  id: _,
  ...own
}: ElementRecord): readonly [lower: Omit<ElementRecord, "id">, upper: Omit<ElementRecord, "id">] {
  const middle = round(sqrt(own.fromHz * own.toHz));
  const named = (ending: string) => `${own.name.slice(0, elementLimits.nameLength - ending.length)}${ending}`;
  const weight = own.weight / 2;
  return [
    { ...own, name: named(", low"), toHz: middle, weight },
    { ...own, name: named(", high"), fromHz: middle, weight, note: "" },
  ];
}

/** An element taken apart into two layers, the upper one under a new id right after it. */
export function split(document: StudyDocument, id: string, newId: string): StudyDocument {
  const own = document.elements[id];
  const place = document.elementOrder.indexOf(id);
  if (!own || place < 0) return document;
  const [lower, upper] = layersOf({ id, ...own });
  return {
    ...document,
    elements: { ...document.elements, [id]: lower, [newId]: upper },
    elementOrder: [
      ...document.elementOrder.slice(0, place + 1),
      newId,
      ...document.elementOrder.slice(place + 1),
    ],
  };
}

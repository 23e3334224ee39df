import type { ComparedElement } from "@/core/match";
import type { FullComparison } from "@/core/study";

/** What the elements view shows of a comparison: one entry an element, by its id. */
export type ElementsModel = Record<string, ComparedElement>;

export const elementsModel = ({ elements }: FullComparison): ElementsModel =>
  Object.fromEntries(elements.map(({ element, compared }) => [element.id, compared]));

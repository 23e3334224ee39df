"use client";

import { useStudy } from "./StudyContext";

/** What stands in the reference's place is called by its own name. */
export function useReferenceName(): string {
  const { standIn } = useStudy().study;
  return standIn === null ? "Reference" : `Version ${standIn}`;
}

/** The same as the heading of a column. */
export function ReferenceName() {
  return useReferenceName();
}

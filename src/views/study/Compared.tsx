"use client";

import type { ReactNode } from "react";
import type { MixAspect } from "@/core/match";
import { barWords } from "@/models/coverage";
import { points } from "@/models/format";
import { useStudy } from "./StudyContext";

/** In words: over what both sides are compared. */
export function useWhere(): string {
  const { bars, selection } = useStudy();
  return bars ? barWords(bars) : selection ? "the selection" : "all that is recreated";
}

/** A view of a comparison before there is one. */
export function NotYet({ title, what, toCome }: { title: string; what: string; toCome: string }) {
  const { study, version } = useStudy();
  return (
    <div className="view-heading">
      <h1>{title}</h1>
      <p>
        {!study.reference
          ? "Add a reference first."
          : version
            ? `${toCome} as soon as the two are analysed.`
            : `Add a version to hold its ${what} against the reference's.`}
      </p>
    </div>
  );
}

/** A view of a selection of which nothing is recreated. */
export function NothingRecreated({ title }: { title: string }) {
  return (
    <div className="view-heading">
      <h1>{title}</h1>
      <p>Nothing of this selection is recreated. Select bars you have recreated, or clear the selection.</p>
    </div>
  );
}

/** The score of an aspect as the large answer, with what it was in the version before. */
export function AspectAnswer({
  aspect,
  score,
  children,
}: {
  aspect: MixAspect;
  score: number | null;
  children?: ReactNode;
}) {
  const { selection, scoresBefore } = useStudy();
  const before = scoresBefore?.aspects[aspect] ?? null;
  return (
    <div className="answer">
      <span className="value" data-testid={`${aspect}-score`}>
        {points(score)}
      </span>
      <span className="soft">
        of 100
        {selection
          ? " in the selection"
          : scoresBefore && before !== null
            ? ` · ${points(before)} in v${scoresBefore.number}`
            : ""}
        {children}
      </span>
    </div>
  );
}

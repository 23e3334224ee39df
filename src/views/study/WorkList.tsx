"use client";

import Link from "next/link";
import { useEffect, useState, type ReactNode } from "react";
import { points } from "@/models/format";
import { drumScore } from "@/models/drums";
import { lowEndScore } from "@/models/lowEndScore";
import { useStudy } from "./StudyContext";

/** Below this a match stands out in the list of work. */
const weakMatch = 60;

const storageKey = "foldedGroups";

/** Which groups of the list are folded, remembered. */
function useFolded(): { isFolded(group: string): boolean; toggle(group: string): void } {
  const [folded, setFolded] = useState<readonly string[]>([]);
  useEffect(() => {
    const stored = localStorage.getItem(storageKey);
    // oxlint-disable-next-line react-hooks/set-state-in-effect -- storage is not there on the server
    if (stored) setFolded(stored.split(","));
  }, []);
  return {
    isFolded: (group) => folded.includes(group),
    toggle(group) {
      const next = folded.includes(group) ? folded.filter((own) => own !== group) : [...folded, group];
      localStorage.setItem(storageKey, next.join(","));
      setFolded(next);
    },
  };
}

/** The views in the order of work, each with its match: the list is also the to-do list. */
export function WorkList() {
  const { study, versionScores, addressOf, view } = useStudy();
  const { isFolded, toggle } = useFolded();
  const elementScores = Object.values(versionScores?.elements ?? {}).filter((score) => score !== null);
  const elementMean =
    elementScores.length > 0 ? elementScores.reduce((a, b) => a + b, 0) / elementScores.length : null;
  const score = (value: number | null | undefined) => (
    <span
      className={
        value !== null && value !== undefined && value < weakMatch ? "needs-attention strong" : "soft"
      }
    >
      {points(value)}
    </span>
  );
  const entry = (name: string, title: string, end: ReactNode) => (
    <Link href={addressOf(name)} prefetch={false} aria-current={view === name ? "page" : undefined}>
      <span>{title}</span>
      {end}
    </Link>
  );
  const group = (title: string, entries: ReactNode) => (
    <>
      <h2>
        <button
          type="button"
          className="plain-button"
          aria-expanded={!isFolded(title)}
          title={isFolded(title) ? "Unfold" : "Fold"}
          onClick={() => toggle(title)}
        >
          {title} <span aria-hidden="true">{isFolded(title) ? "▸" : ""}</span>
        </button>
      </h2>
      {!isFolded(title) && entries}
    </>
  );
  const aspects = versionScores?.aspects;
  return (
    <nav className="work-list" aria-label="Views of this study">
      {entry("overview", "Overview", score(versionScores?.match))}
      {group(
        "Structure",
        <>
          {entry("grid", "Grid", score(aspects?.tempo))}
          {entry("harmony", "Harmony", score(aspects?.harmony))}
          {entry("sections", "Sections", score(aspects?.form))}
        </>,
      )}
      {group(
        "Parts",
        <>
          {entry("drums", "Drums", score(aspects && drumScore(aspects, study.aspectWeights)))}
          {entry("lowend", "Low end", score(aspects && lowEndScore(aspects, study.aspectWeights)))}
          {entry("hits", "Hits", null)}
        </>,
      )}
      {group(
        "Mix",
        <>
          {entry("tone", "Tone", score(aspects?.tone))}
          {entry("loudness", "Loudness", score(aspects?.loudness))}
          {entry("stereo", "Stereo", score(aspects?.width))}
        </>,
      )}
      {group(
        "Progress",
        <>
          {entry("elements", "Elements", score(elementMean))}
          {study.elements
            .filter(({ hidden }) => !hidden)
            .map((element) => (
              <Link
                key={element.id}
                className="inner"
                prefetch={false}
                href={addressOf("elements", { element: element.id })}
              >
                <span className={`clip${element.state === "left out" ? " soft" : ""}`}>
                  {element.state === "done" || element.state === "close enough" ? "✓ " : ""}
                  {element.name}
                </span>
                {element.state === "left out" ? (
                  <span className="soft">left out</span>
                ) : (
                  score(versionScores?.elements[element.id])
                )}
              </Link>
            ))}
          {entry("yardstick", "Yardstick", null)}
          {entry("versions", "Versions", <span className="soft">{study.versions.length || "–"}</span>)}
          {entry("report", "Report", null)}
        </>,
      )}
    </nav>
  );
}

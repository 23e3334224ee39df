"use client";

import { useState } from "react";
import { Button } from "react-bootstrap";
import type { CoverageSpan } from "@/core/align/coverage";
import { barsOf } from "@/core/grid/grid";
import { coverageWords, isStranger, strangerWords } from "@/models/coverage";
import { useCoverage, useStudy } from "../study/StudyContext";

/** Which bars answer which, to be typed; the strip shows the same and lets its edges be dragged. */
export function CoverageTable() {
  const { version, aligned, alignments, facts, study, selectBars } = useStudy();
  const setCoverage = useCoverage();
  const [wrong, setWrong] = useState<string | null>(null);
  if (!version) return null;
  const found = alignments[version.id]?.alignment ?? null;
  const reference = (study.reference && facts[study.reference.id]?.grid) ?? null;
  const own = facts[version.id]?.grid ?? null;
  if (!reference || !own) return null;
  const spans = aligned?.spans ?? [];
  const set = (place: number, next: CoverageSpan) => {
    const all = { reference: barsOf(reference), version: barsOf(own) };
    const fits =
      next.bars >= 1 &&
      next.referenceFirst >= all.reference.first &&
      next.referenceFirst + next.bars - 1 <= all.reference.last &&
      next.versionFirst >= all.version.first &&
      next.versionFirst + next.bars - 1 <= all.version.last;
    if (!fits) {
      setWrong(
        `The reference has bars ${all.reference.first} to ${all.reference.last}, the version ${all.version.first} to ${all.version.last}.`,
      );
      return;
    }
    const others = spans.filter((_, i) => i !== place);
    const clash = others.some(
      (o) =>
        next.referenceFirst < o.referenceFirst + o.bars && o.referenceFirst < next.referenceFirst + next.bars,
    );
    if (clash) {
      setWrong("Those reference bars are already used by another passage.");
      return;
    }
    setWrong(null);
    setCoverage([...others, next].sort((a, b) => a.versionFirst - b.versionFirst));
  };
  const number = (
    place: number,
    key: keyof CoverageSpan,
    label: string,
    change: (value: number) => CoverageSpan,
  ) => (
    <input
      key={`${place} ${key} ${spans[place]![key]}`}
      className="form-control form-control-sm bar-field"
      type="number"
      aria-label={`${label} of passage ${place + 1}`}
      defaultValue={spans[place]![key]}
      onKeyDown={(event) => {
        if (event.key === "Enter") event.currentTarget.blur();
      }}
      onBlur={(event) => {
        const value = event.target.valueAsNumber;
        if (Number.isInteger(value) && value !== spans[place]![key]) set(place, change(value));
      }}
    />
  );
  return (
    <section aria-label="Recreated bars">
      <h2 className="mb-1">Recreated bars</h2>
      <p className="small-text soft mb-2">
        {aligned
          ? coverageWords(aligned, `version ${version.number}`)
          : isStranger(version, found)
            ? `${strangerWords(`Version ${version.number}`)} Add a passage yourself if it does.`
            : "The two couldn't be aligned bar by bar. Add a passage yourself, or check the grids."}
        {version.coverage
          ? " Set by you."
          : found && aligned
            ? ` Found automatically; bars agree by ${Math.round(100 * found.agreement)} %.`
            : ""}
      </p>
      {spans.length > 0 && (
        <table className="ruled mb-2">
          <thead>
            <tr>
              <th className="in-reference">From bar</th>
              <th>Bars</th>
              <th className="in-version">Version bar</th>
              <th>
                <span className="visually-hidden">Actions</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {spans.map((span, place) => (
              <tr key={`${span.referenceFirst} ${span.versionFirst}`}>
                <td>
                  {number(place, "referenceFirst", "First bar in the reference", (value) => ({
                    ...span,
                    referenceFirst: value,
                  }))}
                </td>
                <td>{number(place, "bars", "Number of bars", (value) => ({ ...span, bars: value }))}</td>
                <td>
                  {number(place, "versionFirst", "First bar in the version", (value) => ({
                    ...span,
                    versionFirst: value,
                  }))}
                </td>
                <td className="number small-text text-nowrap">
                  <button
                    type="button"
                    className="plain-button underlined me-2"
                    onClick={() =>
                      selectBars({ first: span.referenceFirst, last: span.referenceFirst + span.bars - 1 })
                    }
                  >
                    Select
                  </button>
                  <button
                    type="button"
                    className="plain-button underlined soft"
                    aria-label={`Remove passage ${place + 1}`}
                    onClick={() => setCoverage(spans.filter((_, i) => i !== place))}
                  >
                    Remove
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {wrong && (
        <p className="small-text needs-attention" role="alert">
          {wrong}
        </p>
      )}
      <div className="d-flex gap-2">
        <Button
          size="sm"
          variant="quiet"
          onClick={() => {
            const free = firstFree(spans, barsOf(reference).last, barsOf(own).last);
            if (free) set(spans.length, free);
            else setWrong("Every bar of one side is already used.");
          }}
        >
          Add a passage
        </Button>
        {version.coverage && (
          <Button size="sm" variant="quiet" onClick={() => setCoverage(null)}>
            Find automatically
          </Button>
        )}
      </div>
    </section>
  );
}

/** One bar that neither side has answered yet; null where there is none. */
function firstFree(
  spans: readonly CoverageSpan[],
  referenceLast: number,
  versionLast: number,
): CoverageSpan | null {
  const free = (last: number, key: "referenceFirst" | "versionFirst") => {
    for (let bar = 1; bar <= last; bar++) {
      if (spans.every((span) => bar < span[key] || bar >= span[key] + span.bars)) return bar;
    }
    return null;
  };
  const referenceFirst = free(referenceLast, "referenceFirst");
  const versionFirst = free(versionLast, "versionFirst");
  return referenceFirst === null || versionFirst === null ? null : { referenceFirst, versionFirst, bars: 1 };
}

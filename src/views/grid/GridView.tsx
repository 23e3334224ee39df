"use client";

import { useMemo, useState } from "react";
import { useSearchParams } from "next/navigation";
import { barsOf, beatAt, hasBars, secondsAt } from "@/core/grid/grid";
import type { AlignedBars } from "@/core/study";
import { usePlayback } from "@/listening/Playback";
import { useStudy } from "../study/StudyContext";
import { Arithmetic } from "./Arithmetic";
import { barAtTime, CloseView } from "./CloseView";
import { Corrections } from "./Corrections";
import { CoverageTable } from "./CoverageTable";
import { GridTable, TempoHead } from "./GridTable";
import { Intended } from "./Intended";
import { correctedGrids, type GridModel, type GridSide } from "@/models/grid";
import { StemPlace } from "./StemPlace";
import { TempoCurve } from "./TempoCurve";

/** Tempo, beats and bars of both sides, to be seen, heard, corrected and held against each other. */
export function GridView({ model: sent }: { model: GridModel }) {
  const { study, bars, aligned, go, itemOf, isWorking } = useStudy();
  // oxlint-disable-next-line react-hooks/exhaustive-deps -- items change with the study
  const model = useMemo(() => correctedGrids(sent, itemOf), [sent, study]);
  const playback = usePlayback();
  const asked = useSearchParams().get("grid");
  const sides = [model.reference, model.version, ...model.stems].filter((side) => side !== null);
  const chosen = sides.find((side) => side.itemId === asked) ?? sides[0] ?? null;
  // The bar looked at follows the selection until it is moved from there.
  const selected = bars?.first ?? null;
  const [looked, setLooked] = useState<{ bar: number; selected: number | null } | null>(null);
  const bar = looked && looked.selected === selected ? looked.bar : selected;
  const setBar = (next: number) => setLooked({ bar: next, selected });

  if (!chosen) {
    return (
      <div className="view-heading">
        <h1>Grid</h1>
        <p>
          {study.reference
            ? "The grid appears once the reference has been analysed."
            : "Add a reference to see its tempo, beats and bars."}
        </p>
      </div>
    );
  }
  const upper =
    chosen.kind === "reference" || !model.reference?.grid
      ? chosen
      : chosen.kind === "version"
        ? model.reference
        : chosen;
  const lower = upper.kind === "reference" ? model.version : null;
  const shownBar = bar ?? (aligned ? Math.max(1, aligned.spans[0]?.referenceFirst ?? 1) : 1);
  const moveTo = (next: number) => {
    if (!upper.grid) return;
    const all = barsOf(upper.grid);
    setBar(Math.max(all.first, Math.min(all.last, next)));
  };
  const choose = (side: GridSide) => go({ grid: side.itemId });
  return (
    <div className="grid-view">
      <div className="stacked" style={{ gap: 18 }}>
        <div className="view-heading in-line m-0">
          <h1>Grid</h1>
          {isWorking && (
            <p className="needs-attention" role="status">
              Updating alignment and match …
            </p>
          )}
        </div>
        <TempoHead reference={model.reference} version={model.version} />
        {upper.grid && hasBars(upper.grid) ? (
          <CloseView
            upper={upper}
            lower={lower?.grid ? lower : null}
            aligned={upper.kind === "reference" ? aligned : null}
            bar={shownBar}
            onBar={moveTo}
          />
        ) : (
          <p className="soft m-0">
            No bars were found in {upper.name.toLowerCase()}. Type or tap its tempo on the right, and set bar
            1.
          </p>
        )}
        <GridTable reference={model.reference} version={model.version} aligned={aligned} />
        <TempoCurve reference={model.reference} version={model.version} aligned={aligned} />
        <div className="two-columns">
          {model.version && <CoverageTable />}
          <Arithmetic reference={model.reference} version={model.version} />
        </div>
      </div>
      <aside className="stacked align-content-start" style={{ gap: 18 }} aria-label="Corrections">
        <section className="stacked" aria-label="Edit the grid">
          <h2>Edit the grid</h2>
          <div className="choices side-choice" role="group" aria-label="Whose grid">
            {sides.map((side) => (
              <button
                key={side.itemId}
                type="button"
                className={`plain-button ${side.kind === "reference" ? "in-reference" : "in-version"}`}
                aria-pressed={side === chosen}
                onClick={() => choose(side)}
              >
                {side.name}
              </button>
            ))}
          </div>
          <Corrections
            key={chosen.itemId}
            side={chosen}
            playhead={() =>
              chosen.kind === "version" && aligned
                ? versionSeconds(aligned, playback.position())
                : playback.position()
            }
            onBarOne={() => chosen.kind === "reference" && setBar(1)}
          />
          {chosen.stem && <StemPlace side={chosen} />}
        </section>
        <Intended reference={model.reference} version={model.version} />
      </aside>
    </div>
  );
}

/** The time of the version that answers a time of the reference; the same time where nothing does. */
function versionSeconds(aligned: AlignedBars, seconds: number): number {
  const { reference, version, spans } = aligned;
  const at = barAtTime(reference, seconds);
  const span = spans.find((s) => at >= s.referenceFirst && at < s.referenceFirst + s.bars);
  if (!span) return seconds;
  const moved = (span.versionFirst - span.referenceFirst) * reference.beatsPerBar;
  return secondsAt(version, beatAt(reference, seconds) + moved);
}

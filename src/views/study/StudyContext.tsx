"use client";

import { createContext, useCallback, useContext, useMemo, useState, type ReactNode } from "react";
import type { CoverageSpan } from "@/core/align/coverage";
import type { Refusal } from "@/core/outcome";
import { barsIn, barsOf, spanOfBars, type BarRange, type Grid } from "@/core/grid/grid";
import { unpackGrid } from "@/core/grid/packedGrid";
import {
  coverageOf,
  itemsOf,
  matchOf,
  studyAddress,
  type AlignedBars,
  type JobRecord,
  type Span,
  type StemRecord,
  type StudyRecord,
  type TrackRecord,
  type VersionScores,
} from "@/core/study";
import { useNotices } from "@/components/Notices";
import { send, sentenceOf } from "@/components/requests";
import { useAnalysisNews } from "@/components/useAnalysisNews";
import { useRefresh } from "@/components/useRefresh";
import type { FolderState } from "@/models/folder";
import type { AlignmentFacts, FrameModel, TrackFacts as SentFacts, UndoState } from "@/models/frame";
import { selectionInAddress, useAddress, type Address } from "./state/useAddress";
import { useEditing, type Editing } from "./state/useEditing";
import { useUploads, type Uploads } from "./state/useUploads";

export interface TrackFacts extends Omit<SentFacts, "grid"> {
  grid: Grid | null;
}

interface StudyState extends Pick<Address, "addressOf" | "addressIn" | "go" | "view"> {
  /** With all edits, also those on their way. */
  study: StudyRecord;
  scores: VersionScores[];
  facts: Record<string, TrackFacts>;
  alignments: Record<string, AlignmentFacts>;
  failures: Record<string, Refusal>;
  undoState: UndoState;
  /** The watched folder; null where none is watched, or it has just been named. */
  folder: FolderState | null;
  /** The version all views look at: the one in the address, else the newest. */
  version: TrackRecord | null;
  versionScores: VersionScores | null;
  /** The scores of the version before the chosen one, where it has a match. */
  scoresBefore: VersionScores | null;
  /** The selected part of the reference, in seconds. */
  selection: Span | null;
  /** The same in whole bars; null where nothing is selected or there is no grid. */
  bars: BarRange | null;
  /** Grids and coverage of the chosen version; null where it cannot be aligned by bars. */
  aligned: AlignedBars | null;
  /** Whether numbers of the chosen version are being worked out again after a change. */
  isWorking: boolean;
  itemOf(itemId: string): TrackRecord | StemRecord | undefined;
  chooseVersion(number: number): void;
  /** Selects the bars that a span of the reference reaches into. */
  select(span: Span | null): void;
  selectBars(bars: BarRange | null): void;
}

const DataContext = createContext<StudyState | null>(null);
const EditingContext = createContext<(Editing & { isSaving: boolean }) | null>(null);
const UploadsContext = createContext<Uploads | null>(null);

function inside<T>(state: T | null): T {
  if (!state) throw new Error("this belongs inside StudyProvider");
  return state;
}

/** The study, what is known of it, and what of it is looked at. */
export const useStudy = (): StudyState => inside(useContext(DataContext));
/** How the study is changed. */
export const useEdits = () => inside(useContext(EditingContext));
/** Files on their way in. */
export const useStudyUploads = (): Uploads => inside(useContext(UploadsContext));

/** The analysis of a track or stem as it stands, and what can be done about it. */
export function useAnalysis(item: Pick<TrackRecord, "id" | "file" | "job">): {
  job: JobRecord;
  cancel(): void;
  again(): void;
} {
  const { say } = useNotices();
  const job = useAnalysisNews(item.file.hash, item.job);
  const ask = (method: "POST" | "DELETE") =>
    void send(method, `/api/items/${item.id}/analysis`).then(
      (outcome) => !outcome.ok && say(sentenceOf(outcome.refusal)),
    );
  return { job, cancel: () => ask("DELETE"), again: () => ask("POST") };
}

/** Sets which bars of the reference the chosen version recreates; null leaves it to the program. */
export function useCoverage(): (spans: CoverageSpan[] | null) => void {
  const { study, version } = useStudy();
  const { editItem } = useEdits();
  // Of two versions it is always found: what is kept of a version is about the reference.
  return (spans) =>
    study.standIn === null &&
    version &&
    editItem(
      version.id,
      spans
        ? `Recreated bars of version ${version.number} set`
        : `Recreated bars of version ${version.number} found automatically`,
      () => ({ coverage: spans }),
    );
}

export function StudyProvider({ model, children }: { model: FrameModel; children: ReactNode }) {
  const { alignments, failures, undoState } = model;
  const studyId = model.study.id;
  const address = useAddress(studyAddress(model.study));
  const { study, editing, isSaving } = useEditing(model);
  // Weights count as they are pressed; what gaps score comes with the next page.
  const scores = useMemo(
    () => model.scores.map((own) => ({ ...own, match: own.match === null ? null : matchOf(own, study) })),
    [model.scores, study],
  );
  const refresh = useRefresh(model.revision, (news) =>
    news.kind === "study" && news.studyId === studyId ? news.revision : null,
  );
  const { go } = address;
  const onAdded = useCallback<Parameters<typeof useUploads>[1]>(
    ({ edit, number }, role) => {
      if (edit) editing.add(edit);
      refresh();
      if (role === "version" && number !== null) go({ version: String(number) });
    },
    [editing, refresh, go],
  );
  const uploads = useUploads(studyId, onAdded);

  // Grids that are equal stay the same object, so that nothing is drawn anew without a reason.
  const [grids] = useState(() => new Map<string, { key: string; grid: Grid }>());
  const facts = useMemo(
    () =>
      Object.fromEntries(
        Object.entries(model.facts).map(([id, own]): [string, TrackFacts] => {
          if (!own.grid) return [id, { ...own, grid: null }];
          const key = JSON.stringify(own.grid);
          const known = grids.get(id);
          const grid = known?.key === key ? known.grid : unpackGrid(own.grid);
          grids.set(id, { key, grid });
          return [id, { ...own, grid }];
        }),
      ),
    [model.facts, grids],
  );

  const version =
    study.versions.find(({ number }) => number === address.number) ?? study.versions.at(-1) ?? null;
  const index = scores.findIndex(({ number }) => number === version?.number);
  const referenceGrid = (study.reference && facts[study.reference.id]?.grid) ?? null;
  const versionGrid = (version && facts[version.id]?.grid) ?? null;
  const alignment = version ? alignments[version.id] : undefined;
  const coverage = version?.coverage;
  const aligned = useMemo((): AlignedBars | null => {
    const spans = version ? coverageOf(version, alignment?.alignment) : [];
    return referenceGrid && versionGrid && spans.length > 0
      ? { reference: referenceGrid, version: versionGrid, spans }
      : null;
    // oxlint-disable-next-line react-hooks/exhaustive-deps -- of the version only its coverage counts
  }, [referenceGrid, versionGrid, coverage, alignment?.alignment]);
  const bars = referenceGrid ? address.bars : null;
  const selection = bars && referenceGrid ? spanOfBars(referenceGrid, bars) : address.span;
  const items = useMemo(() => new Map(itemsOf(study).map((item) => [item.id, item])), [study]);

  const selectBars = (range: BarRange | null) => go(selectionInAddress(range));
  const state: StudyState = {
    view: address.view,
    addressOf: address.addressOf,
    addressIn: address.addressIn,
    go,
    study,
    scores,
    facts,
    alignments,
    failures,
    undoState,
    folder: model.folder?.path === study.folder ? model.folder : null,
    version,
    versionScores: scores[index] ?? null,
    scoresBefore: scores.slice(0, Math.max(0, index)).findLast(({ match }) => match !== null) ?? null,
    selection,
    bars,
    aligned,
    isWorking: alignment !== undefined && !alignment.current && version !== null && !failures[version.id],
    itemOf: (itemId) => items.get(itemId),
    chooseVersion: (number) => go({ version: String(number) }),
    selectBars,
    select: (span) => {
      if (!span || !referenceGrid) return go(selectionInAddress(null, span));
      const range = barsIn(referenceGrid, span.from, span.to);
      const all = barsOf(referenceGrid);
      selectBars({
        first: Math.max(all.first, Math.min(range.first, all.last)),
        last: Math.max(all.first, Math.min(range.last, all.last)),
      });
    },
  };
  const edits = useMemo(() => ({ ...editing, isSaving }), [editing, isSaving]);
  return (
    <EditingContext.Provider value={edits}>
      <UploadsContext.Provider value={uploads}>
        <DataContext.Provider value={state}>{children}</DataContext.Provider>
      </UploadsContext.Provider>
    </EditingContext.Provider>
  );
}

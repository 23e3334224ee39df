"use client";

import { usePathname, useRouter, useSearchParams } from "next/navigation";
import {
  createContext,
  useCallback,
  useContext,
  useEffect,
  useMemo,
  useRef,
  useState,
  type ReactNode,
} from "react";
import type { Alignment, CoverageSpan } from "@/core/align/coverage";
import type { Key } from "@/core/harmony/keys";
import type { CountedSection } from "@/core/plan";
import { barsIn, barsOf, spanOfBars, type BarRange, type Grid } from "@/core/grid/grid";
import { useNotices } from "@/components/Notices";
import { send, sentenceOf, upload } from "@/components/requests";
import { useJobNews } from "@/components/useJobNews";
import {
  shortestSpan,
  type JobRecord,
  type LinedUpBars,
  type Span,
  type Standing,
  type StemRecord,
  type StudyRecord,
  type TrackRecord,
} from "@/core/study";

/** The few measured numbers of a track that the frame shows. */
export interface TrackFacts {
  bpm: number | null;
  integratedLufs: number | null;
  /** As it counts: measured, corrected, and for a version counted as its reference. */
  grid: Grid | null;
  key: Key | null;
  /** False while chords and sections are worked out again on a corrected grid. */
  planCurrent: boolean;
  /** On its own grid. */
  sections: CountedSection[];
}

/** How a version lies along the reference. */
export interface LineUpFacts {
  /** As found; null where one side has no grid. */
  alignment: Alignment | null;
  /** False while it is worked out again after a change. */
  current: boolean;
}

export interface StudyModel {
  study: StudyRecord;
  standings: Standing[];
  /** By track id; tracks without a result have none. */
  facts: Record<string, TrackFacts>;
  /** By the id of the version; those not lined up yet have none. */
  lineUps: Record<string, LineUpFacts>;
}

/** A file on its way into the study. */
export interface Arrival {
  key: number;
  name: string;
  role: "reference" | "version" | "stem";
  /** Share of the upload, 0–1. */
  done: number;
  /** Once it has become a track. */
  trackId?: string;
  /** Why it was not taken, or what was recognised. */
  word?: string;
  cancel(): void;
}

interface StudyState extends StudyModel {
  /** The version all views look at: the one in the address, else the newest. */
  version: TrackRecord | null;
  standing: Standing | null;
  /** The standing of the version before the chosen one, where it has a match. */
  standingBefore: Standing | null;
  /** The selected part of the reference, in seconds. */
  selection: Span | null;
  /** The same in whole bars; null where nothing is selected or there is no grid. */
  bars: BarRange | null;
  /** Grids and coverage of the chosen version; null where it cannot be lined up by bars. */
  lined: LinedUpBars | null;
  arrivals: Arrival[];
  /** Address of a view that keeps version and selection. */
  addressOf(view: string, change?: Record<string, string | null>): string;
  chooseVersion(number: number): void;
  /** Selects the bars that a span of the reference reaches into. */
  select(span: Span | null): void;
  selectBars(bars: BarRange | null): void;
  /** Sets which bars of the reference the chosen version answers; null leaves it to the program. */
  setCoverage(spans: CoverageSpan[] | null): void;
  addFiles(files: File[], role: "reference" | "version"): void;
  /** Adds isolated parts of a track. */
  addStems(files: File[], trackId: string): void;
  dismissArrival(key: number): void;
  /** The newest word on a track's analysis. */
  jobOf(place: TrackRecord | StemRecord): JobRecord;
  cancelAnalysis(place: TrackRecord | StemRecord): void;
  analyseAgain(place: TrackRecord | StemRecord): void;
  /** Sends a change, says so where it is refused, and brings the page up to date. */
  change(method: "POST" | "PATCH" | "PUT" | "DELETE", address: string, body?: unknown): Promise<boolean>;
}

const Context = createContext<StudyState | null>(null);

export function useStudy(): StudyState {
  const state = useContext(Context);
  if (!state) throw new Error("useStudy belongs inside StudyProvider");
  return state;
}

function spanIn(parameters: URLSearchParams): Span | null {
  const from = Number(parameters.get("from") ?? NaN);
  const to = Number(parameters.get("to") ?? NaN);
  return Number.isFinite(from) && Number.isFinite(to) && to - from >= shortestSpan ? { from, to } : null;
}

function barsInAddress(parameters: URLSearchParams): BarRange | null {
  const [, first, last] = /^(-?\d+)-(-?\d+)$/.exec(parameters.get("bars") ?? "") ?? [];
  return first !== undefined && Number(last) >= Number(first)
    ? { first: Number(first), last: Number(last) }
    : null;
}

/** How often and how many times a page that lags is asked for again. */
const soon = { everyMs: 800, tries: 8 } as const;
/** While something is worked out; news of its end may come before anybody listens. */
const patient = { everyMs: 2500, tries: 60 } as const;

/**
 * Asks for the page again while it lags behind what is known: a refresh that falls together with a
 * change of address may be lost.
 *
 * @param lag names what the page does not show yet; empty when it is up to date.
 */
function useCatchUp(
  lag: string,
  refresh: () => void,
  { everyMs, tries: most }: { everyMs: number; tries: number } = soon,
): void {
  const latest = useRef(refresh);
  useEffect(() => {
    latest.current = refresh;
  });
  useEffect(() => {
    if (lag === "") return;
    let tries = 0;
    const timer = setInterval(() => {
      if (++tries > most) clearInterval(timer);
      else latest.current();
    }, everyMs);
    return () => clearInterval(timer);
  }, [lag, everyMs, most]);
}

export function StudyProvider({ model, children }: { model: StudyModel; children: ReactNode }) {
  const { study, standings } = model;
  const router = useRouter();
  const pathname = usePathname();
  const parameters = useSearchParams();
  const { say } = useNotices();
  const [arrivals, setArrivals] = useState<Arrival[]>([]);
  const nextKey = useRef(0);
  // One upload after the other, so that versions are numbered in the order they were dropped.
  const uploading = useRef(Promise.resolve());

  // Everything that is analysed: tracks and their stems.
  const places = useMemo(
    () =>
      [...(study.reference ? [study.reference] : []), ...study.versions].flatMap((track) => [
        track,
        ...track.stems,
      ]),
    [study],
  );
  // What is worked out of analyses that are there: how versions lie along the reference, and plans.
  const { facts, lineUps } = model;
  const pending = [
    ...study.versions.flatMap(({ id }) =>
      study.reference && facts[study.reference.id] && facts[id] && !lineUps[id]?.current ? [id] : [],
    ),
    ...Object.entries(facts).flatMap(([id, { planCurrent }]) => (planCurrent ? [] : [`plan ${id}`])),
  ].join();
  const news = useJobNews(
    pending !== "" || places.some(({ job }) => job.state === "queued" || job.state === "running"),
    () => router.refresh(),
  );
  useCatchUp(pending, () => router.refresh(), patient);

  useCatchUp(
    [
      ...arrivals.flatMap((a) => (a.trackId && !places.some((t) => t.id === a.trackId) ? [a.trackId] : [])),
      ...places.flatMap(({ id, file, job }) => {
        const state = news.get(file.hash)?.state;
        return state && state !== "running" && state !== job.state ? [`${id} ${state}`] : [];
      }),
    ].join(),
    () => router.refresh(),
  );

  const asked = Number(parameters.get("version") ?? NaN);
  const version = study.versions.find((v) => v.number === asked) ?? study.versions.at(-1) ?? null;
  const place = standings.findIndex((standing) => standing.number === version?.number);
  const referenceGrid = (study.reference && model.facts[study.reference.id]?.grid) ?? null;
  const bars = referenceGrid ? barsInAddress(parameters) : null;
  const selection = bars && referenceGrid ? spanOfBars(referenceGrid, bars) : spanIn(parameters);
  const lined = useMemo((): LinedUpBars | null => {
    const grid = version && model.facts[version.id]?.grid;
    const spans = version?.coverage ?? (version && model.lineUps[version.id]?.alignment?.spans) ?? [];
    return referenceGrid && grid && spans.length > 0
      ? { reference: referenceGrid, version: grid, spans }
      : null;
  }, [referenceGrid, version, model]);

  const addressOf = useCallback(
    (view: string, changes: Record<string, string | null> = {}) => {
      const next = new URLSearchParams(parameters);
      for (const [name, value] of Object.entries(changes)) {
        if (value === null) next.delete(name);
        else next.set(name, value);
      }
      const query = next.toString();
      return `/studies/${study.id}/${view}${query ? `?${query}` : ""}`;
    },
    [parameters, study.id],
  );
  const here = pathname.split("/")[3] ?? "overview";

  const change = useCallback<StudyState["change"]>(
    async (method, address, body) => {
      const outcome = await send(method, address, body);
      if (!outcome.ok) say(sentenceOf(outcome.refusal));
      router.refresh();
      return outcome.ok;
    },
    [router, say],
  );

  const revise = useCallback(
    (key: number, next: Partial<Arrival>) =>
      setArrivals((all) => all.map((a) => (a.key === key ? { ...a, ...next } : a))),
    [],
  );

  const bringIn = useCallback(
    (files: File[], role: Arrival["role"], address: string) => {
      for (const file of files) {
        const key = nextKey.current++;
        let cancelled = false;
        let stop = () => {
          cancelled = true;
        };
        setArrivals((all) => [...all, { key, name: file.name, role, done: 0, cancel: () => stop() }]);
        uploading.current = uploading.current.then(async () => {
          if (cancelled) {
            revise(key, { word: "The upload was cancelled." });
            return;
          }
          const { finished, cancel } = upload(
            `${address}name=${encodeURIComponent(file.name)}`,
            file,
            (done) => revise(key, { done }),
          );
          stop = cancel;
          const outcome = await finished;
          if (!outcome.ok) revise(key, { word: sentenceOf(outcome.refusal) });
          else if (outcome.value.recognised) revise(key, { word: outcome.value.recognised, done: 1 });
          else {
            revise(key, { trackId: outcome.value.trackId, done: 1 });
            if (role === "version") {
              router.replace(addressOf(here, { version: String(outcome.value.number) }), { scroll: false });
            }
          }
          router.refresh();
        });
      }
    },
    [revise, router, addressOf, here],
  );
  const addFiles: StudyState["addFiles"] = (files, role) =>
    bringIn(files, role, `/api/studies/${study.id}/tracks?role=${role}&`);
  const addStems: StudyState["addStems"] = (files, trackId) =>
    bringIn(files, "stem", `/api/tracks/${trackId}/stems?`);

  const selectBars = (range: BarRange | null) =>
    router.replace(addressOf(here, { bars: range && `${range.first}-${range.last}`, from: null, to: null }), {
      scroll: false,
    });

  const state: StudyState = {
    ...model,
    version,
    standing: standings[place] ?? null,
    standingBefore: standings.slice(0, Math.max(0, place)).findLast((s) => s.match !== null) ?? null,
    selection,
    bars,
    lined,
    arrivals,
    addressOf,
    chooseVersion: (number) =>
      router.replace(addressOf(here, { version: String(number) }), { scroll: false }),
    selectBars,
    setCoverage: (spans) => {
      if (!version) return;
      const address = `/api/tracks/${version.id}`;
      const old = version.coverage;
      void change("PATCH", address, { coverage: spans }).then((done) => {
        if (done)
          say(
            spans
              ? "Which bars are answered was changed."
              : "Which bars are answered is found by itself again.",
            () => void change("PATCH", address, { coverage: old }),
          );
      });
    },
    select: (span) => {
      if (span && referenceGrid) {
        const range = barsIn(referenceGrid, span.from, span.to);
        const all = barsOf(referenceGrid);
        selectBars({
          first: Math.max(all.first, Math.min(range.first, all.last)),
          last: Math.max(all.first, Math.min(range.last, all.last)),
        });
        return;
      }
      router.replace(
        addressOf(here, {
          bars: null,
          from: span ? span.from.toFixed(2) : null,
          to: span ? span.to.toFixed(2) : null,
        }),
        { scroll: false },
      );
    },
    addFiles,
    addStems,
    dismissArrival: (key) => setArrivals((all) => all.filter((a) => a.key !== key)),
    jobOf: (track) => {
      const latest = news.get(track.file.hash);
      // The page's own record wins once the job has ended.
      if (!latest || track.job.state === "done" || track.job.state === "failed") return track.job;
      return { ...track.job, state: latest.state, says: latest.progress.says, done: latest.progress.done };
    },
    cancelAnalysis: (track) => void change("DELETE", `/api/tracks/${track.id}/analysis`),
    analyseAgain: (track) => void change("POST", `/api/tracks/${track.id}/analysis`),
    change,
  };
  return <Context.Provider value={state}>{children}</Context.Provider>;
}

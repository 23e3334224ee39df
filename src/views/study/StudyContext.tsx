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
import { useNotices } from "@/components/Notices";
import { send, sentenceOf, upload } from "@/components/requests";
import { useJobNews } from "@/components/useJobNews";
import {
  shortestSpan,
  type JobRecord,
  type Span,
  type Standing,
  type StudyRecord,
  type TrackRecord,
} from "@/core/study";

/** The few measured numbers of a track that the frame shows. */
export interface TrackFacts {
  bpm: number | null;
  integratedLufs: number | null;
  /** Where bars begin, seconds. */
  downbeats: number[];
}

export interface StudyModel {
  study: StudyRecord;
  standings: Standing[];
  /** By track id; tracks without a result have none. */
  facts: Record<string, TrackFacts>;
}

/** A file on its way into the study. */
export interface Arrival {
  key: number;
  name: string;
  role: "reference" | "version";
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
  selection: Span | null;
  arrivals: Arrival[];
  /** Address of a view that keeps version and selection. */
  addressOf(view: string, change?: Record<string, string | null>): string;
  chooseVersion(number: number): void;
  select(span: Span | null): void;
  addFiles(files: File[], role: "reference" | "version"): void;
  dismissArrival(key: number): void;
  /** The newest word on a track's analysis. */
  jobOf(track: TrackRecord): JobRecord;
  cancelAnalysis(track: TrackRecord): void;
  analyseAgain(track: TrackRecord): void;
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

const catchUpMs = 800;
const catchUpTries = 8;

/**
 * Asks for the page again while it lags behind what is known: a refresh that falls together with a
 * change of address may be lost.
 *
 * @param lag names what the page does not show yet; empty when it is up to date.
 */
function useCatchUp(lag: string, refresh: () => void): void {
  const latest = useRef(refresh);
  useEffect(() => {
    latest.current = refresh;
  });
  useEffect(() => {
    if (lag === "") return;
    let tries = 0;
    const timer = setInterval(() => {
      if (++tries > catchUpTries) clearInterval(timer);
      else latest.current();
    }, catchUpMs);
    return () => clearInterval(timer);
  }, [lag]);
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

  const tracks = useMemo(() => [...(study.reference ? [study.reference] : []), ...study.versions], [study]);
  const news = useJobNews(
    tracks.some(({ job }) => job.state === "queued" || job.state === "running"),
    () => router.refresh(),
  );

  useCatchUp(
    [
      ...arrivals.flatMap((a) => (a.trackId && !tracks.some((t) => t.id === a.trackId) ? [a.trackId] : [])),
      ...tracks.flatMap(({ id, file, job }) => {
        const state = news.get(file.hash)?.state;
        return state && state !== "running" && state !== job.state ? [`${id} ${state}`] : [];
      }),
    ].join(),
    () => router.refresh(),
  );

  const asked = Number(parameters.get("version") ?? NaN);
  const version = study.versions.find((v) => v.number === asked) ?? study.versions.at(-1) ?? null;
  const place = standings.findIndex((standing) => standing.number === version?.number);
  const selection = spanIn(parameters);

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

  const addFiles = useCallback<StudyState["addFiles"]>(
    (files, role) => {
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
            `/api/studies/${study.id}/tracks?role=${role}&name=${encodeURIComponent(file.name)}`,
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
    [study.id, revise, router, addressOf, here],
  );

  const state: StudyState = {
    ...model,
    version,
    standing: standings[place] ?? null,
    standingBefore: standings.slice(0, Math.max(0, place)).findLast((s) => s.match !== null) ?? null,
    selection,
    arrivals,
    addressOf,
    chooseVersion: (number) =>
      router.replace(addressOf(here, { version: String(number) }), { scroll: false }),
    select: (span) =>
      router.replace(
        addressOf(here, { from: span ? span.from.toFixed(2) : null, to: span ? span.to.toFixed(2) : null }),
        { scroll: false },
      ),
    addFiles,
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

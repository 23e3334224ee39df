/** A whole study in a test: the real frame, views, edits and models over a server that lives in memory. */
import { act, cleanup, configure, fireEvent, render, screen, waitFor, within } from "@testing-library/react";
import { useState, type ReactElement } from "react";
import { Notices } from "@/components/Notices";
import type { News } from "@/components/news";
import { applyPatch, inverted, type Patch } from "@/core/edits/patch";
import {
  compareAll,
  countedLens,
  setPresence,
  coverageOf,
  documentOf,
  versionOf,
  withDocument,
  type FullComparison,
  type StudyResults,
} from "@/core/study";
import type { TrackMeasures } from "@/core/match";
import { madeUpResults } from "@/core/testing/study";
import { frameModel } from "@/models/frame";
import { StudyShell } from "../study/StudyShell";
import { addressBar } from "./navigation";

// Whether an element is hidden by a style is asked of the real browser; here it takes most of the time.
configure({ defaultHidden: true });

interface LoggedEdit {
  id: number;
  label: string;
  patch: Patch;
  isUndone: boolean;
}

/** What a test sees of a study that it has opened. */
export interface Studio {
  /** The study as the server has it. */
  results(): StudyResults;
  /** Labels of the edits that count, oldest first. */
  log(): string[];
  /** Requests that change something, in order. */
  requests: string[];
  /** Answers in place of the study's own; null leaves it to them. */
  answer: (method: string, path: string, body: unknown) => Response | null;
  /** Waits until nothing is on its way, and the page has been read anew. */
  saved(): Promise<void>;
}

/** An answer of the server; jsdom has no `Response`. */
export const json = (body: unknown, status = 200) =>
  ({ ok: status < 400, status, json: () => Promise.resolve(body) }) as Response;

/** A refusal of the server. */
export const refusal = (sentence: string, status = 400) =>
  json({ refusal: { code: "internal", sentence } }, status);

/** The stream of news, as far as somebody listens. */
class FakeEvents {
  static listening = new Set<FakeEvents>();
  onmessage: (event: { data: string }) => void = () => {};
  constructor() {
    FakeEvents.listening.add(this);
  }
  close() {
    FakeEvents.listening.delete(this);
  }
}

/** Tells open pages something, as the server would. */
export const tell = (news: News): void =>
  FakeEvents.listening.forEach((own) => own.onmessage({ data: JSON.stringify(news) }));

/** Takes every call and gives itself back, as chains of audio nodes do. */
const silentNode: object = new Proxy(() => silentNode, {
  get: (_target, name) => (name === "then" ? undefined : silentNode),
  set: () => true,
  apply: () => silentNode,
});

/** Never ready to play the music, and deaf to chords and strokes. */
class SilentContext {
  currentTime = 0;
  audioWorklet = { addModule: () => new Promise(() => {}) };
  constructor() {
    return new Proxy(this, {
      get: (own, name) => (name in own ? own[name as keyof SilentContext] : silentNode),
    });
  }
}

/** What jsdom lacks, at the size of a usual window. */
export function prepareWindow(width = 1000): void {
  Object.assign(globalThis, {
    ResizeObserver: class {
      constructor(private readonly tell: (entries: { contentRect: { width: number } }[]) => void) {}
      observe() {
        this.tell([{ contentRect: { width } }]);
      }
      unobserve() {}
      disconnect() {}
    },
    EventSource: FakeEvents,
    AudioContext: SilentContext,
  });
  HTMLCanvasElement.prototype.getContext = () => null;
  Element.prototype.scrollIntoView ??= () => {};
}

/**
 * Opens a study at a view.
 *
 * @param view what stands in the frame, made from what the server knows, each time that it is read.
 * @param address what follows the study's own address, as `drums?bars=5-8`.
 */
export function openStudy(
  results: StudyResults,
  address: string,
  view: (results: StudyResults) => ReactElement,
): Studio {
  prepareWindow();
  let now = results;
  let document = documentOf(results.study);
  let revision = 1;
  let sequence = 0;
  /** Requests that are answered when a test waits for it: until then only the page knows of an edit. */
  const waiting: (() => void)[] = [];
  const log: LoggedEdit[] = [];
  const studio: Studio = {
    results: () => now,
    log: () => log.filter(({ isUndone }) => !isUndone).map(({ label }) => label),
    requests: [],
    answer: () => null,
    async saved() {
      // What was answered may lead to the next request once the page has been drawn.
      for (let quiet = 0; quiet < 3; quiet = waiting.length === 0 ? quiet + 1 : 0) {
        await act(async () => {
          waiting.splice(0).forEach((answer) => answer());
          await new Promise((resolve) => setTimeout(resolve, 0));
        });
      }
    },
  };
  const change = (patch: Patch): boolean => {
    const next = applyPatch(document, patch);
    if (!next.ok) return false;
    document = next.value;
    now = madeUpResults(
      withDocument(results.study, document),
      now.analyses,
      [...now.lenses.values()][0]?.value ?? null,
    );
    sequence++;
    revision++;
    tell({ kind: "study", studyId: results.study.id, revision });
    return true;
  };
  const turn = (direction: "undo" | "redo", id: number | null) => {
    const own =
      id !== null
        ? log.find((edit) => edit.id === id)
        : direction === "undo"
          ? log.findLast(({ isUndone }) => !isUndone)
          : log.find(({ isUndone }) => isUndone);
    if (!own) return refusal("There is nothing to undo.", 404);
    const patch = direction === "undo" ? inverted(own.patch) : own.patch;
    change(patch);
    own.isUndone = direction === "undo";
    return json({ id: own.id, label: own.label, patch, sequence });
  };
  const respond = async (path: string, init?: RequestInit): Promise<Response> => {
    const method = init?.method ?? "GET";
    const body: unknown = typeof init?.body === "string" ? JSON.parse(init.body) : null;
    if (method !== "GET") studio.requests.push(`${method} ${path}`);
    const answer = studio.answer(method, path, body);
    if (answer) return answer;
    if (path.endsWith("/edits") && method === "POST") {
      const { edits } = body as { edits: { label: string; patch: Patch }[] };
      return json(
        edits.map(({ label, patch }) => {
          if (!change(patch)) throw new Error(`an edit does not fit: ${label}`);
          const own = { id: log.length + 1, label, patch, isUndone: false };
          log.push(own);
          return { id: own.id, label, patch, sequence };
        }),
      );
    }
    if (path.endsWith("/edits")) {
      return json(log.map(({ id, label, isUndone }) => ({ id, label, createdAt: 0, undone: isUndone })));
    }
    if (path.endsWith("/undo")) return turn("undo", (body as { id: number | null }).id);
    if (path.endsWith("/redo")) return turn("redo", (body as { id: number | null }).id);
    return refusal("There is nothing here.", 404);
  };
  globalThis.fetch = (async (input: string, init?: RequestInit) => {
    // Sound never comes: nothing is heard in a test.
    if (input.startsWith("/api/audio/")) return new Promise(() => {});
    await new Promise<void>((resolve) => waiting.push(resolve));
    return respond(input, init);
  }) as typeof fetch;
  let readAgain = () => {};
  addressBar.open(`/studies/${results.study.id}/${address}`, () => readAgain());
  function Page() {
    const [, setReads] = useState(0);
    readAgain = () => setReads((n) => n + 1);
    const newest = log.findLast(({ isUndone }) => !isUndone);
    const undone = log.find(({ isUndone }) => isUndone);
    const undoState = { sequence, undo: newest?.label ?? null, redo: undone?.label ?? null };
    return (
      <Notices>
        <StudyShell model={frameModel(now, undoState, revision)}>{view(now)}</StudyShell>
      </Notices>
    );
  }
  render(<Page />);
  return studio;
}

/** The comparison of a whole version with its reference, as a page makes it; null where there is none. */
export function wholeComparison(
  { study, alignments, comparisons, lenses }: StudyResults,
  number: number | null = null,
): { reference: TrackMeasures; version: TrackMeasures; compared: FullComparison } | null {
  const version = versionOf(study, number);
  const alignment = version && alignments.get(version.id)?.value;
  if (!alignment) return null;
  const stored = comparisons.get(version.id)?.value ?? null;
  const lens = lenses.get(version.id)?.value;
  const coverage = coverageOf(version, alignment.alignment);
  const heard = lens ? countedLens(lens, coverage, null, setPresence(study.reference, version)) : null;
  const { reference, version: own } = alignment.measures;
  return { reference, version: own, compared: compareAll(reference, own, study, 0, stored, heard) };
}

/** Types into a field and leaves it. */
export function type(field: HTMLElement, text: string): void {
  fireEvent.focus(field);
  fireEvent.change(field, { target: { value: text } });
  fireEvent.blur(field);
}

/** A key pressed where the focus is. */
export const press = (key: string, more: Partial<KeyboardEventInit> = {}) =>
  fireEvent.keyDown(document.activeElement ?? document.body, { key, code: key, ...more });

export { act, cleanup, fireEvent, screen, waitFor, within };

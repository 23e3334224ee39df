"use client";

import Link from "next/link";
import { useEffect, useState, type ReactNode } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import { MirrorStrip, type StripTrack } from "@/components/strip/MirrorStrip";
import { PageTitle } from "@/components/PageTitle";
import { ThemeSwitch } from "@/components/ThemeSwitch";
import { barStart } from "@/core/grid/grid";
import type { TrackRecord } from "@/core/study";
import { useNotices } from "@/components/Notices";
import { SortFiles, type SortedFile } from "@/components/SortFiles";
import { guessRoles, saysItself, type FileRole } from "@/core/formats/sortFiles";
import { ListeningBar } from "@/listening/ListeningBar";
import { Playback, usePlayback, type Playable } from "@/listening/Playback";
import type { FrameModel } from "@/models/frame";
import { Arrivals } from "./Arrivals";
import { EditTools } from "./EditTools";
import { ReferenceChoice } from "./ReferenceChoice";
import { ShortcutHelp } from "./ShortcutHelp";
import { StudyProvider, useCoverage, useStudy, useStudyUploads, type TrackFacts } from "./StudyContext";
import { VersionChoice } from "./VersionChoice";
import { WorkList } from "./WorkList";

const stripTrack = (
  track: TrackRecord | null,
  name: string,
  facts: TrackFacts | undefined,
): StripTrack | null =>
  track && {
    hash: track.file.hash,
    sampleRate: track.file.sampleRate,
    seconds: track.file.durationSeconds,
    name,
    grid: facts?.grid ?? null,
    ready: facts !== undefined,
  };

export function StudyShell({ model, children }: { model: FrameModel; children: ReactNode }) {
  return (
    <StudyProvider model={model}>
      <WithPlayback>{children}</WithPlayback>
    </StudyProvider>
  );
}

function WithPlayback({ children }: { children: ReactNode }) {
  const { study, version, facts, aligned, selection, bars } = useStudy();
  // Without a result there are no samples to listen to either.
  const playable = (track: TrackRecord | null): Playable | null => {
    const known = track && facts[track.id];
    return known
      ? {
          hash: track.file.hash,
          sampleRate: track.file.sampleRate,
          seconds: track.file.durationSeconds,
          grid: known.grid,
        }
      : null;
  };
  const sections = (study.reference && facts[study.reference.id]?.sections) ?? [];
  return (
    <Playback
      reference={playable(study.reference)}
      version={playable(version)}
      aligned={aligned}
      selection={selection}
      bars={bars}
      sections={sections.map(({ firstBar }) => firstBar)}
    >
      <Frame>{children}</Frame>
    </Playback>
  );
}

/** The keys that work in every view. */
function useStudyKeys(onHelp: () => void): void {
  const { study, version, selection, bars, selectBars, facts, chooseVersion } = useStudy();
  const playback = usePlayback();
  /** Makes the bar at the playhead the first or the last of the selection. */
  const selectFrom = (end: "first" | "last") => {
    const bar = playback.place()?.bar;
    if (bar === undefined) return;
    const kept = bars ?? { first: bar, last: bar };
    selectBars(
      end === "first"
        ? { first: bar, last: Math.max(bar, kept.last) }
        : { first: Math.min(bar, kept.first), last: bar },
    );
  };
  // What a chosen chord, section edge or hit does with a key itself is not also done here.
  const unlessTaken = { ignoreEventWhen: (event: KeyboardEvent) => event.defaultPrevented };
  // On something that Space itself presses or types into, it keeps that meaning.
  const ownsSpace = (event: KeyboardEvent) =>
    event.target instanceof Element && event.target.closest("button, a, summary, [role=dialog]") !== null;
  useHotkeys("space", playback.toggle, { preventDefault: true, ignoreEventWhen: ownsSpace }, [playback]);
  useHotkeys("r", () => playback.listenTo("reference"), [playback]);
  useHotkeys("v", () => playback.listenTo("version"), unlessTaken, [playback]);
  useHotkeys("f", playback.flip, [playback]);
  useHotkeys("left", () => playback.step(-1), unlessTaken, [playback]);
  useHotkeys("right", () => playback.step(1), unlessTaken, [playback]);
  useHotkeys("shift+left", () => playback.step(-8), unlessTaken, [playback]);
  useHotkeys("shift+right", () => playback.step(8), unlessTaken, [playback]);
  const sections = (study.reference && facts[study.reference.id]?.sections) ?? [];
  const sectionGrid = (study.reference && facts[study.reference.id]?.grid) ?? null;
  const toSection = (by: 1 | -1) => {
    if (!sectionGrid) return;
    const starts = sections.map(({ firstBar }) => barStart(sectionGrid, firstBar));
    const here = playback.position();
    // Seeking may land a little beside the bar line.
    const beside = 0.05;
    const next =
      by > 0
        ? starts.find((start) => start > here + beside)
        : starts.findLast((start) => start < here - beside);
    if (next !== undefined) playback.seek(next);
  };
  useHotkeys("pagedown", () => toSection(1), { preventDefault: true }, [sections, playback]);
  useHotkeys("pageup", () => toSection(-1), { preventDefault: true }, [sections, playback]);
  useHotkeys("i", () => selectFrom("first"), [playback, bars, selectBars]);
  useHotkeys("o", () => selectFrom("last"), [playback, bars, selectBars]);
  useHotkeys("l", () => playback.setLooping(!playback.looping), [playback]);
  useHotkeys("e", () => playback.setEqualLoudness(!playback.equalLoudness), [playback]);
  useHotkeys("k", () => playback.change({ click: playback.settings.click > 0 ? 0 : 0.4 }), [playback]);
  useHotkeys("home", () => playback.seek(selection?.from ?? 0), [playback, selection]);
  useHotkeys("?", onHelp, { useKey: true, ignoreModifiers: true });
  const step = (by: number) => {
    const index = study.versions.findIndex(({ id }) => id === version?.id);
    const next = study.versions[index + by];
    if (next && !playback.blind) chooseVersion(next.number);
  };
  useHotkeys("comma", () => step(-1), [study, version, playback]);
  useHotkeys("period", () => step(1), [study, version, playback]);
}

/**
 * A file dropped anywhere that is no drop area of its own becomes a version, or the reference; of
 * several that are not plainly versions it is asked what they are.
 */
function useDropAnywhere(onSort: (files: File[]) => void): void {
  const { study } = useStudy();
  const { addFiles } = useStudyUploads();
  useEffect(() => {
    const hang = (event: DragEvent) => event.preventDefault();
    const drop = (event: DragEvent) => {
      event.preventDefault();
      const files = [...(event.dataTransfer?.files ?? [])];
      const hasReference = study.reference !== null;
      const roles = guessRoles(
        files.map(({ name }) => name),
        hasReference,
      );
      const isPlain = roles.every((role, i) => role === "version" && saysItself(files[i]!.name));
      if (files.length > 1 && !isPlain) onSort(files);
      else if (files.length > 0) addFiles(files, hasReference ? "version" : "reference");
    };
    window.addEventListener("dragover", hang);
    window.addEventListener("drop", drop);
    return () => {
      window.removeEventListener("dragover", hang);
      window.removeEventListener("drop", drop);
    };
  }, [addFiles, study.reference, onSort]);
}

function Frame({ children }: { children: ReactNode }) {
  const { study, version, selection, bars, facts, aligned, addressIn, select, selectBars } = useStudy();
  const setCoverage = useCoverage();
  const [helping, setHelping] = useState(false);
  useStudyKeys(() => setHelping(true));
  const [sorting, setSorting] = useState<File[] | null>(null);
  useDropAnywhere(setSorting);
  const { addFiles, addStems } = useStudyUploads();
  const { say } = useNotices();
  const addSorted = (sorted: SortedFile[]) => {
    setSorting(null);
    const filesOf = (role: FileRole) => sorted.flatMap((own) => (own.role === role ? [own.file] : []));
    for (const role of ["reference", "version", "yardstick"] as const) addFiles(filesOf(role), role);
    const stems = filesOf("stem");
    if (study.reference) addStems(stems, study.reference.id);
    else if (stems.length > 0) say("Stems belong to a reference. Drop them again once it is here.");
  };

  const known = study.reference && facts[study.reference.id];
  const versionName = version ? `Version ${version.number}` : null;
  return (
    <div className="frame" onPointerUp={releaseButton}>
      <PageTitle of={study.title} />
      <header className="top-bar">
        <Link href="/" className="product" prefetch={false}>
          Plain Mirror
        </Link>
        <nav className="trail" aria-label="Where you are">
          <Link href="/" prefetch={false}>
            Studies
          </Link>
          <span className="soft" aria-hidden="true">
            /
          </span>
          <span className="strong clip">{study.title}</span>
        </nav>
        <div className="end">
          <EditTools />
          <ReferenceChoice />
          {version && <VersionChoice />}
          <ThemeSwitch />
          <button
            type="button"
            className="pill round"
            aria-label="Keyboard shortcuts"
            title="Keyboard shortcuts (?)"
            onClick={() => setHelping(true)}
          >
            ?
          </button>
        </div>
      </header>
      <div className="study-body">
        <WorkList />
        <div className="study-main">
          <MirrorStrip
            reference={stripTrack(
              study.reference,
              study.standIn === null ? "Reference" : `Version ${study.standIn}`,
              known ?? undefined,
            )}
            version={stripTrack(version, versionName ?? "", version ? facts[version.id] : undefined)}
            aligned={aligned}
            selection={selection}
            bars={bars}
            sections={known?.sections ?? []}
            onBars={selectBars}
            onSelect={select}
            onCoverage={setCoverage}
          />
          <main className="view">
            {study.standIn !== null && (
              <p className="stand-in" role="note">
                Version {study.standIn} stands in for the reference in every view.{" "}
                <Link className="plain-button underlined strong" href={addressIn(study.id)} prefetch={false}>
                  Back to the reference
                </Link>
              </p>
            )}
            <Arrivals />
            {children}
          </main>
        </div>
      </div>
      <ListeningBar versionName={versionName} bars={bars} />
      {sorting && (
        <SortFiles
          files={sorting}
          hasReference={study.reference !== null}
          onConfirm={addSorted}
          onCancel={() => setSorting(null)}
        />
      )}
      {helping && <ShortcutHelp onClose={() => setHelping(false)} />}
    </div>
  );
}

/** Pressing a button with the pointer must not leave Space to press it again in place of playing. */
function releaseButton() {
  const { activeElement } = document;
  if (activeElement instanceof HTMLButtonElement) activeElement.blur();
}

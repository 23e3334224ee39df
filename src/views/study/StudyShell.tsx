"use client";

import Link from "next/link";
import { usePathname } from "next/navigation";
import { useEffect, useState, type ReactNode } from "react";
import { Dropdown } from "react-bootstrap";
import { useHotkeys } from "react-hotkeys-hook";
import { fixed, points } from "@/components/format";
import { MirrorStrip, type StripTrack } from "@/components/strip/MirrorStrip";
import { ThemeSwitch } from "@/components/ThemeSwitch";
import { barStart } from "@/core/grid/grid";
import { keyName } from "@/core/harmony/keys";
import type { TrackRecord } from "@/core/study";
import { ListeningBar } from "@/listening/ListeningBar";
import { Playback, usePlayback, type Playable } from "@/listening/Playback";
import { drumScore } from "../drums/model";
import { Arrivals } from "./Arrivals";
import { ShortcutHelp } from "./ShortcutHelp";
import { StudyProvider, useStudy, type StudyModel, type TrackFacts } from "./StudyContext";

/** Below this a match stands out in the list of work. */
const weakMatch = 60;

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

export function StudyShell({ model, children }: { model: StudyModel; children: ReactNode }) {
  return (
    <StudyProvider model={model}>
      <WithPlayback>{children}</WithPlayback>
    </StudyProvider>
  );
}

function WithPlayback({ children }: { children: ReactNode }) {
  const { study, version, facts, lined, selection, bars } = useStudy();
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
  return (
    <Playback
      reference={playable(study.reference)}
      recreation={playable(version)}
      lined={lined}
      selection={selection}
      bars={bars}
    >
      <Frame>{children}</Frame>
    </Playback>
  );
}

function Frame({ children }: { children: ReactNode }) {
  const state = useStudy();
  const { study, version, selection, facts, addFiles } = state;
  const playback = usePlayback();
  const [helping, setHelping] = useState(false);

  // What a chosen chord, section edge or hit does with a key itself is not also done here.
  const unlessTaken = { ignoreEventWhen: (event: KeyboardEvent) => event.defaultPrevented };
  // On something that Space itself presses or types into, it keeps that meaning.
  const ownsSpace = (event: KeyboardEvent) =>
    event.target instanceof Element && event.target.closest("button, a, summary, [role=dialog]") !== null;
  useHotkeys("space", playback.toggle, { preventDefault: true, ignoreEventWhen: ownsSpace }, [playback]);
  useHotkeys("r", () => playback.listenTo("reference"), [playback]);
  useHotkeys("v", () => playback.listenTo("recreation"), unlessTaken, [playback]);
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
  useHotkeys("l", () => playback.setLooping(!playback.looping), [playback]);
  useHotkeys("e", () => playback.setEqualLoudness(!playback.equalLoudness), [playback]);
  useHotkeys("k", () => playback.change({ click: playback.settings.click > 0 ? 0 : 0.4 }), [playback]);
  useHotkeys("home", () => playback.seek(selection?.from ?? 0), [playback, selection]);
  useHotkeys("?", () => setHelping(true), { useKey: true, ignoreModifiers: true });
  const step = (by: number) => {
    const place = study.versions.findIndex((v) => v.id === version?.id);
    const next = study.versions[place + by];
    if (next) state.chooseVersion(next.number);
  };
  useHotkeys("comma", () => step(-1), [study, version]);
  useHotkeys("period", () => step(1), [study, version]);

  // A file dropped anywhere that is no drop area of its own becomes a version, or the reference.
  useEffect(() => {
    const hang = (event: DragEvent) => event.preventDefault();
    const drop = (event: DragEvent) => {
      event.preventDefault();
      const files = [...(event.dataTransfer?.files ?? [])];
      if (files.length > 0)
        addFiles(study.reference ? files : files.slice(0, 1), study.reference ? "version" : "reference");
    };
    window.addEventListener("dragover", hang);
    window.addEventListener("drop", drop);
    return () => {
      window.removeEventListener("dragover", hang);
      window.removeEventListener("drop", drop);
    };
  }, [addFiles, study.reference]);

  const versionName = version ? `Version ${version.number}` : null;
  return (
    <div className="frame" onPointerUp={releaseButton}>
      <header className="top-bar">
        <Link href="/" className="product">
          Plain Mirror
        </Link>
        <nav className="trail" aria-label="Where you are">
          <Link href="/">Studies</Link>
          <span className="soft" aria-hidden="true">
            /
          </span>
          <span className="strong clip">{study.title}</span>
        </nav>
        <div className="end">
          {study.reference && (
            <Link className="pill" href={state.addressOf("versions")} title={study.reference.fileName}>
              <span className="strong in-reference">Reference</span>
              <span className="clip">
                {facts[study.reference.id]?.bpm
                  ? [
                      `${fixed(facts[study.reference.id]!.bpm, 2)} BPM`,
                      facts[study.reference.id]!.key && keyName(facts[study.reference.id]!.key!),
                    ]
                      .filter(Boolean)
                      .join(", ")
                  : study.reference.fileName}
              </span>
            </Link>
          )}
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
            reference={stripTrack(study.reference, "Reference", facts[study.reference?.id ?? ""])}
            recreation={stripTrack(version, versionName ?? "", facts[version?.id ?? ""])}
            lined={state.lined}
            selection={selection}
            bars={state.bars}
            sections={study.reference ? (facts[study.reference.id]?.sections ?? []) : []}
            onBars={state.selectBars}
            onSelect={state.select}
            onCoverage={state.setCoverage}
          />
          <main className="view">
            <Arrivals />
            {children}
          </main>
        </div>
      </div>
      <ListeningBar recreationName={versionName} bars={state.bars} />
      {helping && <ShortcutHelp onClose={() => setHelping(false)} />}
    </div>
  );
}

/** Pressing a button with the pointer must not leave Space to press it again in place of playing. */
function releaseButton() {
  const { activeElement } = document;
  if (activeElement instanceof HTMLButtonElement) activeElement.blur();
}

function VersionChoice() {
  const { study, version, standings, chooseVersion } = useStudy();
  if (!version) return null;
  return (
    <Dropdown align="end">
      <Dropdown.Toggle
        as="button"
        className="pill"
        bsPrefix="pill"
        aria-label={`Version ${version.number}, choose another`}
      >
        <span className="strong in-recreation text-nowrap">Version {version.number}</span>
        <span className="clip">{version.note && `“${version.note}”`}</span>
        <span aria-hidden="true">▾</span>
      </Dropdown.Toggle>
      <Dropdown.Menu style={{ minWidth: 320 }}>
        {[...study.versions].reverse().map((v) => (
          <Dropdown.Item
            key={v.id}
            as="button"
            active={v.id === version.id}
            onClick={() => chooseVersion(v.number)}
          >
            <span className="d-flex gap-3">
              <span className="strong">{v.number}</span>
              <span className="clip flex-grow-1" style={{ maxWidth: 300 }}>
                {v.note || v.fileName}
              </span>
              <span className="strong">{points(standings.find((s) => s.trackId === v.id)?.match)}</span>
            </span>
          </Dropdown.Item>
        ))}
      </Dropdown.Menu>
    </Dropdown>
  );
}

function WorkList() {
  const { study, standing, addressOf } = useStudy();
  const here = usePathname().split("/")[3];
  const elementScores = Object.values(standing?.elements ?? {}).filter((score) => score !== null);
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
  const entry = (view: string, name: string, end: ReactNode) => (
    <Link href={addressOf(view)} aria-current={here === view ? "page" : undefined}>
      <span>{name}</span>
      {end}
    </Link>
  );
  return (
    <nav className="work-list" aria-label="Views of this study">
      <h2>The whole</h2>
      {entry("overview", "Overview", score(standing?.match))}
      {entry("grid", "Grid", score(standing?.aspects.tempo))}
      {entry("harmony", "Harmony", score(standing?.aspects.harmony))}
      {entry("sections", "Sections", score(standing?.aspects.form))}
      {entry("drums", "Drums", score(standing && drumScore(standing.aspects, study.aspectWeights)))}
      <h2>Part by part</h2>
      {entry("elements", "Elements", score(elementMean))}
      {study.elements.map((element) => (
        <Link key={element.id} className="inner" href={addressOf("elements", { element: element.id })}>
          <span className={`clip${element.state === "left out" ? " soft" : ""}`}>
            {element.state === "done" || element.state === "close enough" ? "✓ " : ""}
            {element.name}
          </span>
          {element.state === "left out" ? (
            <span className="soft">left out</span>
          ) : (
            score(standing?.elements[element.id])
          )}
        </Link>
      ))}
      <h2>Over time</h2>
      {entry("versions", "Versions", <span className="soft">{study.versions.length || "–"}</span>)}
    </nav>
  );
}

"use client";

import { useMemo, useRef, useState, type KeyboardEvent } from "react";
import { Button } from "react-bootstrap";
import { chordName } from "@/core/harmony/chords";
import type { PlacedChord } from "@/core/harmony/harmonyEstimate";
import { spellingOf } from "@/core/harmony/keys";
import { joinedChord, movedChord, renamedChord, splitChord } from "@/core/plan";
import { usePlayback } from "@/listening/Playback";
import { answeredItems, type PlanModel, type PlanTrack } from "@/models/plan";
import { PlanFiles } from "../plan/PlanFiles";
import { SideChoice } from "../plan/SideChoice";
import { useEdits, useStudy } from "../study/StudyContext";
import { useCountedPlans } from "../plan/useCountedPlans";
import { ChordDetail, hearChord } from "./ChordDetail";
import { ChordLines, type ChosenChord } from "./ChordLines";
import { KeyHead, KeyReadings } from "./KeyHead";
import { MainLoop, SectionKeys } from "./Loops";
import { ShiftHelper, Transposed } from "./Shift";

const formats = [
  { format: "midi", label: "MIDI" },
  { format: "chart", label: "chart" },
  { format: "degrees", label: "chart in degrees" },
  { format: "jams", label: "JAMS" },
] as const;

const noChords: readonly PlacedChord[] = [];

/** Key and chords of both sides, to be heard, corrected and held against each other. */
export function HarmonyView({ model: sent }: { model: PlanModel }) {
  const { study, bars, aligned, isWorking } = useStudy();
  const model = useCountedPlans(sent);
  const { editItem } = useEdits();
  const playback = usePlayback();
  const [chosen, setChosen] = useState<ChosenChord | null>(null);
  const [side, setSide] = useState<string | null>(null);
  const main = useRef<HTMLDivElement>(null);
  const { reference } = model;
  const tracks = [model.reference, model.version, ...model.stems].filter((track) => track !== null);
  const chosenTrack: PlanTrack | null =
    (chosen && (chosen.side === "reference" ? model.reference : model.version)) ??
    tracks.find(({ itemId }) => itemId === side) ??
    tracks[0] ??
    null;
  const upper = reference?.plan.chords ?? noChords;
  const beatsPerBar = reference?.planGrid?.beatsPerBar ?? 4;
  const lower = useMemo(
    () =>
      model.version && aligned
        ? answeredItems(
            model.version.plan.chords,
            ({ startBeat, endBeat }) => [startBeat, endBeat] as const,
            model.version,
            aligned.spans,
            beatsPerBar,
          )
        : null,
    [model.version, aligned, beatsPerBar],
  );

  if (!reference) {
    return (
      <div className="view-heading">
        <h1>Harmony</h1>
        <p>
          {study.reference
            ? "Key and chords appear once the reference has been analysed."
            : "Add a reference to see its key and chords."}
        </p>
      </div>
    );
  }
  const spelling = reference.plan.key ? spellingOf(reference.plan.key) : "sharps";
  const own = chosen && chosenTrack ? (chosenTrack.plan.chords[chosen.place] ?? null) : null;
  const set = (change: (chords: readonly PlacedChord[]) => readonly PlacedChord[], label: string) => {
    if (!chosenTrack) return;
    const { measured } = chosenTrack.plan;
    editItem(chosenTrack.itemId, label, ({ harmony }) => ({
      harmony: { ...harmony, chords: [...change(harmony.chords ?? measured.harmony.chords)] },
    }));
  };
  const list = chosenTrack?.plan.chords ?? noChords;
  const place = chosen?.place ?? 0;
  const actions = {
    split: () => {
      if (!own || own.endBeat - own.startBeat < 2) return;
      const middle = own.startBeat + Math.round((own.endBeat - own.startBeat) / 2);
      set((now) => splitChord(now, place, middle), "Chord split");
    },
    join: () => {
      if (own && list[place + 1]) set((now) => joinedChord(now, place), "Joined with the next chord");
    },
    move: (beats: number) => {
      if (own)
        set(
          (now) => movedChord(now, place, (now[place]?.startBeat ?? own.startBeat) + beats),
          `Chord moved by ${beats > 0 ? "+" : "−"}1 beat`,
        );
    },
  };
  const onKey = (event: KeyboardEvent): boolean => {
    if (!chosen || event.ctrlKey || event.metaKey) return false;
    const step = (by: number) => {
      const next = place + by;
      if (!list[next]) return true;
      setChosen({ ...chosen, place: next });
      hearChord(list[next]!.chord);
      return true;
    };
    switch (event.key) {
      case "ArrowLeft":
      case "ArrowRight": {
        const by = event.key === "ArrowLeft" ? -1 : 1;
        if (!event.altKey) return step(by);
        actions.move(by);
        return true;
      }
      case "s":
        actions.split();
        return true;
      case "j":
        actions.join();
        return true;
      case "h":
        hearChord(own?.chord ?? null);
        return true;
      case "Enter":
        main.current?.querySelector<HTMLInputElement>("[data-rename]")?.focus();
        return true;
      case " ":
        playback.toggle();
        return true;
      default:
        return false;
    }
  };
  const sounding = model.beats.filter((b) => b.reference !== null || b.version !== null);
  const apart = sounding.filter((b) => !b.agrees).length;
  const outdated = isWorking || tracks.some(({ current }) => !current);
  return (
    <div className="grid-view" ref={main}>
      <div className="stacked" style={{ gap: 18 }}>
        <div className="view-heading in-line m-0">
          <h1>Harmony</h1>
          {outdated && (
            <p className="needs-attention" role="status">
              Updating chords and match …
            </p>
          )}
        </div>
        <KeyHead reference={reference} version={model.version} />
        <section className="stacked" style={{ gap: 8 }} aria-label="Chords">
          <div className="d-flex align-items-baseline gap-3 flex-wrap">
            <h2 className="m-0">Chords</h2>
            <MainLoop track={reference} />
          </div>
          {model.version && (
            <p className="small-text m-0">
              {model.chordOverlap === null ? (
                <span className="soft">
                  {lower
                    ? `${model.version.name} has no chords yet.`
                    : "The two are not aligned, so their chords can't be compared."}
                </span>
              ) : apart === 0 ? (
                "Every recreated chord matches the reference."
              ) : (
                <>
                  <span className="strong">{Math.round(100 * model.chordOverlap)} %</span> of beats have the
                  same chord; {apart} {apart === 1 ? "beat differs" : "beats differ"}, marked on the line.
                </>
              )}
            </p>
          )}
          {reference.planGrid ? (
            <ChordLines
              grid={reference.planGrid}
              sections={reference.plan.sections}
              upper={upper}
              lower={model.version && aligned ? lower : null}
              beats={model.beats}
              spelling={spelling}
              only={bars}
              chosen={chosen}
              onChoose={setChosen}
              onKey={onKey}
            />
          ) : (
            <p className="soft m-0">Chords need bars. Set the tempo and bar 1 in the Grid view.</p>
          )}
        </section>
        <SectionKeys track={reference} stems={model.stems} />
      </div>
      <aside className="stacked align-content-start" style={{ gap: 18 }} aria-label="Corrections and helpers">
        {own && chosenTrack && chosen && (
          <ChordDetail
            own={own}
            name={chosenTrack.name}
            keyOfTrack={chosenTrack.plan.key}
            spelling={spelling}
            beatsPerBar={chosenTrack.planGrid?.beatsPerBar ?? 4}
            canJoin={list[place + 1] !== undefined}
            onRename={(chord) =>
              set((now) => renamedChord(now, place, chord), `Chord renamed to ${chordName(chord, spelling)}`)
            }
            onSplit={actions.split}
            onJoin={actions.join}
            onMove={actions.move}
          />
        )}
        {chosenTrack && (
          <section className="stacked" aria-label="Edit">
            <h2>{own ? "Key" : "Edit"}</h2>
            <SideChoice
              tracks={tracks}
              chosen={chosenTrack}
              label="Whose harmony"
              onChoose={(track) => {
                setSide(track.itemId);
                setChosen(null);
              }}
            />
            <KeyReadings track={chosenTrack} />
            <div className="d-flex gap-2 flex-wrap">
              <Button
                size="sm"
                variant="quiet"
                disabled={!chosenTrack.corrections.harmony.key && !chosenTrack.corrections.harmony.chords}
                onClick={() =>
                  editItem(chosenTrack.itemId, "Key and chords reset to detected", () => ({ harmony: {} }))
                }
              >
                Reset to detected
              </Button>
            </div>
            {!own && (
              <p className="small-text soft m-0">
                Select a chord to see its notes, rename, split, join or move it.
              </p>
            )}
          </section>
        )}
        {reference.plan.key && <ShiftHelper into={reference.plan.key} />}
        <Transposed track={chosenTrack ?? reference} />
        <PlanFiles track={chosenTrack ?? reference} formats={formats} />
      </aside>
    </div>
  );
}

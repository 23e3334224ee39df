"use client";

import { useMemo, useRef, useState, type KeyboardEvent } from "react";
import { Button } from "react-bootstrap";
import { useHotkeys } from "react-hotkeys-hook";
import { useNotices } from "@/components/Notices";
import { chordName } from "@/core/harmony/chords";
import type { PlacedChord } from "@/core/harmony/harmonyEstimate";
import { spellingOf } from "@/core/harmony/keys";
import { joinedChord, movedChord, renamedChord, splitChord } from "@/core/plan";
import { usePlayback } from "@/listening/Playback";
import { answeredItems, type PlanModel, type PlanTrack } from "../plan/model";
import { PlanFiles } from "../plan/PlanFiles";
import { SideChoice } from "../plan/SideChoice";
import { useStudy } from "../study/StudyContext";
import { ChordDetail, hearChord } from "./ChordDetail";
import { ChordLines, type ChosenChord } from "./ChordLines";
import { KeyHead, KeyReadings } from "./KeyHead";
import { MainLoop, SectionKeys } from "./Loops";
import { ShiftHelper, Transposed } from "./Shift";

const formats = [
  { format: "midi", says: "MIDI" },
  { format: "chart", says: "chart" },
  { format: "degrees", says: "chart in degrees" },
  { format: "jams", says: "JAMS" },
] as const;

const noChords: readonly PlacedChord[] = [];

/** Key and chords of both sides, to be heard, corrected and held against each other. */
export function HarmonyView({ model }: { model: PlanModel }) {
  const { study, version, bars, lined, change, lineUps } = useStudy();
  const { say } = useNotices();
  const playback = usePlayback();
  const [chosen, setChosen] = useState<ChosenChord | null>(null);
  const [side, setSide] = useState<string | null>(null);
  const main = useRef<HTMLDivElement>(null);
  const { reference } = model;
  const tracks = [model.reference, model.version, ...model.stems].filter((track) => track !== null);
  const chosenTrack: PlanTrack | null =
    (chosen && (chosen.side === "reference" ? model.reference : model.version)) ??
    tracks.find(({ placeId }) => placeId === side) ??
    tracks[0] ??
    null;
  const upper = reference?.plan.chords ?? noChords;
  const beatsPerBar = reference?.planGrid?.beatsPerBar ?? 4;
  const lower = useMemo(
    () =>
      model.version && lined
        ? answeredItems(
            model.version.plan.chords,
            ({ startBeat, endBeat }) => [startBeat, endBeat] as const,
            model.version,
            lined.spans,
            beatsPerBar,
          )
        : null,
    [model.version, lined, beatsPerBar],
  );
  const address = chosenTrack ? `/api/plans/${chosenTrack.placeId}` : "";
  const undo = () => void change("DELETE", `${address}?subject=harmony`);
  useHotkeys("mod+shift+z", undo, { enabled: (chosenTrack?.made.harmony ?? 0) > 0 }, [address]);

  if (!reference) {
    return (
      <div className="view-heading">
        <h1>Harmony</h1>
        <p>
          {study.reference
            ? "Key and chords come with the analysis of the reference."
            : "Bring in a reference, and its key and chords stand here."}
        </p>
      </div>
    );
  }
  const spelling = reference.plan.key ? spellingOf(reference.plan.key) : "sharps";
  const own = chosen && chosenTrack ? (chosenTrack.plan.chords[chosen.place] ?? null) : null;
  const set = async (chords: readonly PlacedChord[], what: string) => {
    if (!chosenTrack) return;
    const correction = { ...chosenTrack.harmonyCorrection, chords };
    if (await change("POST", address, { subject: "harmony", correction })) say(`${what}.`, undo);
  };
  const list = chosenTrack?.plan.chords ?? noChords;
  const place = chosen?.place ?? 0;
  const actions = {
    split: () => {
      if (!own || own.endBeat - own.startBeat < 2) return;
      const middle = own.startBeat + Math.round((own.endBeat - own.startBeat) / 2);
      void set(splitChord(list, place, middle), "The chord was split");
    },
    join: () => {
      if (own && list[place + 1]) void set(joinedChord(list, place), "Joined with the next chord");
    },
    move: (beats: number) => {
      if (own) void set(movedChord(list, place, own.startBeat + beats), "The chord was moved");
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
  const state = version ? lineUps[version.id] : undefined;
  const outdated = (state && !state.current) || tracks.some(({ current }) => !current);
  return (
    <div className="grid-view" ref={main}>
      <div className="stacked" style={{ gap: 18 }}>
        <div className="view-heading in-line m-0">
          <h1>Harmony</h1>
          {outdated && (
            <p className="needs-attention" role="status">
              Chords are being worked out again on the corrected grid.
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
                    ? `${model.version.name} has no chords of its own yet.`
                    : "The two are not lined up, so chords cannot be held against each other."}
                </span>
              ) : apart === 0 ? (
                "All chords that are recreated are those of the reference."
              ) : (
                <>
                  <span className="strong">{Math.round(100 * model.chordOverlap)} %</span> of the beats have
                  the same chord; {apart} beat{apart === 1 ? "" : "s"} differ, marked on the line.
                </>
              )}
            </p>
          )}
          {reference.planGrid ? (
            <ChordLines
              grid={reference.planGrid}
              sections={reference.plan.sections}
              upper={upper}
              lower={model.version && lined ? lower : null}
              beats={model.beats}
              spelling={spelling}
              only={bars}
              chosen={chosen}
              onChoose={setChosen}
              onKey={onKey}
            />
          ) : (
            <p className="soft m-0">
              Chords need bars. Set the tempo and where bar 1 begins in the view Grid.
            </p>
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
              void set(renamedChord(list, place, chord), `The chord is ${chordName(chord, spelling)} now`)
            }
            onSplit={actions.split}
            onJoin={actions.join}
            onMove={actions.move}
          />
        )}
        {chosenTrack && (
          <section className="stacked" aria-label="Put right">
            <h2>{own ? "Key" : "Put right"}</h2>
            <SideChoice
              tracks={tracks}
              chosen={chosenTrack}
              label="Whose harmony"
              onChoose={(track) => {
                setSide(track.placeId);
                setChosen(null);
              }}
            />
            <KeyReadings track={chosenTrack} />
            <div className="d-flex gap-2 flex-wrap">
              <Button size="sm" variant="quiet" disabled={chosenTrack.made.harmony === 0} onClick={undo}>
                Undo
              </Button>
              <Button
                size="sm"
                variant="quiet"
                disabled={!chosenTrack.harmonyCorrection.key && !chosenTrack.harmonyCorrection.chords}
                onClick={() =>
                  void change("POST", address, { subject: "harmony", correction: {} }).then(
                    (done) => done && say("Key and chords are as measured again.", undo),
                  )
                }
              >
                As measured
              </Button>
            </div>
            {!own && (
              <p className="small-text soft m-0">
                Choose a chord on the left to see its notes and to rename, split, join or move it.
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

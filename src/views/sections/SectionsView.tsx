"use client";

import { useMemo, useState } from "react";
import { Button } from "react-bootstrap";
import { useHotkeys } from "react-hotkeys-hook";
import { useNotices } from "@/components/Notices";
import { secondsAt } from "@/core/grid/grid";
import {
  answeredSections,
  changedSection,
  joinedSection,
  movedSection,
  splitSection,
  type CountedSection,
} from "@/core/plan";
import { usePlayback } from "@/listening/Playback";
import { answeredItems, type PlanModel, type PlanTrack } from "../plan/model";
import { PlanFiles } from "../plan/PlanFiles";
import { SideChoice } from "../plan/SideChoice";
import { useStudy } from "../study/StudyContext";
import { BarCurves } from "./BarCurves";
import { hasMoment, momentWords } from "./model";
import { MomentGlyph } from "./MomentGlyph";
import { PlanMirror, type ChosenSection } from "./PlanMirror";
import { PresenceMatrix } from "./PresenceMatrix";
import { SectionTable } from "./SectionTable";

const formats = [
  { format: "midi", says: "MIDI with markers" },
  { format: "csv", says: "CSV" },
  { format: "jams", says: "JAMS" },
] as const;

/** Sections of both sides, what happens in them, and what of them is recreated. */
export function SectionsView({ model }: { model: PlanModel }) {
  const { study, version, lined, change, selectBars, lineUps } = useStudy();
  const { say } = useNotices();
  const playback = usePlayback();
  const [chosen, setChosen] = useState<ChosenSection | null>(null);
  const [side, setSide] = useState<"reference" | "version">("reference");
  const { reference } = model;
  const grid = reference?.planGrid ?? null;
  const beatsPerBar = grid?.beatsPerBar ?? 4;
  const shownTrack: PlanTrack | null = side === "version" ? (model.version ?? reference) : reference;
  const lower = useMemo(
    () =>
      model.version && lined
        ? answeredItems(
            model.version.plan.sections,
            ({ firstBar, lastBar }) => {
              const own = model.version!.planGrid?.beatsPerBar ?? beatsPerBar;
              return [(firstBar - 1) * own, lastBar * own] as const;
            },
            model.version,
            lined.spans,
            beatsPerBar,
          )
        : null,
    [model.version, lined, beatsPerBar],
  );
  const trackOf = (which: ChosenSection["side"]) => (which === "reference" ? reference : model.version);
  const undoOf = (track: PlanTrack) => () =>
    void change("DELETE", `/api/plans/${track.placeId}?subject=form`);
  const undo = shownTrack ? undoOf(shownTrack) : () => undefined;
  useHotkeys("mod+shift+z", undo, { enabled: (shownTrack?.made.form ?? 0) > 0 }, [shownTrack]);

  if (!reference || !grid || !reference.plan.measured.form) {
    return (
      <div className="view-heading">
        <h1>Sections</h1>
        <p>
          {!study.reference
            ? "Bring in a reference, and its sections stand here."
            : reference
              ? "Sections are whole bars. Set the tempo and where bar 1 begins in the view Grid."
              : "Sections come with the analysis of the reference."}
        </p>
      </div>
    );
  }
  const { form } = reference.plan.measured;
  const { sections } = reference.plan;
  const lastBar = form.bars.firstBar + form.bars.loudness.length - 1;
  const bars = {
    first: Math.min(form.bars.firstBar, sections[0]?.firstBar ?? Infinity),
    last: Math.max(lastBar, sections.at(-1)?.lastBar ?? -Infinity),
  };
  const spans = lined?.spans ?? [];
  const sideOf = (track: PlanTrack) =>
    track.planGrid && track.grid ? { plan: track.plan, planGrid: track.planGrid, grid: track.grid } : null;
  const referenceSide = sideOf(reference);
  const answers =
    model.version && lined && referenceSide
      ? answeredSections(referenceSide, sideOf(model.version), spans)
      : null;
  const set = async (track: PlanTrack, next: readonly CountedSection[], what: string) => {
    const body = { subject: "form", correction: { ...track.formCorrection, sections: next } };
    if (await change("POST", `/api/plans/${track.placeId}`, body)) say(`${what}.`, undoOf(track));
  };
  const choose = (next: ChosenSection) => {
    setChosen(next);
    setSide(next.side);
    const section = trackOf(next.side)?.plan.sections[next.place];
    if (next.side === "reference" && section) {
      selectBars({ first: section.firstBar, last: section.lastBar });
      playback.seek(secondsAt(grid, (section.firstBar - 1) * beatsPerBar));
    }
  };
  const missing = answers?.filter(({ answered }) => answered === 0) ?? [];
  const part = answers?.filter(({ answered, bars: whole }) => answered > 0 && answered < whole) ?? [];
  const named = (list: typeof missing) => list.map(({ section }) => section.name).join(", ");
  const state = version ? lineUps[version.id] : undefined;
  const tracks = [model.reference, model.version].filter((track) => track !== null);
  const outdated = (state && !state.current) || tracks.some(({ current }) => !current);
  return (
    <div className="sections-view stacked" style={{ gap: 16 }}>
      <div className="d-flex align-items-baseline gap-4 flex-wrap">
        <h1 className="m-0">Sections</h1>
        <p className="m-0">
          {outdated ? (
            <span className="needs-attention" role="status">
              Sections are being worked out again on the corrected grid.
            </span>
          ) : !answers ? (
            <span className="soft">
              {sections.length} sections over {bars.last - bars.first + 1} bars.
            </span>
          ) : missing.length + part.length === 0 ? (
            `All ${sections.length} sections are recreated whole.`
          ) : (
            <>
              <span className="strong">
                {sections.length - missing.length - part.length} of {sections.length} sections
              </span>{" "}
              are recreated whole{part.length > 0 && <>; in part: {named(part)}</>}
              {missing.length > 0 && <>; missing: {named(missing)}</>}.
            </>
          )}
        </p>
      </div>
      <div>
        <PlanMirror
          bars={bars}
          upper={sections}
          lower={lower}
          beatsPerBar={beatsPerBar}
          chosen={chosen}
          onChoose={choose}
          onMove={(at, by) => {
            const track = trackOf(at.side);
            const own = track?.plan.sections[at.place];
            if (!track || !own) return;
            const next = movedSection(track.plan.sections, at.place, own.firstBar + by);
            if (next[at.place]!.firstBar !== own.firstBar)
              void set(track, next, `${own.name} begins with bar ${next[at.place]!.firstBar} now`);
          }}
        />
        <BarCurves
          bars={bars}
          reference={reference}
          version={model.version && lined ? model.version : null}
          spans={spans}
          moments={form.moments}
          beatsPerBar={beatsPerBar}
        />
      </div>
      <section aria-label="Section by section">
        <div className="d-flex align-items-baseline gap-3 mb-1">
          <h2 className="m-0">Section by section</h2>
          {model.version && shownTrack && (
            <SideChoice
              tracks={tracks}
              chosen={shownTrack}
              label="Whose sections"
              onChoose={(track) => setSide(track.kind === "version" ? "version" : "reference")}
            />
          )}
          {shownTrack && (
            <span className="ms-auto d-flex gap-2">
              <Button size="sm" variant="quiet" disabled={shownTrack.made.form === 0} onClick={undo}>
                Undo
              </Button>
              <Button
                size="sm"
                variant="quiet"
                disabled={!shownTrack.formCorrection.sections}
                onClick={() =>
                  void change("POST", `/api/plans/${shownTrack.placeId}`, {
                    subject: "form",
                    correction: {},
                  }).then((done) => done && say("Sections are as measured again.", undo))
                }
              >
                As measured
              </Button>
            </span>
          )}
        </div>
        {shownTrack && (
          <SectionTable
            track={shownTrack}
            answers={shownTrack === reference ? answers : null}
            chosen={chosen && trackOf(chosen.side) === shownTrack ? chosen.place : null}
            onChoose={(place) => choose({ side, place })}
            onChange={(place, next, what) =>
              void set(shownTrack, changedSection(shownTrack.plan.sections, place, next), what)
            }
            onSplit={(place) => {
              const own = shownTrack.plan.sections[place]!;
              // Where the playhead stands in it, else in the middle.
              const here = Math.floor((playback.place()?.bar ?? 0) + 1e-6);
              const inside = side === "reference" && here > own.firstBar && here <= own.lastBar;
              const bar = inside ? here : own.firstBar + Math.ceil((own.lastBar - own.firstBar + 1) / 2);
              void set(
                shownTrack,
                splitSection(shownTrack.plan.sections, place, bar),
                `${own.name} is split at bar ${bar}`,
              );
            }}
            onJoin={(place) =>
              void set(shownTrack, joinedSection(shownTrack.plan.sections, place), "Two sections are one now")
            }
          />
        )}
      </section>
      <div className="two-columns wide-first">
        <PresenceMatrix
          reference={reference}
          version={model.version && lined ? model.version : null}
          spans={spans}
          onSet={(place, group, plays) => {
            const own = sections[place]!;
            void set(
              reference,
              changedSection(sections, place, { presence: { ...own.presence, [group]: plays } }),
              `${own.name}: put right`,
            );
          }}
        />
        <section aria-label="Moments">
          <h2>Moments</h2>
          {form.moments.length === 0 ? (
            <p className="soft m-0">No stops, risers, crashes or drop-outs were found.</p>
          ) : (
            <ul className="moment-list">
              {form.moments.map((moment, i) => {
                const bar = Math.floor(moment.startBeat / beatsPerBar + 1e-6) + 1;
                const length = (moment.endBeat - moment.startBeat) / beatsPerBar;
                const has =
                  model.version && lined ? hasMoment(model.version, spans, moment, beatsPerBar) : null;
                return (
                  <li key={i}>
                    <button
                      type="button"
                      className="plain-button"
                      onClick={() => playback.seek(secondsAt(grid, (bar - 1) * beatsPerBar))}
                    >
                      <MomentGlyph kind={moment.kind} />
                      <span className="strong">bar {bar}</span> {momentWords[moment.kind].name}
                      {moment.kind !== "crash" && (
                        <span className="soft">
                          {" "}
                          {length < 0.95
                            ? `${Math.round(10 * (moment.endBeat - moment.startBeat)) / 10} beats`
                            : `${Math.round(2 * length) / 2} bar${length < 1.25 ? "" : "s"}`}
                        </span>
                      )}
                    </button>
                    {has !== null && (
                      <span className={`small-text ${has ? "soft" : "needs-attention"}`}>
                        {has ? "in yours too" : "not in yours"}
                      </span>
                    )}
                  </li>
                );
              })}
            </ul>
          )}
          <div className="mt-3">
            <PlanFiles track={shownTrack ?? reference} formats={formats} />
          </div>
        </section>
      </div>
    </div>
  );
}

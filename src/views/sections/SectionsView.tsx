"use client";

import { useMemo, useState } from "react";
import { Button } from "react-bootstrap";
import { barStart, secondsAt } from "@/core/grid/grid";
import {
  answeredSections,
  changedSection,
  joinedSection,
  movedSection,
  splitSection,
  type CountedSection,
} from "@/core/plan";
import { usePlayback } from "@/listening/Playback";
import { answeredItems, type PlanModel, type PlanTrack } from "@/models/plan";
import { PlanFiles } from "../plan/PlanFiles";
import { SideChoice } from "../plan/SideChoice";
import { useCountedPlans } from "../plan/useCountedPlans";
import { useEdits, useStudy } from "../study/StudyContext";
import { BarCurves } from "./BarCurves";
import { groupWords, hasMoment, momentWords } from "@/models/sections";
import { MomentGlyph } from "./MomentGlyph";
import { PlanMirror, type ChosenSection } from "./PlanMirror";
import { PresenceMatrix } from "./PresenceMatrix";
import { SectionTable } from "./SectionTable";

const formats = [
  { format: "midi", label: "MIDI with markers" },
  { format: "csv", label: "CSV" },
  { format: "jams", label: "JAMS" },
] as const;

/** Sections of both sides, what happens in them, and what of them is recreated. */
export function SectionsView({ model: sent }: { model: PlanModel }) {
  const { study, aligned, bars: selectedBars, selectBars, isWorking } = useStudy();
  const model = useCountedPlans(sent);
  const { editItem } = useEdits();
  const playback = usePlayback();
  const [chosen, setChosen] = useState<ChosenSection | null>(null);
  const [side, setSide] = useState<"reference" | "version">("reference");
  const { reference } = model;
  const grid = reference?.planGrid ?? null;
  const beatsPerBar = grid?.beatsPerBar ?? 4;
  const shownTrack: PlanTrack | null = side === "version" ? (model.version ?? reference) : reference;
  const lower = useMemo(
    () =>
      model.version && aligned
        ? answeredItems(
            model.version.plan.sections,
            ({ firstBar, lastBar }) => {
              const own = model.version!.planGrid?.beatsPerBar ?? beatsPerBar;
              return [(firstBar - 1) * own, lastBar * own] as const;
            },
            model.version,
            aligned.spans,
            beatsPerBar,
          )
        : null,
    [model.version, aligned, beatsPerBar],
  );
  const trackOf = (which: ChosenSection["side"]) => (which === "reference" ? reference : model.version);

  if (!reference || !grid || !reference.plan.measured.form) {
    return (
      <div className="view-heading">
        <h1>Sections</h1>
        <p>
          {!study.reference
            ? "Add a reference to see its sections."
            : reference
              ? "Sections need bars. Set the tempo and bar 1 in the Grid view."
              : "Sections appear once the reference has been analysed."}
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
  const spans = aligned?.spans ?? [];
  const sideOf = (track: PlanTrack) =>
    track.planGrid && track.grid ? { plan: track.plan, planGrid: track.planGrid, grid: track.grid } : null;
  const referenceSide = sideOf(reference);
  const answers =
    model.version && aligned && referenceSide
      ? answeredSections(referenceSide, sideOf(model.version), spans)
      : null;
  const set = (
    track: PlanTrack,
    change: (sections: readonly CountedSection[]) => readonly CountedSection[],
    label: string,
  ) =>
    editItem(track.itemId, label, ({ form }) => ({
      form: { ...form, sections: [...change(form.sections ?? track.plan.sections)] },
    }));
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
  const tracks = [model.reference, model.version].filter((track) => track !== null);
  const outdated = isWorking || tracks.some(({ current }) => !current);
  return (
    <div className="sections-view stacked" style={{ gap: 16 }}>
      <div className="d-flex align-items-baseline gap-4 flex-wrap">
        <h1 className="m-0">Sections</h1>
        <p className="m-0">
          {outdated ? (
            <span className="needs-attention" role="status">
              Updating sections and match …
            </span>
          ) : !answers ? (
            <span className="soft">
              {sections.length} sections over {bars.last - bars.first + 1} bars.
            </span>
          ) : missing.length + part.length === 0 ? (
            `All ${sections.length} sections are fully recreated.`
          ) : (
            <>
              <span className="strong">
                {sections.length - missing.length - part.length} of {sections.length} sections
              </span>{" "}
              are fully recreated{part.length > 0 && <>; partly: {named(part)}</>}
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
          beat={() => playback.beat()}
          onChoose={choose}
          onMove={(at, by) => {
            const track = trackOf(at.side);
            const own = track?.plan.sections[at.place];
            if (!track || !own) return;
            const moved = movedSection(track.plan.sections, at.place, own.firstBar + by)[at.place]!.firstBar;
            set(
              track,
              (now) => movedSection(now, at.place, (now[at.place]?.firstBar ?? own.firstBar) + by),
              `${own.name} now starts at bar ${moved}`,
            );
          }}
        />
        <BarCurves
          bars={bars}
          reference={reference}
          version={model.version && aligned ? model.version : null}
          spans={spans}
          moments={form.moments}
          beatsPerBar={beatsPerBar}
          startOfBar={(bar) => barStart(grid, bar)}
          selected={selectedBars}
          onBars={(next) => {
            selectBars(next);
            playback.seek(barStart(grid, next.first));
          }}
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
              <Button
                size="sm"
                variant="quiet"
                disabled={!shownTrack.corrections.form.sections}
                onClick={() =>
                  editItem(shownTrack.itemId, "Sections reset to detected", () => ({ form: {} }))
                }
              >
                Reset to detected
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
            onChange={(place, next, label) =>
              set(shownTrack, (now) => changedSection(now, place, next), label)
            }
            onSplit={(place) => {
              const own = shownTrack.plan.sections[place]!;
              // Where the playhead stands in it, else in the middle.
              const here = Math.floor((playback.place()?.bar ?? 0) + 1e-6);
              const inside = side === "reference" && here > own.firstBar && here <= own.lastBar;
              const bar = inside ? here : own.firstBar + Math.ceil((own.lastBar - own.firstBar + 1) / 2);
              set(shownTrack, (now) => splitSection(now, place, bar), `${own.name} split at bar ${bar}`);
            }}
            onJoin={(place) => set(shownTrack, (now) => joinedSection(now, place), "Two sections joined")}
          />
        )}
      </section>
      <div className="two-columns wide-first">
        <PresenceMatrix
          reference={reference}
          version={model.version && aligned ? model.version : null}
          spans={spans}
          onSet={(place, group, plays) => {
            const own = sections[place]!;
            set(
              reference,
              (now) => changedSection(now, place, { presence: { ...now[place]?.presence, [group]: plays } }),
              `${own.name}: ${groupWords[group].toLowerCase()} ${plays ? "plays" : "doesn't play"}`,
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
                  model.version && aligned ? hasMoment(model.version, spans, moment, beatsPerBar) : null;
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
                        {has ? "also in yours" : "not in yours"}
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

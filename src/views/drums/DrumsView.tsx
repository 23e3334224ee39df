"use client";

import { useEffect, useMemo, useState } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import { points } from "@/components/format";
import { useNotices } from "@/components/Notices";
import { drumVoices, placeHits, type MeantDifference } from "@/core/drums";
import { secondsAt } from "@/core/grid/grid";
import { usePlayback, type Side } from "@/listening/Playback";
import { useStudy } from "../study/StudyContext";
import { BarOverview } from "./BarOverview";
import { DrumFiles } from "./DrumFiles";
import { DrumFindings } from "./DrumFindings";
import { DrumTools, SwingHead } from "./DrumTools";
import { FeelTable, Interlock } from "./FeelTable";
import { HitDetail } from "./HitDetail";
import { hitEditing } from "./hitEditing";
import { HitPicture, type ChosenHit } from "./HitPicture";
import {
  agreementByBar,
  drumFindings,
  drumScore,
  scoresOfDrums,
  voicesIn,
  type DrumModel,
  type DrumTrack,
} from "./model";
import { Legend } from "./Legend";
import { PracticeKit } from "./PracticeKit";
import { useCorrections } from "./useCorrections";
import { useBarsShown } from "./useBarsShown";
import { comparedOver, hitsInBars, typicalOf, useDrums } from "./useDrums";

const nothingMeant: readonly MeantDifference[] = [];

/** Hits of both sides on the mirror line, what differs, and how each side is played. */
export function DrumsView({ model }: { model: DrumModel }) {
  const { study, version, standing, standingBefore, lined, change, bars: selected, selectBars } = useStudy();
  const { say } = useNotices();
  const playback = usePlayback();
  const meant = study.intended.drums ?? nothingMeant;
  const shown = useDrums(model, lined, meant);
  const [chosen, setChosen] = useState<ChosenHit | null>(null);
  const [isTypical, setTypical] = useState(false);
  const { reference } = model;
  const trackOf = (side: Side): DrumTrack | null => (side === "reference" ? reference : model.version);
  const view = useBarsShown(shown, selected);
  const scope = useMemo(
    () =>
      shown &&
      comparedOver(model, { reference: shown.reference, version: shown.version }, lined, selected, meant),
    [model, shown, lined, selected, meant],
  );
  const height = usePictureHeight();

  const { set, undoOf, latest } = useCorrections();
  const lastTrack = trackOf(chosen?.side ?? "reference");
  useHotkeys("mod+shift+z", () => lastTrack && undoOf(lastTrack)(), { enabled: (lastTrack?.made ?? 0) > 0 }, [
    lastTrack,
  ]);

  if (!reference || !shown || !view) {
    return (
      <div className="view-heading">
        <h1>Drums</h1>
        <p>
          {!study.reference
            ? "Bring in a reference, and its drum hits stand here."
            : reference
              ? "Drum hits are counted in bars. Set the tempo and where bar 1 begins in the view Grid."
              : "Drum hits come with the analysis of the reference."}
        </p>
      </div>
    );
  }
  const { grid, shape } = shown;
  const { beatsPerBar } = grid;
  const spans = lined?.spans ?? [];
  const section =
    shown.sections.find(({ firstBar, lastBar }) => view.first >= firstBar && view.first <= lastBar) ??
    shown.sections[0]!;
  const typical = isTypical ? typicalOf(model, shown, spans, section) : null;
  const window = typical
    ? { first: section.firstBar, last: section.firstBar + typical.bars - 1 }
    : { first: view.first, last: view.first + view.count - 1 };
  const hits = typical ? typical.hits : hitsInBars(shown, spans, window);
  const voices = voicesIn([shown.reference.hits, shown.version?.hits ?? []]);
  const rows = voices.length > 0 ? voices : [...drumVoices.slice(0, 1)];
  const compares = shown.compared !== null;
  const findings = scope ? drumFindings(scope, beatsPerBar, study.aspectWeights, meant) : [];
  const score = scope ? drumScore(scoresOfDrums(scope), study.aspectWeights) : null;
  const before = standingBefore && drumScore(standingBefore.aspects, study.aspectWeights);
  const inScope = (bar: number) => !selected || (bar >= selected.first && bar <= selected.last);
  const ours = shown.placed.filter(({ bar }) => inScope(bar) && bar >= shown.bars.first);
  const theirs = scope ? scope.hits.flatMap((hit) => (hit.version ? [hit.version] : [])) : null;
  const scopeBars = selected ? selected.last - selected.first + 1 : shown.bars.last - shown.bars.first + 1;
  const varying = shown.described
    .filter(({ kind, bar }) => kind === "fill" && inScope(bar))
    .map(({ bar }) => bar);
  const fourth = shown.described.some(({ kind, bar }) => kind === "last of four" && inScope(bar));

  const { editChosen, removeChosen, add, edit } = hitEditing({
    chosen,
    setChosen,
    trackOf,
    grid,
    lined,
    set,
    latest,
  });
  const setMeant = (next: MeantDifference[], says: string) => {
    const address = `/api/studies/${study.id}`;
    const { intended } = study;
    void change("PATCH", address, { intended: { ...intended, drums: next } }).then(
      (done) =>
        done &&
        say(`${says} The match was worked out again.`, () => void change("PATCH", address, { intended })),
    );
  };

  return (
    <div className="drums-view">
      <div className="stacked drums-main" style={{ gap: 12 }}>
        <div className="d-flex align-items-end gap-3 flex-wrap">
          <div>
            <h1 className="m-0">
              {typical
                ? `Drums, typical ${typical.bars === 1 ? "bar" : `${typical.bars} bars`} of ${section.name}`
                : `Drums, ${window.first === window.last ? `bar ${window.first}` : `bars ${window.first}–${window.last}`} of ${section.name}`}
            </h1>
            <p className="soft m-0">Every hit where it truly falls; length is how hard it is hit.</p>
          </div>
          <SwingHead own={reference.swing} compared={scope?.swing ?? null} />
        </div>
        <DrumTools view={view} section={section.name} isTypical={isTypical} onTypical={setTypical}>
          <PracticeKit shown={shown} compares={compares} />
        </DrumTools>
        <HitPicture
          voices={rows}
          hits={hits}
          view={{ ...shape, firstBar: window.first, bars: window.last - window.first + 1 }}
          swing={reference.swing}
          compares={compares}
          answered={(bar) =>
            typical !== null ||
            spans.some((own) => bar >= own.referenceFirst && bar < own.referenceFirst + own.bars)
          }
          height={height(rows.length)}
          chosen={chosen}
          position={() => (playback.playing ? playback.beat() : null)}
          onChoose={setChosen}
          onAdd={(side, voice, beat) => !typical && add(side, voice, beat)}
          onEdit={(key, coarse) => !typical && edit(key, coarse)}
        />
        {chosen && !typical ? (
          <HitDetail
            chosen={chosen}
            beatsPerBar={beatsPerBar}
            onChange={(alter) => editChosen(alter, "The hit is put right")}
            onRemove={removeChosen}
            onHear={() => playback.strike(chosen.own.hit.voice, chosen.own.hit.velocity)}
          />
        ) : (
          <Legend compares={compares} />
        )}
        <BarOverview
          sections={shown.sections}
          bars={shown.described}
          agreement={shown.compared && agreementByBar(shown.compared.hits, beatsPerBar)}
          shown={window}
          onShow={(next) => {
            setTypical(false);
            selectBars(next);
          }}
        />
        <p className="small-text m-0">
          {varying.length > 0
            ? `Fills in bar${varying.length === 1 ? "" : "s"} ${varying.join(", ")}.`
            : "No fills were heard."}
          {fourth && " The last bar of four is always another."} Bars drawn alike are alike.
        </p>
      </div>
      <aside className="stacked" style={{ gap: 18 }}>
        <div>
          <p className="answer m-0">
            <span className="value" data-testid="drum-match">
              {points(score)}
            </span>
            <span className="soft">
              {score === null
                ? version
                  ? "nothing to compare here"
                  : "no version yet"
                : selected
                  ? "of 100 in the selected bars"
                  : `of 100${typeof before === "number" && standing ? `, was ${points(before)} before` : ""}`}
            </span>
          </p>
          {compares && (
            <DrumFindings
              findings={findings.slice(0, 6)}
              meant={meant}
              onMeant={setMeant}
              onGo={({ bar }) => {
                if (bar === null) return;
                setTypical(false);
                const to = Math.min(shown.bars.last, bar + Math.min(1, view.count - 1));
                selectBars({ first: bar, last: to });
                playback.seek(secondsAt(grid, (bar - 1) * beatsPerBar));
              }}
            />
          )}
        </div>
        <DrumFiles
          tracks={{ reference, recreation: model.version }}
          bars={selected}
          onTake={(track, imported) => void set(track, { imported }, `${imported.name} is the pattern now`)}
          onUndo={(track) => undoOf(track)()}
          onReset={(track) => void set(track, {}, "Drums are as heard again")}
        />
      </aside>
      <div className="two-columns wide-first drums-numbers">
        <section aria-label="How it is played">
          <h2>How it is played{selected ? ", in the selected bars" : ""}</h2>
          <FeelTable
            reference={ours}
            version={theirs}
            bars={scopeBars}
            shape={shape}
            sources={reference.sources}
          />
        </section>
        <section aria-label="What locks with what">
          <h2>What locks with what</h2>
          <Interlock
            reference={ours}
            version={
              model.version && shown.version && lined
                ? placeHits(shown.version.hits, lined.version, model.version.swing)
                : null
            }
            bass={{ reference: shown.reference.bassNotes, version: shown.version?.bassNotes ?? [] }}
            beatSeconds={60 / grid.bpm}
          />
        </section>
      </div>
    </div>
  );
}

/** The picture takes what the window leaves, within reason. */
function usePictureHeight(): (voices: number) => number {
  const [room, setRoom] = useState(800);
  useEffect(() => {
    const measure = () => setRoom(window.innerHeight);
    measure();
    window.addEventListener("resize", measure);
    return () => window.removeEventListener("resize", measure);
  }, []);
  return (voices) => 20 + voices * Math.max(40, Math.min(96, (room - 530) / voices));
}

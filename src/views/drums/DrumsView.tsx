"use client";

import { useDeferredValue, useEffect, useMemo, useState } from "react";
import { points } from "@/models/format";
import { drumVoices, placeHits, type DrumCorrection, type IntendedDifference } from "@/core/drums";
import { secondsAt } from "@/core/grid/grid";
import { useAfterFirstPaint } from "@/components/useAfterFirstPaint";
import { usePlayback, type Side } from "@/listening/Playback";
import { useEdits, useStudy } from "../study/StudyContext";
import { BarOverview } from "./BarOverview";
import { DrumFiles } from "./DrumFiles";
import { DrumFindings } from "./DrumFindings";
import { DrumTools, SwingHead } from "./DrumTools";
import { GrooveTable, Interlock } from "./GrooveTable";
import { HitDetail } from "./HitDetail";
import { hitEditing } from "./hitEditing";
import { HitPicture, type ChosenHit } from "./HitPicture";
import {
  agreementByBar,
  correctedDrums,
  drumFindings,
  drumScore,
  scoresOfDrums,
  voicesIn,
  receivedDrums,
  type SentDrums,
  type DrumTrack,
} from "@/models/drums";
import { Legend } from "./Legend";
import { PracticeKit } from "./PracticeKit";
import { comparedOver, hitsInBars, typicalOf } from "@/models/drumsShown";
import { useDrums } from "./useDrums";

const nothingIntended: readonly IntendedDifference[] = [];

/** Hits of both sides on the mirror line, what differs, and how each side is played. */
export function DrumsView({ model: sent }: { model: SentDrums }) {
  const {
    study,
    version,
    versionScores,
    scoresBefore,
    aligned,
    bars: selected,
    selectBars,
    itemOf,
  } = useStudy();
  const { editItem, editStudy } = useEdits();
  const received = useMemo(() => receivedDrums(sent), [sent]);
  const model = useMemo(
    () => correctedDrums(received, (itemId) => itemOf(itemId)?.corrections.drums),
    // oxlint-disable-next-line react-hooks/exhaustive-deps -- items change with the study
    [received, study],
  );
  const playback = usePlayback();
  const intended = study.intended.drums ?? nothingIntended;
  const inView = useDrums(model, aligned, intended, selected);
  // Numbers below the picture follow a frame later.
  const isDrawn = useAfterFirstPaint();
  const [chosen, setChosen] = useState<ChosenHit | null>(null);
  const [isTypical, setTypical] = useState(false);
  const { reference } = model;
  const trackOf = (side: Side): DrumTrack | null => (side === "reference" ? reference : model.version);
  // The hit that is edited shows at once; what is said of all hits follows.
  const settled = useDeferredValue(inView && !inView.isPartial ? inView.shown : null);
  const scope = useMemo(
    () =>
      settled &&
      (selected
        ? comparedOver(
            model,
            { reference: settled.reference, version: settled.version },
            aligned,
            selected,
            intended,
          )
        : settled.compared),
    [model, settled, aligned, selected, intended],
  );
  const height = usePictureHeight();

  const set = (track: DrumTrack, change: (correction: DrumCorrection) => DrumCorrection, label: string) =>
    editItem(track.itemId, label, ({ drums }) => ({ drums: change(drums) }));

  if (!reference || !inView) {
    return (
      <div className="view-heading">
        <h1>Drums</h1>
        <p>
          {!study.reference
            ? "Add a reference to see its drum hits."
            : reference
              ? "Drum hits need bars. Set the tempo and bar 1 in the Grid view."
              : "Drum hits appear once the reference has been analysed."}
        </p>
      </div>
    );
  }
  const { shown, view, isPartial } = inView;
  const { grid, shape } = shown;
  const { beatsPerBar } = grid;
  const spans = aligned?.spans ?? [];
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
  const findings = scope ? drumFindings(scope, beatsPerBar, study.aspectWeights, intended) : [];
  // Until all hits are compared the figure is that of the match.
  const aspects = scope ? scoresOfDrums(scope) : isPartial && !selected ? versionScores?.aspects : null;
  const score = aspects ? drumScore(aspects, study.aspectWeights) : null;
  const before = scoresBefore && drumScore(scoresBefore.aspects, study.aspectWeights);
  const inScope = (bar: number) => !selected || (bar >= selected.first && bar <= selected.last);
  const ours = shown.placed.filter(({ bar }) => inScope(bar) && bar >= shown.bars.first);
  const theirs = scope ? scope.hits.flatMap((hit) => (hit.version ? [hit.version] : [])) : null;
  const scopeBars = selected ? selected.last - selected.first + 1 : shown.bars.last - shown.bars.first + 1;
  const varying = shown.described
    .filter(({ kind, bar }) => kind === "fill" && inScope(bar))
    .map(({ bar }) => bar);
  const fourth = shown.described.some(({ kind, bar }) => kind === "last of four" && inScope(bar));

  const { editChosen, removeChosen, renameAlike, alike, add, edit } = hitEditing({
    chosen,
    setChosen,
    trackOf,
    hitsOf: (side) => (side === "reference" ? shown.reference.hits : (shown.version?.hits ?? [])),
    grid,
    aligned,
    set,
  });
  const setIntended = (next: IntendedDifference[], label: string) =>
    editStudy(label, { intended: { ...study.intended, drums: next } });

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
            <p className="soft m-0">Every hit at its real time. Length shows velocity.</p>
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
          playhead={() => playback.beat()}
          onChoose={setChosen}
          onAdd={(side, voice, beat) => !typical && add(side, voice, beat)}
          onEdit={(key, coarse) => !typical && edit(key, coarse)}
        />
        {chosen && !typical ? (
          <HitDetail
            chosen={chosen}
            beatsPerBar={beatsPerBar}
            alike={alike}
            onRenameAll={renameAlike}
            onChange={(alter) => editChosen(alter, "Hit edited")}
            onRemove={removeChosen}
            onHear={() => playback.strike(chosen.own.hit.voice, chosen.own.hit.velocity)}
          />
        ) : (
          <Legend compares={compares} />
        )}
        <BarOverview
          sections={shown.sections}
          bars={shown.described}
          agreement={isPartial ? null : shown.compared && agreementByBar(shown.compared.hits, beatsPerBar)}
          beatsPerBar={beatsPerBar}
          shown={window}
          onShow={(next) => {
            setTypical(false);
            selectBars(next);
          }}
        />
        <p className="small-text m-0">
          {varying.length > 0
            ? `Fills in bar${varying.length === 1 ? "" : "s"} ${varying.join(", ")}.`
            : "No fills found."}
          {fourth && " The last bar of every four differs."} Bars that look the same are the same.
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
                  ? isPartial
                    ? "being worked out"
                    : "nothing to compare"
                  : "no version yet"
                : selected
                  ? "of 100 in the selected bars"
                  : `of 100${typeof before === "number" && versionScores ? `, was ${points(before)}` : ""}`}
            </span>
          </p>
          {compares && isPartial && <p className="soft">Comparing all hits …</p>}
          {compares && !isPartial && (
            <DrumFindings
              findings={findings.slice(0, 6)}
              intended={intended}
              onIntended={setIntended}
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
          tracks={{ reference, version: model.version }}
          bars={selected}
          onTake={(track, imported) =>
            set(track, () => ({ imported }), `Pattern imported from ${imported.name}`)
          }
          onReset={(track) => set(track, () => ({}), "Drums reset to detected")}
        />
      </aside>
      {!isPartial && isDrawn && (
        <div className="two-columns wide-first drums-numbers">
          <section aria-label="Groove">
            <h2>Groove{selected ? ", in the selected bars" : ""}</h2>
            <GrooveTable
              reference={ours}
              version={theirs}
              bars={scopeBars}
              shape={shape}
              sources={reference.sources}
            />
          </section>
          <section aria-label="Interlock">
            <h2>Interlock</h2>
            <Interlock
              reference={ours}
              version={
                model.version && shown.version && aligned
                  ? placeHits(shown.version.hits, aligned.version, model.version.swing)
                  : null
              }
              bass={{ reference: shown.reference.bassNotes, version: shown.version?.bassNotes ?? [] }}
              beatSeconds={60 / grid.bpm}
            />
          </section>
        </div>
      )}
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

"use client";

import { useSearchParams } from "next/navigation";
import { useCallback, useMemo, useState } from "react";
import { Button } from "react-bootstrap";
import { useHotkeys } from "react-hotkeys-hook";
import { impulseResponse, type EqualiserMove } from "@/core/equaliser";
import { writeWav } from "@/core/formats/wav";
import { bandTolerance } from "@/core/match";
import { download } from "@/components/download";
import { usePlayback } from "@/listening/Playback";
import { curveWithMoves, movesTable, regionsInWords, type RegionWords } from "@/models/equaliser";
import { fixed, points, signed } from "@/models/format";
import { spectrumCurve } from "@/models/spectra";
import type { ResonanceWords, ToneModel } from "@/models/tone";
import { AspectAnswer, NothingRecreated, NotYet, useWhere } from "../study/Compared";
import { useStudy } from "../study/StudyContext";
import { MoveList } from "./MoveList";
import { MoveSpans } from "./MoveSpans";
import { Spectrogram } from "./Spectrogram";
import { SpectrumCharts, type CurveWithMoves } from "./SpectrumCharts";
import { useMoves, type Moves } from "./useMoves";

/** A move that is added by hand begins as this. */
const newMove: EqualiserMove = { type: "peak", hz: 1000, gainDb: -2, q: 1 };
/** A resonance is taken out by a cut of its own height, this narrow. */
const resonanceQ = 10;

const countWord = (count: number) =>
  ["No", "One", "Two", "Three", "Four", "Five", "Six", "Seven", "Eight", "Nine"][count] ?? String(count);

/** A range of frequencies in the address, as `250-500`. */
function rangeIn(text: string | null): { fromHz: number; toHz: number } | null {
  const [, from, to] = /^(\d+)-(\d+)$/.exec(text ?? "") ?? [];
  const range = { fromHz: Math.max(20, Number(from)), toHz: Math.min(20000, Number(to)) };
  return range.fromHz < range.toHz ? range : null;
}

export function ToneView({ model }: { model: ToneModel | null }) {
  const { version } = useStudy();
  return model && version ? (
    <Compared model={model} />
  ) : (
    <NotYet title="Tone" what="spectrum" toCome="Both spectra appear here" />
  );
}

function Compared({ model }: { model: ToneModel }) {
  const { study, version, aligned, bars, go, selectBars } = useStudy();
  const asked = useSearchParams();
  const [chosen, setChosen] = useState<number | null>(null);
  const moves = useMoves(model);
  const name = `version ${version!.number}`;

  const element = study.elements.find(({ id }) => id === asked.get("focus")) ?? null;
  const stem = model.stems.find(({ elementId }) => `stem-${elementId}` === asked.get("focus")) ?? null;
  const marked = element ?? rangeIn(asked.get("range"));
  const spectra = stem?.spectra ?? model.spectra;
  const { sampleRate } = model;
  const list = moves.moves;
  const withMoves = useCallback<CurveWithMoves>(
    (curve, perOctave) => curveWithMoves(curve, list, perOctave, sampleRate),
    [list, sampleRate],
  );
  const tolerance = bandTolerance;
  const regions = useMemo(
    () => regionsInWords(spectrumCurve(spectra, "whole", 6), tolerance),
    [spectra, tolerance],
  );
  const { worth } = moves;
  useHotkeys("m", () => moves.setHeard(!moves.isHeard), { enabled: list.length > 0 });
  const on = list.filter(({ on: isOn }) => isOn).length;
  const where = useWhere();

  if (model.nothingRecreated) return <NothingRecreated title="Tone" />;
  return (
    <div className="tone-view">
      <div>
        <div className="view-heading in-line">
          <h1>Tone</h1>
          <p>
            At equal loudness, {where}.
            {model.outdated && <span className="needs-attention"> Updating …</span>}
          </p>
          <label className="ms-auto small-text soft d-flex align-items-baseline gap-2">
            Focus
            <select
              className="form-select form-select-sm w-auto"
              value={asked.get("focus") ?? ""}
              onChange={({ target }) => go({ focus: target.value || null, range: null })}
            >
              <option value="">whole mix</option>
              {study.elements.map(({ id, name: title }) => (
                <option key={id} value={id}>
                  {title}
                </option>
              ))}
              {model.stems.map(({ elementId, name: title }) => (
                <option key={elementId} value={`stem-${elementId}`}>
                  {title}, stems
                </option>
              ))}
            </select>
          </label>
        </div>
        <SpectrumCharts
          spectra={spectra}
          marked={marked}
          versionName={name}
          withMoves={stem || on === 0 ? null : withMoves}
          slopes={stem ? undefined : model.slopes}
        >
          {!stem && (
            <MoveSpans
              moves={list}
              chosen={chosen}
              onChoose={setChosen}
              onChange={(index, next, isDone) => {
                setChosen(index);
                moves.change(index, next, isDone);
              }}
            />
          )}
          <RegionTable regions={regions} onGo={(range) => go({ range, focus: null })} />
        </SpectrumCharts>
        {aligned && study.reference && (
          <Spectrogram
            hashes={{ reference: study.reference.file.hash, version: version!.file.hash }}
            aligned={aligned}
            bars={bars}
            shift={model.gain}
            onBars={selectBars}
          />
        )}
      </div>
      <aside aria-label="Equaliser moves and what else to do">
        <AspectAnswer aspect="tone" score={model.score} />
        <p className="mt-2" data-testid="moves-worth">
          {list.length === 0
            ? moves.areAwaited
              ? "Fitting equaliser moves …"
              : worth.before <= tolerance
                ? "The spectra match: no equaliser is needed."
                : "No equaliser move would bring it nearer."
            : on === 0
              ? `All moves are off; the gap is ${fixed(worth.before)} dB on average.`
              : `${on === 1 ? "One move brings" : `${countWord(on)} moves bring`} the average gap from ${fixed(worth.before)} to ${fixed(worth.after)} dB, the score from ${points(worth.scoreBefore)} to ${points(worth.scoreAfter)}.${model.wrongCures.length > 0 ? " Not all of it is a job for an equaliser." : ""}`}
        </p>
        {list.length > 0 && (
          <Button
            size="sm"
            variant={moves.isHeard ? "primary" : "quiet"}
            aria-pressed={moves.isHeard}
            onClick={() => moves.setHeard(!moves.isHeard)}
          >
            {moves.isHeard ? "Moves on" : "Hear the moves"}
          </Button>
        )}
        {moves.isHeard && (
          <span className="small-text soft ms-2">at the same loudness, {signed(worth.gainDb)} dB</span>
        )}
        <MoveList
          moves={list}
          worth={worth.each}
          chosen={chosen}
          onChoose={setChosen}
          onSwitch={moves.switchOne}
          onChange={moves.change}
          onRemove={(index) => {
            setChosen(null);
            moves.remove(index);
          }}
        />
        <p className="small-text">
          <button type="button" className="plain-button underlined" onClick={() => moves.add(newMove)}>
            Add a move
          </button>
          {moves.areKept && (
            <>
              {" · "}
              <button
                type="button"
                className="plain-button underlined"
                onClick={() => {
                  setChosen(null);
                  moves.suggest();
                }}
              >
                Suggest again
              </button>
            </>
          )}
          {on > 0 && (
            <Exports sampleRate={sampleRate} moves={moves} name={`${study.title} v${version!.number}`} />
          )}
        </p>
        {model.wrongCures.length > 0 && (
          <section aria-label="Not a job for an equaliser">
            <h2 className="needs-attention">Not a job for an equaliser</h2>
            <ul className="plain-list">
              {model.wrongCures.map((own) => (
                <li key={own.key}>
                  <button
                    type="button"
                    className="plain-button text-start"
                    onClick={() =>
                      go({ range: `${Math.round(own.fromHz)}-${Math.round(own.toHz)}`, focus: null })
                    }
                  >
                    <span className="strong">{own.title}</span>
                  </button>
                  <p className="small-text soft m-0">{own.detail}</p>
                </li>
              ))}
            </ul>
          </section>
        )}
        {model.movements.length > 0 && (
          <section aria-label="Filter movement">
            <h2>Filter movement</h2>
            <ul className="plain-list">
              {model.movements.map((own) => (
                <li key={own.title}>
                  <button
                    type="button"
                    className="plain-button text-start strong"
                    onClick={() => selectBars(own.bars)}
                  >
                    {own.title}
                  </button>
                  <p className="small-text soft m-0">{own.detail}</p>
                </li>
              ))}
            </ul>
          </section>
        )}
        {model.resonances.length > 0 && (
          <Resonances
            resonances={model.resonances}
            onTakeOut={({ hz, heightDb }) => {
              moves.add({ type: "peak", hz, gainDb: -Math.min(12, heightDb), q: resonanceQ });
              moves.setHeard(true);
            }}
          />
        )}
      </aside>
    </div>
  );
}

/** The gap region by region, in the words of the trade. */
function RegionTable({ regions, onGo }: { regions: readonly RegionWords[]; onGo(range: string): void }) {
  return (
    <table className="ruled small-text region-table">
      <thead>
        <tr>
          <th>Region</th>
          <th className="number">Gap</th>
          <th>In words</th>
        </tr>
      </thead>
      <tbody>
        {regions.map((own) => (
          <tr key={own.range} className={own.isHeard ? undefined : "soft"}>
            <td>
              <button
                type="button"
                className="plain-button"
                onClick={() => onGo(`${own.fromHz}-${own.toHz}`)}
              >
                {own.range}
              </button>
            </td>
            <td className="number">{signed(own.gap)} dB</td>
            <td>
              {own.isHeard
                ? `${fixed(Math.abs(own.gap))} dB ${own.gap > 0 ? "more" : "less"} than the reference: ${own.words}`
                : own.words}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Exports({ moves, name, sampleRate }: { moves: Moves; name: string; sampleRate: number }) {
  const list = moves.moves;
  const wav = () =>
    writeWav(
      [
        impulseResponse(
          list.filter(({ on }) => on),
          sampleRate,
          moves.worth.gainDb,
        ),
      ],
      sampleRate,
      "float32",
    );
  const files: [label: string, file: string, make: () => BlobPart, type: string][] = [
    ["CSV", "csv", () => movesTable(list, "csv"), "text/csv"],
    ["text", "txt", () => movesTable(list, "text"), "text/plain"],
    ["impulse response", "wav", () => wav() as BlobPart, "audio/wav"],
  ];
  return (
    <>
      {" · Export: "}
      {files.map(([label, ending, make, type], i) => (
        <span key={ending}>
          {i > 0 && ", "}
          <button
            type="button"
            className="plain-button underlined"
            onClick={() => download(`${name} equaliser.${ending}`, new Blob([make()], { type }))}
          >
            {label}
          </button>
        </span>
      ))}
    </>
  );
}

function Resonances({
  resonances,
  onTakeOut,
}: {
  resonances: readonly ResonanceWords[];
  onTakeOut(own: ResonanceWords): void;
}) {
  const playback = usePlayback();
  const { inserts } = playback.settings;
  return (
    <section aria-label="Resonances">
      <h2>Resonances</h2>
      <ul className="plain-list">
        {resonances.slice(0, 5).map((own) => {
          const isAlone = inserts.narrowHz === own.hz;
          return (
            <li key={own.hz}>
              <span className={own.side === "version" ? "strong" : undefined}>{own.title}</span>
              <p className="small-text soft m-0">
                {own.detail}{" "}
                <button
                  type="button"
                  className="plain-button underlined"
                  aria-pressed={isAlone}
                  onClick={() => {
                    if (!isAlone && own.side !== "both") playback.listenTo(own.side);
                    playback.change({ inserts: { ...inserts, narrowHz: isAlone ? null : own.hz } });
                  }}
                >
                  {isAlone ? "Hear everything" : "Hear it alone"}
                </button>
                {own.side === "version" && (
                  <>
                    {" · "}
                    <button type="button" className="plain-button underlined" onClick={() => onTakeOut(own)}>
                      Take it out
                    </button>
                  </>
                )}
              </p>
            </li>
          );
        })}
      </ul>
    </section>
  );
}

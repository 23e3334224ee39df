"use client";

import { useRef } from "react";
import { useFrames } from "@/components/useFrames";
import { clock, fixed, signed } from "@/models/format";
import type { BarRange } from "@/core/grid/grid";
import { semitonesOfRatio } from "@/core/units";
import { BlindTest } from "./BlindTest";
import { Choice, ChoiceGroup, Labelled, OneOf } from "./choices";
import { monitorFilterOf, monitorFilters } from "./engine/monitorFilter";
import { mutedWords } from "./engine/muting";
import type { Arrangement, Trade } from "./engine/settings";
import { PartChoices } from "./PartChoices";
import { usePlayback } from "./Playback";

const speeds = [1, 0.9, 0.8, 0.75, 0.7, 0.6, 0.5];
const clickLevels = [
  { gain: 0, label: "off" },
  { gain: 0.15, label: "soft" },
  { gain: 0.4, label: "medium" },
  { gain: 0.9, label: "loud" },
];
const arrangements: { name: Arrangement; label: string }[] = [
  { name: "one", label: "one at a time" },
  { name: "ears", label: "reference left, version right" },
  { name: "blend", label: "both, mixed" },
];

/** What a turn of one side can be. */
const turns: readonly { trade: Trade; label: string; inWords: string }[] = [
  ...[1, 2, 4, 8].map((bars) => ({
    trade: bars,
    label: String(bars),
    inWords: `${bars} ${bars === 1 ? "bar" : "bars"}`,
  })),
  { trade: "sections", label: "a section", inWords: "a section each" },
];

/** Answers whether it was another text. */
function showText(element: HTMLElement | null, text: string): boolean {
  if (!element || element.textContent === text) return false;
  element.textContent = text;
  return true;
}

/** How often numbers change while sound runs. */
const readableMs = 100;

/** Tempi closer than this are the same. */
export const sameTempo = (ratio: number): boolean => Math.abs(ratio - 1) < 0.0005;

/** Play, which side, where, how loud and through what: always at the bottom. */
export function ListeningBar({ versionName, bars }: { versionName: string | null; bars: BarRange | null }) {
  const playback = usePlayback();
  const { settings, playing, waiting, trim, equalLoudness, available, trouble, looping, blind } = playback;
  const place = useRef<HTMLSpanElement>(null);
  const time = useRef<HTMLSpanElement>(null);
  const told = useRef({ position: 0, due: 0 });
  useFrames(() => {
    // Numbers that run can be read no faster than this; where they stop, they are exact.
    const now = performance.now();
    const position = playback.position();
    const moves = position !== told.current.position;
    told.current.position = position;
    if (moves && now < told.current.due) return true;
    told.current.due = now + readableMs;
    const at = playback.place();
    const seconds = clock(position, true);
    const words = at ? `${at.bar} : ${(Math.floor(at.beat * 10) / 10).toFixed(1)}` : seconds;
    const placeChanged = showText(place.current, words);
    return showText(time.current, at ? seconds : "") || placeChanged || moves;
  });

  const ready = available.reference || available.version;
  const trimmed =
    trim.reference < 0 ? (["reference", trim.reference] as const) : (["version", trim.version] as const);
  const speedWords = [
    settings.speed === 1 ? "" : `${Math.round(settings.speed * 100)} %`,
    settings.semitones === 0 ? "" : `${signed(settings.semitones, 0)} st`,
    settings.together && !sameTempo(playback.tempoRatio) ? "same tempo" : "",
  ].filter(Boolean);
  const throughWords = [
    settings.monitorFilter === "everything" ? "" : monitorFilterOf(settings.monitorFilter).label,
    mutedWords(settings.muted),
    settings.trade === null
      ? ""
      : `in turn, ${turns.find(({ trade }) => trade === settings.trade)?.inWords ?? ""}`,
    settings.arrangement === "one" ? "" : settings.arrangement === "ears" ? "left / right" : "mixed",
  ].filter(Boolean);
  return (
    <footer className="listening-bar" aria-label="Listening bar">
      <button
        type="button"
        className="play-button"
        disabled={!ready}
        aria-label={playing ? "Pause" : "Play"}
        onClick={playback.toggle}
      >
        <svg width="14" height="14" aria-hidden="true">
          {playing ? (
            <path d="M2 1h3.5v12H2zM8.5 1H12v12H8.5z" fill="currentColor" />
          ) : (
            <path d="M2 0.5 13 7 2 13.5z" fill="currentColor" />
          )}
        </svg>
      </button>
      <div className="side-switch" role="group" aria-label="Which side is heard">
        <button
          type="button"
          className="reference"
          aria-pressed={settings.activeSide === "reference" && available.reference && !blind}
          disabled={!available.reference || blind}
          onClick={() => playback.listenTo("reference")}
        >
          Reference
        </button>
        <button
          type="button"
          className="version"
          aria-pressed={settings.activeSide === "version" && available.version && !blind}
          disabled={!available.version || blind}
          onClick={() => playback.listenTo("version")}
        >
          {versionName ?? "No version yet"}
        </button>
      </div>
      <div className="labelled position-label">
        <span className="label">
          bar : beat <span ref={time} data-testid="time" />
        </span>
        <span className="value" ref={place} data-testid="position">
          0:00.0
        </span>
      </div>
      <Labelled
        label="loop"
        pressed={looping}
        disabled={!ready}
        onPress={() => playback.setLooping(!looping)}
      >
        {!looping
          ? "off"
          : bars
            ? bars.first === bars.last
              ? `bar ${bars.first}`
              : `${bars.first}–${bars.last}`
            : "none selected"}
      </Labelled>
      {(trouble || waiting) && (
        <p
          className={`small-text m-0 ${trouble ? "needs-attention" : "soft"}`}
          role={trouble ? "alert" : "status"}
        >
          {trouble ?? "loading …"}
        </p>
      )}
      <Labelled
        label="equal loudness"
        className="ms-auto"
        pressed={equalLoudness}
        disabled={!ready || blind}
        onPress={() => playback.setEqualLoudness(!equalLoudness)}
      >
        {!equalLoudness ? "off" : trimmed[1] < -0.05 ? `on, ${trimmed[0]} ${fixed(trimmed[1])} dB` : "on"}
      </Labelled>
      <Choice label="speed, pitch" value={speedWords.join(", ") || "100 %"} disabled={!ready}>
        <ChoiceGroup title="Speed, pitch unchanged">
          <div className="choice-row">
            {speeds.map((speed) => (
              <OneOf
                key={speed}
                chosen={settings.speed === speed}
                onChoose={() => playback.change({ speed })}
              >
                {Math.round(speed * 100)} %
              </OneOf>
            ))}
          </div>
        </ChoiceGroup>
        <ChoiceGroup title="Transpose both, semitones">
          <div className="choice-row">
            <OneOf
              chosen={false}
              onChoose={() => playback.change({ semitones: Math.max(-12, settings.semitones - 1) })}
            >
              − 1
            </OneOf>
            <span className="strong" data-testid="shift">
              {signed(settings.semitones, 0)}
            </span>
            <OneOf
              chosen={false}
              onChoose={() => playback.change({ semitones: Math.min(12, settings.semitones + 1) })}
            >
              + 1
            </OneOf>
            <OneOf chosen={settings.semitones === 0} onChoose={() => playback.change({ semitones: 0 })}>
              none
            </OneOf>
          </div>
        </ChoiceGroup>
        <ChoiceGroup
          title={
            sameTempo(playback.tempoRatio)
              ? "Both have the same tempo"
              : `The version runs at ${fixed(100 * playback.tempoRatio, 2)} % of the reference (${signed(semitonesOfRatio(playback.tempoRatio), 2)} semitones if repitched)`
          }
        >
          <OneOf chosen={!settings.together} onChoose={() => playback.change({ together: false })}>
            each at its own tempo
          </OneOf>
          <OneOf chosen={settings.together} onChoose={() => playback.change({ together: true })}>
            version stretched to the reference
          </OneOf>
        </ChoiceGroup>
      </Choice>
      <Choice label="monitor" value={throughWords.join(", ") || "Full range"} disabled={!ready}>
        <ChoiceGroup title="Monitor both sides through">
          <div className="choice-columns">
            {monitorFilters.map(({ name, label }) => (
              <OneOf
                key={name}
                chosen={settings.monitorFilter === name}
                onChoose={() => playback.change({ monitorFilter: name })}
              >
                {label}
              </OneOf>
            ))}
          </div>
        </ChoiceGroup>
        <ChoiceGroup title="Parts, lifted out of both mixes">
          <PartChoices />
        </ChoiceGroup>
        <ChoiceGroup title="What you hear">
          {arrangements.map(({ name, label }) => (
            <OneOf
              key={name}
              chosen={settings.arrangement === name && settings.trade === null}
              onChoose={() => playback.change({ arrangement: name, trade: null })}
            >
              {label}
            </OneOf>
          ))}
          <div className="d-flex gap-3" role="group" aria-label="Trade bars">
            <span className="soft">in turn, bars each</span>
            {turns.map(({ trade, label }) => (
              <OneOf
                key={trade}
                chosen={settings.trade === trade}
                onChoose={() => playback.change({ arrangement: "one", trade })}
              >
                {label}
              </OneOf>
            ))}
          </div>
          {settings.arrangement === "blend" && (
            <label className="d-flex gap-2 align-items-center small-text mt-1">
              <span className="in-reference">reference</span>
              <input
                type="range"
                min={0}
                max={1}
                step={0.05}
                value={settings.blend}
                aria-label="Share of the version in the mix"
                onChange={(event) => playback.change({ blend: Number(event.target.value) })}
              />
              <span className="in-version">version</span>
            </label>
          )}
        </ChoiceGroup>
      </Choice>
      <Choice
        label="click"
        value={clickLevels.find((l) => l.gain === settings.click)?.label ?? "on"}
        disabled={!ready}
      >
        <ChoiceGroup title="A click on every beat, higher on the first of the bar">
          {clickLevels.map(({ gain, label }) => (
            <OneOf
              key={label}
              chosen={settings.click === gain}
              onChoose={() => playback.change({ click: gain })}
            >
              {label}
            </OneOf>
          ))}
        </ChoiceGroup>
      </Choice>
      <Labelled
        label="blind test"
        disabled={!available.reference || !available.version}
        onPress={() => playback.setBlind(true)}
      >
        Start
      </Labelled>
      {blind && <BlindTest onClose={() => playback.setBlind(false)} />}
    </footer>
  );
}

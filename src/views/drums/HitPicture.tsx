"use client";

import { useRef, type KeyboardEvent, type MouseEvent } from "react";
import { signed } from "@/models/format";
import { shareAt, valueAt } from "@/components/timeline/axis";
import { Playhead } from "@/components/timeline/Playhead";
import { Ruler } from "@/components/timeline/Ruler";
import type { RulerMark } from "@/components/timeline/ruler";
import { useNotices } from "@/components/Notices";
import { useWidth } from "@/components/useWidth";
import {
  placeInWords,
  swung,
  unswung,
  voiceNames,
  type ComparedHit,
  type CountedHit,
  type DrumVoice,
  type MainSwing,
  type PlacedHit,
} from "@/core/drums";
import { HitMarks, hitKey } from "./HitMarks";
import type { Side } from "@/listening/Playback";

/** One hit of one side. */
export interface ChosenHit {
  side: Side;
  own: PlacedHit<CountedHit>;
  /** The same hit in the comparison; null where nothing is compared. */
  compared: ComparedHit | null;
}

/** What a key does to the chosen hit. */
export type HitEdit = "later" | "earlier" | "harder" | "softer" | "away" | "otherVoice";

/** Bars that are shown, in the reference's counting. */
export interface HitWindow {
  firstBar: number;
  bars: number;
  beatsPerBar: number;
  stepsPerBeat: number;
}

const rulerHeight = 20;
const nameWidth = 92;
/** Hits that were heard less surely are drawn fainter. */
const sureAt = 0.72;

/**
 * Every hit where it truly falls: each voice is a line, the reference's hits stand above it, what the
 * version has hangs below. Length is velocity.
 */
export function HitPicture({
  voices,
  hits,
  view,
  swing,
  compares,
  answered,
  height,
  chosen,
  position,
  playhead: playheadBeat,
  onChoose,
  onAdd,
  onEdit,
}: {
  voices: readonly DrumVoice[];
  /** Those inside the bars that are shown. */
  hits: readonly ComparedHit[];
  view: HitWindow;
  swing: MainSwing;
  compares: boolean;
  /** Whether the version has a bar at all. */
  answered(bar: number): boolean;
  height: number;
  chosen: ChosenHit | null;
  /** Beats of the reference that sound now; null where nothing plays. */
  position(): number | null;
  /** Beats of the reference at the playhead, whether it moves or stands. */
  playhead(): number;
  onChoose(hit: ChosenHit | null): void;
  onAdd(side: Side, voice: DrumVoice, beat: number): void;
  /** A key that changes the chosen hit. */
  onEdit(key: HitEdit, coarse: boolean): void;
}) {
  const frame = useRef<SVGSVGElement>(null);
  const { say } = useNotices();
  const width = useWidth(frame);
  const { firstBar, bars, beatsPerBar, stepsPerBeat } = view;
  const firstBeat = (firstBar - 1) * beatsPerBar;
  const beats = bars * beatsPerBar;
  // A little room before the first beat: hits ahead of it belong to it.
  const left = nameWidth + 10;
  const usable = Math.max(10, width - left - 8);
  const axis = { from: firstBeat, to: firstBeat + beats };
  const x = (beat: number) => left + shareAt(axis, beat) * usable;
  const row = (height - rulerHeight) / Math.max(1, voices.length);
  const lineY = (place: number) => rulerHeight + row * (place + 0.5);
  const reach = row * 0.43;
  const thick = bars <= 2 ? 5 : bars <= 4 ? 4 : 3;

  const order: ChosenHit[] = hits.flatMap((compared) => [
    ...(compared.reference ? [{ side: "reference" as const, own: compared.reference, compared }] : []),
    ...(compared.version ? [{ side: "version" as const, own: compared.version, compared }] : []),
  ]);
  const isChosen = (side: Side, own: PlacedHit<CountedHit>) =>
    chosen?.side === side && hitKey(chosen.own) === hitKey(own);

  const keys = (event: KeyboardEvent) => {
    const edit = (key: HitEdit) => chosen && onEdit(key, event.shiftKey);
    const go = (by: 1 | -1) => {
      const line = chosen
        ? order.filter(({ side, own }) => side === chosen.side && own.hit.voice === chosen.own.hit.voice)
        : order;
      const at = chosen ? line.findIndex(({ side, own }) => isChosen(side, own)) : by > 0 ? -1 : 1;
      const next = line[at + by];
      if (next) onChoose(next);
    };
    const actions: Record<string, () => unknown> = {
      ArrowRight: () => (event.altKey ? edit("later") : go(1)),
      ArrowLeft: () => (event.altKey ? edit("earlier") : go(-1)),
      ArrowUp: () => edit("harder"),
      ArrowDown: () => edit("softer"),
      Delete: () => edit("away"),
      Backspace: () => edit("away"),
      a: addAtPlayhead,
      ...(chosen ? { v: () => edit("otherVoice") } : {}),
      ...(chosen ? { Escape: () => onChoose(null) } : {}),
    };
    const action = actions[event.key];
    if (!action || event.metaKey || event.ctrlKey) return;
    event.preventDefault();
    event.stopPropagation();
    action();
  };

  /** The nearest step, as the track swings it; the exact time is set afterwards. */
  const nearestStep = (beat: number) =>
    swung(Math.round(unswung(beat, swing) * stepsPerBeat) / stepsPerBeat, swing);

  /** Adds a hit where the playhead is, of the side and voice that are chosen. */
  const addAtPlayhead = () => {
    const beat = playheadBeat();
    const voice = chosen?.own.hit.voice ?? voices[0];
    if (!voice) return;
    if (beat < firstBeat || beat >= firstBeat + beats) {
      say("Move the playhead into the bars shown to add a hit there.");
    } else onAdd(chosen?.side ?? "reference", voice, nearestStep(beat));
  };

  const add = (event: MouseEvent<SVGSVGElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    const y = event.clientY - box.top - rulerHeight;
    const voice = voices[Math.floor(y / row)];
    const share = (event.clientX - box.left - left) / usable;
    if (!voice || share < 0 || share >= 1) return;
    const beat = valueAt(axis, share);
    const side: Side = y % row < row / 2 ? "reference" : "version";
    if (side === "version" && !compares) return;
    onAdd(side, voice, event.altKey ? beat : nearestStep(beat));
  };

  const spoken = (side: Side, own: PlacedHit<CountedHit>) =>
    `${side === "reference" ? "Reference" : "Version"}: ${voiceNames[own.hit.voice]}, bar ${own.bar} beat ${placeInWords(own.quantised, beatsPerBar)}, ${signed(1000 * own.offset, 0)} ms, velocity ${Math.round(127 * own.hit.velocity)}`;

  const stroke = (compared: ComparedHit, side: Side, own: PlacedHit<CountedHit>) => {
    const place = voices.indexOf(own.hit.voice);
    if (place < 0) return null;
    const up = side === "reference" ? -1 : 1;
    const at = x(own.beat);
    const y = lineY(place);
    const tip = y + up * Math.max(5, reach * own.hit.velocity);
    const isExtra = compared.kind === "extra" && !compared.intended;
    return (
      <g
        key={`${side} ${hitKey(own)}`}
        className={`hit ${side}${isChosen(side, own) ? " chosen" : ""}${own.hit.confidence < sureAt ? " unsure" : ""}`}
        onClick={(event) => {
          event.stopPropagation();
          onChoose({ side, own, compared });
        }}
        onDoubleClick={(event) => event.stopPropagation()}
      >
        <title>{spoken(side, own)}</title>
        <line
          className="reachable"
          x1={at}
          x2={at}
          y1={y}
          y2={y + up * reach}
          strokeWidth={Math.max(10, thick)}
        />
        <line
          x1={at}
          x2={at}
          y1={y + up * 2.5}
          y2={tip}
          strokeWidth={thick}
          strokeLinecap={isExtra ? "butt" : "round"}
          strokeDasharray={isExtra ? "4 3" : undefined}
        />
        {own.hit.origin !== "heard" && <circle className="by-hand" cx={at} cy={tip + up * 5} r={1.8} />}
      </g>
    );
  };

  const steps = Array.from({ length: beats * stepsPerBeat + 1 }, (_, i) => i);
  const marks = Array.from({ length: beats }, (_, i): RulerMark => {
    const isBar = i % beatsPerBar === 0;
    return {
      at: firstBeat + i,
      // Where beats are close, a bar has its number only: it is set bolder.
      text: isBar ? `${bars > 2 ? "" : "bar "}${firstBar + i / beatsPerBar}` : `${(i % beatsPerBar) + 1}`,
      isBar,
    };
  }).filter(({ isBar }) => isBar || bars <= 4);
  return (
    <div className="position-relative">
      <p className="visually-hidden m-0" role="status">
        {chosen && spoken(chosen.side, chosen.own)}
      </p>
      <svg
        ref={frame}
        className="hit-picture"
        width={width || "100%"}
        height={height}
        role="group"
        tabIndex={0}
        aria-label={`Drum hits of bars ${firstBar} to ${firstBar + bars - 1}. Arrow keys go from hit to hit, up and down change its velocity, Alt with left and right its time. A adds a hit at the playhead.`}
        onKeyDown={keys}
        onClick={() => onChoose(null)}
        onDoubleClick={add}
      >
        {width > 0 && (
          <>
            {steps.map((i) => {
              const isBar = i % (beatsPerBar * stepsPerBeat) === 0;
              const isBeat = i % stepsPerBeat === 0;
              if (!isBeat && bars > 4) return null;
              return (
                <line
                  key={i}
                  className={isBar ? "bar-line" : isBeat ? "beat-line" : "step-line"}
                  x1={x(firstBeat + swung(i / stepsPerBeat, swing))}
                  x2={x(firstBeat + swung(i / stepsPerBeat, swing))}
                  y1={rulerHeight - (isBeat ? 3 : 0)}
                  y2={height}
                />
              );
            })}
            {voices.map((voice, place) => (
              <g key={voice}>
                <text className="voice-name" x={0} y={lineY(place) + 4}>
                  {voiceNames[voice]}
                </text>
                <line className="mirror" x1={left - 4} x2={width - 4} y1={lineY(place)} y2={lineY(place)} />
              </g>
            ))}
            {compares &&
              Array.from({ length: bars }, (_, i) => firstBar + i)
                .filter((own) => !answered(own))
                .map((own) => (
                  <text
                    key={`empty ${own}`}
                    className="ruler"
                    x={x((own - 1) * beatsPerBar) + 6}
                    y={height - 6}
                  >
                    not recreated
                  </text>
                ))}
            {hits.map((compared) => (
              <g
                key={`${compared.kind} ${hitKey((compared.reference ?? compared.version)!)} ${compared.reference ? "r" : "v"}`}
              >
                {compared.reference && stroke(compared, "reference", compared.reference)}
                {compared.version && stroke(compared, "version", compared.version)}
                {compares && (
                  <HitMarks
                    compared={compared}
                    voices={voices}
                    bars={bars}
                    beatsPerBar={beatsPerBar}
                    geometry={{ x, lineY, row, reach }}
                    answered={answered}
                  />
                )}
              </g>
            ))}
          </>
        )}
      </svg>
      <div className="hit-timeline" style={{ left, right: width - left - usable }}>
        <Ruler axis={axis} marks={marks} />
        <Playhead axis={axis} position={position} top={rulerHeight - 4} />
      </div>
    </div>
  );
}

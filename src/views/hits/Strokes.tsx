"use client";

import { useState, type KeyboardEvent } from "react";
import { Button } from "react-bootstrap";
import { positionAt } from "@/core/grid/grid";
import { clock, fixed } from "@/models/format";
import type { ShownHit } from "@/models/hits";
import { usePlayback } from "@/listening/Playback";
import { useEdits, useStudy } from "../study/StudyContext";

const height = 34;
const states = ["does not enter, others stand freer", "enters", "left out by hand"] as const;

/** The strokes that a typical hit is made of, over the track; each can be heard and left out. */
export function Strokes({
  itemId,
  hit,
  title,
  side,
  name,
}: {
  itemId: string;
  hit: ShownHit;
  title: string;
  side: "reference" | "version";
  name: string;
}) {
  const { facts, itemOf, study } = useStudy();
  const { editItem } = useEdits();
  const playback = usePlayback();
  const [held, setHeld] = useState<number | null>(null);
  const { strokes } = hit;
  const item = itemOf(itemId);
  const seconds = item?.file.durationSeconds ?? strokes.at(-1)?.[0] ?? 1;
  const grid = facts[itemId]?.grid ?? null;
  const own = held === null ? null : (strokes[held] ?? null);
  const leftOut = strokes.filter(([, , state]) => state === 2).length;

  const nearest = (time: number) => {
    let best = 0;
    strokes.forEach(([at], i) => {
      if (Math.abs(at - time) < Math.abs(strokes[best]![0] - time)) best = i;
    });
    return best;
  };
  const onKey = (event: KeyboardEvent) => {
    const step = event.key === "ArrowRight" ? 1 : event.key === "ArrowLeft" ? -1 : 0;
    if (step !== 0) {
      event.preventDefault();
      event.stopPropagation();
      setHeld(Math.max(0, Math.min(strokes.length - 1, (held ?? -1) + step)));
    } else if ((event.key === "Delete" || event.key === "Backspace") && own) {
      event.preventDefault();
      event.stopPropagation();
      toggle();
    }
  };
  const place = (time: number) => {
    if (!grid) return clock(time);
    const { bar, beat } = positionAt(grid, time);
    return `bar ${bar}, beat ${fixed(beat, 2)}`;
  };
  const toggle = () => {
    if (!own) return;
    const [time, , state] = own;
    const isOut = state === 2;
    editItem(
      itemId,
      `${title}: stroke at ${place(time)} ${isOut ? "may enter again" : "left out"}`,
      ({ hits }) => ({
        hits: {
          leftOut: isOut
            ? (hits.leftOut ?? []).filter((at) => Math.abs(at - time) > 0.01)
            : [...(hits.leftOut ?? []), time],
        },
      }),
    );
  };
  return (
    <section className="strokes" aria-label={`Strokes, ${name}`}>
      <div className="strokes-heading small-text">
        <span className={`strong in-${side}`}>{name}</span>
        {own ? (
          <>
            <span>
              {place(own[0])}: {states[own[2]] ?? states[0]}
            </span>
            {side === "reference" && study.reference?.id === itemId && (
              <Button
                size="sm"
                variant="quiet"
                onClick={() => {
                  playback.listenTo("reference");
                  playback.seek(Math.max(0, own[0] - 0.3));
                  if (!playback.playing) playback.toggle();
                }}
              >
                Hear it
              </Button>
            )}
            <Button size="sm" variant="quiet" onClick={toggle}>
              {own[2] === 2 ? "Let it enter" : "Leave it out"}
            </Button>
          </>
        ) : (
          <span className="soft">
            {hit.used} of {hit.count} strokes enter{leftOut > 0 ? `, ${leftOut} left out by hand` : ""}: the
            tall marks. Press one to see where it is, and leave it out.
          </span>
        )}
      </div>
      <svg
        className="stroke-picture"
        viewBox={`0 0 1000 ${height}`}
        preserveAspectRatio="none"
        style={{ height }}
        role="slider"
        tabIndex={0}
        aria-label={`Strokes of the ${title.toLowerCase()}, ${name}`}
        aria-valuemin={1}
        aria-valuemax={strokes.length}
        aria-valuenow={(held ?? 0) + 1}
        aria-valuetext={own ? `${place(own[0])}, ${states[own[2]]}` : "none chosen"}
        onKeyDown={onKey}
        onClick={(event) => {
          const box = event.currentTarget.getBoundingClientRect();
          setHeld(nearest((seconds * (event.clientX - box.left)) / box.width));
        }}
      >
        {strokes.map(([time, velocity, state], i) => {
          const x = (1000 * time) / seconds;
          const top = height - (state === 1 ? 10 + 20 * velocity : 8);
          return (
            <line
              key={i}
              className={`${state === 1 ? `enters-${side}` : state === 2 ? "is-out" : "stays"}${i === held ? " is-held" : ""}`}
              x1={x}
              x2={x}
              y1={i === held ? 0 : top}
              y2={height}
            />
          );
        })}
      </svg>
    </section>
  );
}

"use client";

import { useEffect, useRef } from "react";
import { clock, fixed } from "@/components/format";
import { usePlayback } from "./Playback";

/** Play, which side, where, and how loud: always at the bottom. */
export function ListeningBar({ recreationName }: { recreationName: string | null }) {
  const playback = usePlayback();
  const { side, playing, trim, equalLoudness, available, trouble } = playback;
  const time = useRef<HTMLSpanElement>(null);
  useEffect(() => {
    let frame = 0;
    const show = () => {
      if (time.current) time.current.textContent = clock(playback.position(), true);
      frame = requestAnimationFrame(show);
    };
    show();
    return () => cancelAnimationFrame(frame);
  }, [playback]);
  const trimmed =
    trim.reference < 0 ? (["reference", trim.reference] as const) : (["version", trim.recreation] as const);
  const ready = available.reference || available.recreation;
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
          aria-pressed={side === "reference" && available.reference}
          disabled={!available.reference}
          onClick={() => playback.listenTo("reference")}
        >
          Reference
        </button>
        <button
          type="button"
          className="recreation"
          aria-pressed={side === "recreation" && available.recreation}
          disabled={!available.recreation}
          onClick={() => playback.listenTo("recreation")}
        >
          {recreationName ?? "No version yet"}
        </button>
      </div>
      <div className="labelled">
        <span className="label">position</span>
        <span className="value" ref={time} data-testid="position">
          0:00.0
        </span>
      </div>
      {trouble && (
        <p className="needs-attention small-text m-0" role="alert">
          {trouble}
        </p>
      )}
      <div className="labelled ms-auto">
        <span className="label">equal loudness</span>
        <button
          type="button"
          className="plain-button value"
          aria-pressed={equalLoudness}
          disabled={!ready}
          onClick={() => playback.setEqualLoudness(!equalLoudness)}
        >
          {!equalLoudness ? "off" : trimmed[1] < -0.05 ? `on, ${trimmed[0]} ${fixed(trimmed[1])} dB` : "on"}
        </button>
      </div>
    </footer>
  );
}

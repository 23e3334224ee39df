"use client";

import { useState } from "react";
import { MirrorPicture } from "@/components/timeline/MirrorPicture";
import { barStart, beatAt, secondsAt, type BarRange } from "@/core/grid/grid";
import { pitchName } from "@/core/harmony/notes";
import { lowFramesPerSecond, type BassNote, type LowEndBand } from "@/core/lowEnd";
import { answeringTime, type AlignedBars } from "@/core/study";
import { slideWords } from "@/models/bassLine";
import { hertzOf } from "@/models/lowEnd";

const height = 250;
const half = height / 2;
/** Points across the picture. */
const points = 900;

/** Largest magnitudes of kick and bass in each column, and the note that sounds there. */
interface Column {
  kick: number;
  rest: number;
}

/** Amplitude of a power curve over a span of time: between its frames where the span is shorter than one. */
function heightOf(power: Float32Array, time: number, span: number): number {
  const from = time * lowFramesPerSecond;
  const to = from + span * lowFramesPerSecond;
  const at = (place: number) => {
    const frame = Math.max(0, Math.min(power.length - 2, Math.floor(place)));
    const share = Math.max(0, Math.min(1, place - frame));
    return power[frame]! * (1 - share) + power[frame + 1]! * share;
  };
  let most = Math.max(at(from), at(to));
  for (let frame = Math.ceil(from); frame <= to; frame++) most = Math.max(most, power[frame] ?? 0);
  return Math.sqrt(2 * most);
}

/** The low end over bars: the reference's above the line, the version's below; kicks filled, bass in tint. */
export function LowPicture({
  reference,
  version,
  notes,
  aligned,
  bars,
  beats,
  onBars,
  gain,
  deepest,
}: {
  reference: LowEndBand;
  version: LowEndBand;
  notes: Record<"reference" | "version", readonly BassNote[]>;
  aligned: AlignedBars;
  bars: BarRange;
  /** In hertz: notes deeper than that are named in amber. */
  deepest: number;
  /** Beats of the first bar that are shown alone; null for whole bars. */
  beats: number | null;
  onBars(bars: BarRange): void;
  /** Makes the version as loud as the reference, as a ratio of amplitudes. */
  gain: number;
}) {
  const [at, setAt] = useState<number | null>(null);
  const { beatsPerBar } = aligned.reference;
  const from = (bars.first - 1) * beatsPerBar;
  const length = beats ?? (bars.last - bars.first + 1) * beatsPerBar;
  /** Time in a side at a beat of the reference; null where nothing answers. */
  const timeOf = (side: "reference" | "version", beat: number): number | null =>
    side === "reference" ? secondsAt(aligned.reference, beat) : answeringTime(aligned, beat);
  const columnsOf = (side: "reference" | "version", band: LowEndBand): (Column | null)[] =>
    Array.from({ length: points }, (_, i) => {
      const beat = from + (length * i) / points;
      const time = timeOf(side, Math.min(beat, from + length - 1e-6));
      if (time === null) return null;
      const span = (60 / aligned.reference.bpm / points) * length;
      return { kick: heightOf(band.kickPower, time, span), rest: heightOf(band.restPower, time, span) };
    });
  const columns = { reference: columnsOf("reference", reference), version: columnsOf("version", version) };
  const loudest = Math.max(
    1e-4,
    ...columns.reference.map((own) => (own ? Math.max(own.kick, own.rest) : 0)),
    ...columns.version.map((own) => (own ? gain * Math.max(own.kick, own.rest) : 0)),
  );
  const path = (side: "reference" | "version", part: keyof Column) => {
    const scale = ((half - 16) / loudest) * (side === "version" ? gain : 1);
    const sign = side === "reference" ? -1 : 1;
    let pen = "";
    let isDown = false;
    columns[side].forEach((own, i) => {
      const x = ((100 * i) / (points - 1)).toFixed(2);
      if (own === null) {
        if (isDown) pen += `L${x} ${half}Z`;
        isDown = false;
        return;
      }
      if (!isDown) pen += `M${x} ${half}`;
      pen += `L${x} ${(half + sign * scale * own[part]).toFixed(1)}`;
      isDown = true;
    });
    return isDown ? `${pen}L100 ${half}Z` : pen;
  };
  const named = length <= 16;
  const placed = (side: "reference" | "version") => {
    const grid = aligned[side];
    return notes[side].flatMap((note) => {
      const beat = beatAt(grid, note.start);
      const span = aligned.spans.find(({ versionFirst, bars: count }) => {
        const bar = Math.floor(beat / beatsPerBar + 1e-3) + 1;
        return bar >= versionFirst && bar < versionFirst + count;
      });
      const own =
        side === "reference"
          ? beat
          : span
            ? beat + (span.referenceFirst - span.versionFirst) * beatsPerBar
            : NaN;
      const left = (own - from) / length;
      return left >= -0.001 && left < 1 ? [{ note, left: Math.max(0, left) }] : [];
    });
  };
  const inWords =
    at === null
      ? null
      : (["reference", "version"] as const).map((side) => {
          const time = timeOf(side, (at - 1) * beatsPerBar);
          const note =
            time === null ? null : notes[side].find(({ start, end }) => time >= start - 0.01 && time < end);
          return note
            ? [pitchName(note.midi), slideWords(note), `${hertzOf(note).toFixed(0)} Hz`]
                .filter(Boolean)
                .join(", ")
            : "–";
        });
  const labels = (side: "reference" | "version") => {
    let free = 0;
    return placed(side).map(({ note, left }, i) => {
      const isDeep = hertzOf(note) < deepest;
      // One name at a time: those in between are seen when it is drawn larger.
      if (!(named || isDeep) || left < free || left > 0.98) return null;
      free = left + (isDeep ? 0.09 : 0.029);
      return (
        <span
          key={i}
          className={`bass-name in-${side}${isDeep ? " needs-attention" : ""}`}
          style={{ left: `${100 * left}%` }}
        >
          {pitchName(note.midi)}
          {isDeep && `, ${hertzOf(note).toFixed(0)} Hz`}
        </span>
      );
    });
  };
  return (
    <section className="low-picture" aria-label="Low end over bars">
      <div className="note-names">{labels("reference")}</div>
      <MirrorPicture
        bars={bars}
        until={bars.first + length / beatsPerBar}
        beatsPerBar={beatsPerBar}
        height={height}
        label="Low end, reference above the line, version below; kicks filled, bass in tint"
        startOfBar={(bar) => barStart(aligned.reference, bar)}
        selected={null}
        onBars={onBars}
        onPointed={setAt}
      >
        {Array.from({ length: Math.min(64, length) + 1 }, (_, i) => (
          <line
            key={i}
            className={i % beatsPerBar === 0 && beats === null ? "bar-line" : "beat-line"}
            x1={(100 * i) / Math.min(64, length)}
            x2={(100 * i) / Math.min(64, length)}
            y1={0}
            y2={height}
          />
        ))}
        <path className="bass-up" d={path("reference", "rest")} />
        <path className="bass-down" d={path("version", "rest")} />
        <path className="up" d={path("reference", "kick")} />
        <path className="down" d={path("version", "kick")} />
      </MirrorPicture>
      <div className="note-names">{labels("version")}</div>
      <p className="small-text soft m-0">
        {inWords
          ? `Bar ${Math.floor(at!)}: ${inWords[0]} in the reference, ${inWords[1]} in yours.`
          : `Filled: kick. Tint: bass and all else. At equal loudness. Notes below ${deepest} Hz are named in amber.`}
      </p>
    </section>
  );
}

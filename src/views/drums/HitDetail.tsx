"use client";

import { Button } from "react-bootstrap";
import { signed } from "@/models/format";
import {
  drumVoices,
  placeInWords,
  voiceNames,
  type CountedHit,
  type DrumHit,
  type DrumVoice,
} from "@/core/drums";
import type { ChosenHit } from "./HitPicture";

const origins: Record<CountedHit["origin"], string> = {
  heard: "detected",
  brought: "from the MIDI file",
  "by hand": "set by hand",
};

const voiceChoices = drumVoices.map((voice) => (
  <option key={voice} value={voice}>
    {voiceNames[voice]}
  </option>
));

/** The chosen hit in numbers, each of which can be changed. */
export function HitDetail({
  chosen,
  beatsPerBar,
  alike,
  onChange,
  onRenameAll,
  onRemove,
  onHear,
}: {
  chosen: ChosenHit;
  beatsPerBar: number;
  /** How many hits of its voice sound like it, itself among them. */
  alike: number;
  onChange(change: Partial<Pick<DrumHit, "time" | "voice" | "velocity">>): void;
  /** They are all of another voice. */
  onRenameAll(voice: DrumVoice): void;
  onRemove(): void;
  onHear(): void;
}) {
  const { own, side, compared } = chosen;
  const { hit } = own;
  return (
    <section className="hit-detail" aria-label="Selected hit">
      <span className={`strong ${side === "reference" ? "in-reference" : "in-version"}`}>
        bar {own.bar} beat {placeInWords(own.quantised, beatsPerBar)}
      </span>
      <label className="field inline">
        <span className="visually-hidden">voice</span>
        <select
          className="form-select form-select-sm"
          value={hit.voice}
          onChange={({ target }) => onChange({ voice: target.value as DrumVoice })}
        >
          {voiceChoices}
        </select>
      </label>
      {alike > 1 && (
        <label className="field inline">
          all {alike} alike
          <select
            className="form-select form-select-sm"
            value={hit.voice}
            onChange={({ target }) => onRenameAll(target.value as DrumVoice)}
          >
            {voiceChoices}
          </select>
        </label>
      )}
      <label className="field inline">
        velocity
        <input
          key={hit.velocity}
          className="form-control form-control-sm"
          type="number"
          min={1}
          max={127}
          defaultValue={Math.round(127 * hit.velocity)}
          onBlur={({ target }) => {
            const value = Math.round(Number(target.value));
            if (value >= 1 && value <= 127 && value !== Math.round(127 * hit.velocity))
              onChange({ velocity: value / 127 });
          }}
        />
      </label>
      <span className="nowrap">
        {signed(1000 * own.offset, 0)} ms{" "}
        <Button
          size="sm"
          variant="quiet"
          aria-label="A millisecond earlier"
          onClick={() => onChange({ time: hit.time - 0.001 })}
        >
          ‹
        </Button>
        <Button
          size="sm"
          variant="quiet"
          aria-label="A millisecond later"
          onClick={() => onChange({ time: hit.time + 0.001 })}
        >
          ›
        </Button>
      </span>
      {compared?.timingDeviation !== null && compared?.timingDeviation !== undefined && compared.version && (
        <span className="soft">
          yours: {signed(1000 * compared.timingDeviation, 0)} ms, {signed(compared.velocityDifference, 1)} dB
        </span>
      )}
      <span className="soft">
        {hit.origin === "heard" ? `${Math.round(100 * hit.confidence)} % confidence` : origins[hit.origin]}
      </span>
      <button type="button" className="plain-button underlined ms-auto" onClick={onHear}>
        Hear
      </button>
      <button type="button" className="plain-button underlined" onClick={onRemove}>
        Remove
      </button>
    </section>
  );
}

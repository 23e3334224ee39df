"use client";

import { useState } from "react";
import { FileLinks } from "@/components/FileLinks";
import { FilePick } from "@/components/FilePick";
import { useNotices } from "@/components/Notices";
import { sentenceOf } from "@/components/requests";
import type { ImportedPattern } from "@/core/drums";
import type { BarRange } from "@/core/grid/grid";
import type { Side } from "@/listening/Playback";
import { readDrumMidi } from "@/core/formats/drumMidiIn";
import { MidiImport, type ReadFile } from "./MidiImport";
import type { DrumTrack } from "@/models/drums";

const formats = [
  { format: "midi", label: "MIDI as played" },
  { format: "quantised", label: "MIDI quantised" },
  { format: "groove", label: "groove as CSV" },
] as const;

/** Drums out as files, and a MIDI part in as a track's pattern. */
export function DrumFiles({
  tracks,
  bars: selected,
  onTake,
  onReset,
}: {
  tracks: { reference: DrumTrack; version: DrumTrack | null };
  /** The selection in the reference; null writes all bars. */
  bars: BarRange | null;
  onTake(track: DrumTrack, pattern: ImportedPattern): void;
  onReset(track: DrumTrack): void;
}) {
  const [side, setSide] = useState<Side>("reference");
  const track = tracks[side] ?? tracks.reference;
  // The selection is counted in bars of the reference; a version is written whole.
  const bars = track === tracks.reference ? selected : null;
  const { say } = useNotices();
  const [read, setRead] = useState<ReadFile | null>(null);
  const span = bars ? `&bars=${bars.first}-${bars.last}` : "";
  const bring = async (file: File) => {
    const part = readDrumMidi(new Uint8Array(await file.arrayBuffer()));
    if (part.ok) setRead({ name: file.name, part: part.value });
    else say(`${file.name}: ${sentenceOf(part.refusal)}`);
  };
  return (
    <section aria-label="Files">
      <h2>Export and import</h2>
      <FileLinks
        formats={formats}
        addressOf={(format) => `/api/items/${track.itemId}/drums?format=${format}${span}`}
      />
      <p className="small-text soft m-0">
        {track.name}, {bars ? `bars ${bars.first} to ${bars.last}` : "all bars"}.{" "}
        <FilePick
          text="Import its drum part (MIDI)"
          label="Drum part"
          accept=".mid,.midi,audio/midi"
          onFile={(file) => void bring(file)}
        />
      </p>
      <p className="small-text m-0 mt-2">
        {tracks.version && (
          <span className="choices me-3" role="group" aria-label="Whose files">
            {(["reference", "version"] as const).map((own) => (
              <button
                key={own}
                type="button"
                className="plain-button"
                aria-pressed={side === own}
                onClick={() => setSide(own)}
              >
                {tracks[own]!.name}
              </button>
            ))}
          </span>
        )}
        {Object.keys(track.correction).length > 0 && (
          <button type="button" className="plain-button underlined" onClick={() => onReset(track)}>
            Reset to detected
          </button>
        )}
      </p>
      {read && track.ownGrid && (
        <MidiImport
          file={read}
          grid={track.ownGrid}
          owner={track.name}
          onClose={() => setRead(null)}
          onTake={(pattern) => {
            setRead(null);
            onTake(track, pattern);
          }}
        />
      )}
    </section>
  );
}

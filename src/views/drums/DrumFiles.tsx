"use client";

import { useRef, useState } from "react";
import { useNotices } from "@/components/Notices";
import { sentenceOf } from "@/components/requests";
import type { ImportedPattern } from "@/core/drums";
import type { BarRange } from "@/core/grid/grid";
import { readDrumMidi } from "@/core/formats/drumMidiIn";
import { MidiImport, type ReadFile } from "./MidiImport";
import type { DrumTrack } from "./model";

const formats = [
  { format: "midi", says: "MIDI as played" },
  { format: "quantised", says: "MIDI quantised" },
  { format: "groove", says: "groove as CSV" },
] as const;

/** Drums out as files, and a MIDI part in as a track's pattern. */
export function DrumFiles({
  track,
  bars,
  onTake,
}: {
  track: DrumTrack;
  /** The selection, for tracks that are counted as it is; null writes all bars. */
  bars: BarRange | null;
  onTake(pattern: ImportedPattern): void;
}) {
  const { say } = useNotices();
  const picker = useRef<HTMLInputElement>(null);
  const [read, setRead] = useState<ReadFile | null>(null);
  const span = bars ? `&bars=${bars.first}-${bars.last}` : "";
  const bring = async (file: File) => {
    const part = readDrumMidi(new Uint8Array(await file.arrayBuffer()));
    if (part.ok) setRead({ name: file.name, part: part.value });
    else say(`${file.name}: ${sentenceOf(part.refusal)}`);
  };
  return (
    <section aria-label="Files">
      <h2>Out and in</h2>
      <p className="m-0">
        {formats.map(({ format, says }, i) => (
          <span key={format}>
            {i > 0 && " · "}
            <a href={`/api/plans/${track.placeId}/drums?format=${format}${span}`} download>
              {says}
            </a>
          </span>
        ))}
      </p>
      <p className="small-text soft m-0">
        Of {track.name.toLowerCase()}, {bars ? `bars ${bars.first} to ${bars.last}` : "all bars"}.{" "}
        <button type="button" className="plain-button underlined" onClick={() => picker.current?.click()}>
          Bring in its drum part (MIDI)
        </button>
        <input
          ref={picker}
          type="file"
          accept=".mid,.midi,audio/midi"
          hidden
          aria-label="Drum part"
          onChange={(event) => {
            const [file] = event.target.files ?? [];
            if (file) void bring(file);
            event.target.value = "";
          }}
        />
      </p>
      {read && track.ownGrid && (
        <MidiImport
          file={read}
          grid={track.ownGrid}
          owner={track.name}
          onClose={() => setRead(null)}
          onTake={(pattern) => {
            setRead(null);
            onTake(pattern);
          }}
        />
      )}
    </section>
  );
}

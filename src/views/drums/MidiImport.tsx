"use client";

import { useState } from "react";
import { Button, Modal } from "react-bootstrap";
import { fixed } from "@/models/format";
import { drumVoices, voiceNames, type DrumVoice, type ImportedPattern } from "@/core/drums";
import { asPattern, type ReadDrumPart } from "@/core/formats/drumMidiIn";
import { quartersPerBeat } from "@/core/formats/midiFile";
import type { Grid } from "@/core/grid/grid";

/** A drum part that was read, on its way to becoming a track's pattern. */
export interface ReadFile {
  name: string;
  part: ReadDrumPart;
}

/** Asks which voice each note of a MIDI file is, where the part begins, and whether it repeats. */
export function MidiImport({
  file,
  grid,
  owner,
  onTake,
  onClose,
}: {
  file: ReadFile;
  grid: Grid;
  /** Whose pattern it becomes. */
  owner: string;
  onTake(pattern: ImportedPattern): void;
  onClose(): void;
}) {
  const { name, part } = file;
  const [voices, setVoices] = useState(new Map(part.notes.map(({ note, voice }) => [note, voice])));
  const [firstBar, setFirstBar] = useState(1);
  const quarters = quartersPerBeat(grid.beatsPerBar);
  const bars = part.lengthQuarters / quarters / grid.beatsPerBar;
  const trackBars = Math.floor((grid.beats.length - 1 - grid.barOne) / grid.beatsPerBar);
  const [repeats, setRepeats] = useState(bars < trackBars - 1);
  const taken = part.notes.reduce((sum, { note, count }) => sum + (voices.get(note) ? count : 0), 0);
  return (
    <Modal show onHide={onClose} aria-labelledby="midi-import-title">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          onTake(asPattern(part, voices, { name, firstBar, repeats, quartersPerBeat: quarters }));
        }}
      >
        <Modal.Header closeButton>
          <Modal.Title id="midi-import-title">{name}</Modal.Title>
        </Modal.Header>
        <Modal.Body className="stacked" style={{ gap: 14 }}>
          <p className="m-0">
            {part.hits.length} hits over {Number(bars.toFixed(2))} {bars === 1 ? "bar" : "bars"}
            {part.bpm !== null && <>, written at {fixed(part.bpm, 2)} BPM</>}. They become the pattern of{" "}
            {owner.toLowerCase()} in place of what was heard.
            {!part.fromDrumChannel && " There is no drum channel in it, so all notes were taken."}
          </p>
          <table className="ruled">
            <thead>
              <tr>
                <th scope="col">Note</th>
                <th scope="col" className="number">
                  Hits
                </th>
                <th scope="col">Voice</th>
              </tr>
            </thead>
            <tbody>
              {part.notes.map(({ note, count }) => (
                <tr key={note}>
                  <td>{note}</td>
                  <td className="number">{count}</td>
                  <td>
                    <select
                      className="form-select form-select-sm"
                      aria-label={`Voice of note ${note}`}
                      value={voices.get(note) ?? ""}
                      onChange={({ target }) =>
                        setVoices(
                          new Map(voices).set(note, target.value === "" ? null : (target.value as DrumVoice)),
                        )
                      }
                    >
                      <option value="">leave out</option>
                      {drumVoices.map((voice) => (
                        <option key={voice} value={voice}>
                          {voiceNames[voice]}
                        </option>
                      ))}
                    </select>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <div className="d-flex gap-4 align-items-end">
            <label className="field">
              Begins with bar
              <input
                className="form-control form-control-sm bar-field"
                type="number"
                value={firstBar}
                onChange={({ target }) => setFirstBar(Math.round(Number(target.value) || 1))}
              />
            </label>
            <label className="d-flex gap-2 align-items-center">
              <input
                type="checkbox"
                checked={repeats}
                onChange={({ target }) => setRepeats(target.checked)}
              />
              repeat to the end
            </label>
          </div>
        </Modal.Body>
        <Modal.Footer>
          <Button variant="quiet" onClick={onClose}>
            Cancel
          </Button>
          <Button type="submit" disabled={taken === 0}>
            Take {taken} hits
          </Button>
        </Modal.Footer>
      </form>
    </Modal>
  );
}

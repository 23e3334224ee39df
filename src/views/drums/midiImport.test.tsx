/** A drum part from a MIDI file on its way to becoming a pattern: what is asked, and what is taken. */
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import type { ImportedPattern } from "@/core/drums";
import type { ReadDrumPart } from "@/core/formats/drumMidiIn";
import { steadyGrid } from "@/core/testing/drums";
import { MidiImport } from "./MidiImport";

afterEach(cleanup);

/** Two bars: kicks on the beats, a clap, and a note that belongs to no drum. */
const part: ReadDrumPart = {
  hits: [
    ...Array.from({ length: 8 }, (_, i) => ({ note: 36, quarter: i, velocity: 0.9 })),
    { note: 39, quarter: 4, velocity: 0.7 },
    { note: 100, quarter: 6, velocity: 0.5 },
  ],
  notes: [
    { note: 36, count: 8, voice: "kick" },
    { note: 39, count: 1, voice: "clap" },
    { note: 100, count: 1, voice: null },
  ],
  lengthQuarters: 8,
  bpm: 96,
  fromDrumChannel: true,
};

function open(own: Partial<ReadDrumPart> = {}, bars = 16) {
  const taken: ImportedPattern[] = [];
  let closed = 0;
  render(
    <MidiImport
      file={{ name: "loop.mid", part: { ...part, ...own } }}
      grid={steadyGrid(96, bars, 0)}
      owner="Version 2"
      onTake={(pattern) => taken.push(pattern)}
      onClose={() => closed++}
    />,
  );
  return { taken, closed: () => closed };
}
const take = () => fireEvent.submit(screen.getByRole("button", { name: /^Take/ }).closest("form")!);
const voiceOf = (note: number) => screen.getByLabelText<HTMLSelectElement>(`Voice of note ${note}`);

it("says what is in the file and whose pattern it becomes", () => {
  open();
  screen.getByText(/^10 hits over 2 bars, written at 96\.00 BPM\. They become the pattern of version 2/);
  expect(screen.queryByText(/There is no drum channel/)).toBeNull();
  expect(voiceOf(36).value).toBe("kick");
  expect(voiceOf(100).value).toBe("");
});

it("says where notes were taken from any channel, and leaves out a tempo that is not there", () => {
  open({ fromDrumChannel: false, bpm: null, lengthQuarters: 4 });
  screen.getByText(/^10 hits over 1 bar\. They become/);
  screen.getByText(/There is no drum channel in it, so all notes were taken\./);
});

it("takes notes that have a voice, repeated to the end where the part is shorter than the track", () => {
  const { taken } = open();
  expect(screen.getByLabelText<HTMLInputElement>("repeat to the end").checked).toBe(true);
  fireEvent.change(screen.getByLabelText("Begins with bar"), { target: { value: "3" } });
  screen.getByRole("button", { name: "Take 9 hits" });
  take();
  expect(taken).toHaveLength(1);
  const [pattern] = taken;
  expect(pattern!.name).toBe("loop.mid");
  expect(pattern!.hits.map(({ voice }) => voice).filter((voice) => voice === "kick")).toHaveLength(8);
  expect(pattern!.hits.some(({ voice }) => voice === "clap")).toBe(true);
  expect(pattern!.hits).toHaveLength(9);
});

it("counts what is taken as voices are given and left out", () => {
  const { taken } = open();
  fireEvent.change(voiceOf(100), { target: { value: "cymbal" } });
  screen.getByRole("button", { name: "Take 10 hits" });
  fireEvent.change(voiceOf(36), { target: { value: "" } });
  screen.getByRole("button", { name: "Take 2 hits" });
  fireEvent.change(voiceOf(39), { target: { value: "snare" } });
  take();
  expect(taken[0]!.hits.map(({ voice }) => voice).sort()).toEqual(["cymbal", "snare"]);
});

it("cannot be taken where nothing is left of it", () => {
  open();
  for (const note of [36, 39]) fireEvent.change(voiceOf(note), { target: { value: "" } });
  expect(screen.getByRole<HTMLButtonElement>("button", { name: "Take 0 hits" }).disabled).toBe(true);
});

it("is not repeated where it is as long as the track, and can be given up", () => {
  const { taken, closed } = open({ lengthQuarters: 64 });
  expect(screen.getByLabelText<HTMLInputElement>("repeat to the end").checked).toBe(false);
  fireEvent.click(screen.getByRole("button", { name: "Cancel" }));
  expect(closed()).toBe(1);
  expect(taken).toEqual([]);
});

it("takes a bar that is no number for the first", () => {
  open();
  const field = screen.getByLabelText<HTMLInputElement>("Begins with bar");
  fireEvent.change(field, { target: { value: "" } });
  expect(field.value).toBe("1");
});

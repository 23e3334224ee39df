/** Plans written as MIDI, JAMS, chart and CSV, read back by independent libraries where there are any. */
import { Midi } from "./midiFile";
import { BasicMIDI } from "spessasynth_core";
import type { Grid } from "../grid/grid";
import { readChord } from "../harmony/chords";
import { voicing } from "../harmony/voicing";
import type { CountedPlan } from "../plan/trackPlan";
import { chordChart, sectionsCsv } from "./chart";
import { readJams, writeJams } from "./jams";
import { planMidi } from "./planMidi";
import { planTimes } from "./planTimes";

const grid: Grid = {
  beats: Array.from({ length: 33 }, (_, k) => 0.5 + (k * 60) / 118),
  barOne: 0,
  beatsPerBar: 4,
  steady: true,
  bpm: 118,
};

const plan: CountedPlan = {
  measured: {
    harmony: { key: null, chords: [], bars: { firstBar: 1, beatsPerBar: 4, chroma: [] } },
    form: null,
  },
  key: { tonic: 6, mode: "minor" },
  chords: ["F#m", "D/F#", "A", "N", "E7", "F#m", "D", "A"].map((name, i) => ({
    startBeat: 4 * i,
    endBeat: 4 * i + 4,
    chord: readChord(name)!,
    confidence: 0.9,
  })),
  sections: [
    { firstBar: 1, lastBar: 4, name: "intro", letter: "A" },
    { firstBar: 5, lastBar: 8, name: "verse, quiet", letter: "B" },
  ],
};
const times = planTimes(plan, grid, 17);

describe("MIDI", () => {
  it.each([
    [{ tonic: 6, mode: "minor" }, [3, 1]],
    [{ tonic: 0, mode: "major" }, [0, 0]],
    [{ tonic: 3, mode: "major" }, [0x100 - 3, 0]],
    [{ tonic: 7, mode: "minor" }, [0x100 - 2, 1]],
  ] as const)("has the signature of %j as the standard writes it", (key, [accidentals, scale]) => {
    // Meta event 59 of "Standard MIDI Files 1.0" (1988): sharps or flats as a signed byte, then the mode.
    const bytes = [...planMidi({ ...plan, key }, grid, "Lanterns")];
    const at = bytes.findIndex((byte, i) => byte === 0xff && bytes[i + 1] === 0x59 && bytes[i + 2] === 2);
    expect(bytes.slice(at + 3, at + 5)).toEqual([accidentals, scale]);
  });

  const bytes = planMidi(plan, grid, "Copper Kites");

  it("is read by one library with its tempo, markers and notes", () => {
    const midi = new Midi(bytes);
    expect(midi.header.tempos[0]!.bpm).toBeCloseTo(118, 2);
    expect(midi.header.timeSignatures[0]!.timeSignature).toEqual([4, 4]);
    expect(
      midi.header.meta
        .filter(({ type }) => type === "marker")
        .map(({ text, ticks }) => [text, ticks / midi.header.ppq]),
    ).toEqual([
      ["intro", 0],
      ["verse, quiet", 16],
    ]);
    const [chords, bass] = midi.tracks;
    const first = chords!.notes.filter(({ ticks }) => ticks === 0).map(({ midi: pitch }) => pitch % 12);
    expect([...first].sort((a, b) => a - b)).toEqual([1, 6, 9]);
    expect(bass!.notes.map(({ midi: pitch }) => pitch % 12)).toEqual([6, 6, 9, 4, 6, 2, 9]);
    // Nothing sounds in bar 4.
    expect(chords!.notes.some(({ ticks }) => ticks === 12 * midi.header.ppq)).toBe(false);
    expect(chords!.notes[0]!.durationTicks).toBe(4 * midi.header.ppq);
  });

  it("is read by another library alike", () => {
    const file = BasicMIDI.fromArrayBuffer(Uint8Array.from(bytes).buffer);
    expect(file.format).toBe(1);
    expect(file.tempoChanges[0]!.tempo).toBeCloseTo(118, 2);
    const events = file.tracks.flatMap((track) => track.events);
    // Status bytes of Standard MIDI File 1.0: marker FF 06, note on 9n, note off 8n.
    const markers = events.filter(({ statusByte }) => statusByte === 0x06);
    expect(
      markers.map(({ ticks, data }) => [new TextDecoder().decode(data), ticks / file.timeDivision]),
    ).toEqual([
      ["intro", 0],
      ["verse, quiet", 16],
    ]);
    const ofKind = (kind: number) => events.filter(({ statusByte }) => statusByte >> 4 === kind);
    // Seven chords with bass: one of four notes, six of three.
    expect(ofKind(9)).toHaveLength(7 + 4 + 6 * 3);
    expect(ofKind(8)).toHaveLength(7 + 4 + 6 * 3);
  });

  it("counts 6/8 in dotted quarters", () => {
    const compound = new Midi(planMidi(plan, { ...grid, beatsPerBar: 2, bpm: 60 }, "x"));
    expect(compound.header.timeSignatures[0]!.timeSignature).toEqual([6, 8]);
    expect(compound.header.tempos[0]!.bpm).toBeCloseTo(90, 2);
  });

  it("keeps the bass below the chord", () => {
    for (const name of ["C", "F#m7", "B/D#", "Gsus4"]) {
      const { bass, notes } = voicing(readChord(name)!);
      expect(bass).toBeLessThan(Math.min(...notes));
      expect(bass % 12).toBe(readChord(name)!.bass);
    }
  });
});

describe("JAMS", () => {
  it("is read back as it was written", () => {
    const read = readJams(writeJams(times, { title: "Copper Kites", artist: "The Slow Ferries" }));
    if (!read.ok) throw new Error(read.refusal.sentence);
    expect(read.value.warnings).toEqual([]);
    expect(read.value.key).toEqual(plan.key);
    expect(read.value.chords!.map(({ chord }) => chord)).toEqual(plan.chords.map(({ chord }) => chord));
    expect(read.value.chords![2]!.start).toBeCloseTo(times.chords[2]!.start, 9);
    expect(read.value.sections!.map(({ name }) => name)).toEqual(["intro", "verse, quiet"]);
  });

  it("has the fields of its schema: metadata, namespaces, observations", () => {
    const jams = JSON.parse(writeJams(times, {}));
    expect(jams.file_metadata).toMatchObject({ duration: 17, jams_version: expect.stringMatching(/^0\.3/) });
    expect(jams.annotations.map((a: { namespace: string }) => a.namespace)).toEqual([
      "beat",
      "chord_harte",
      "key_mode",
      "segment_open",
    ]);
    expect(jams.annotations[1].data[1]).toMatchObject({ value: "D:maj/3", confidence: 0.9 });
    expect(jams.annotations[0].data.slice(3, 6).map((o: { value: number }) => o.value)).toEqual([4, 1, 2]);
  });

  it("is read column by column too, and what is not understood is said", () => {
    const read = readJams(
      JSON.stringify({
        annotations: [
          {
            namespace: "chord",
            data: { time: [0, 2], duration: [2, 2], value: ["A:min7", "purple"], confidence: [1, null] },
          },
        ],
      }),
    );
    if (!read.ok) throw new Error(read.refusal.sentence);
    expect(read.value.chords).toEqual([{ start: 0, end: 2, chord: { root: 9, quality: "min7", bass: 9 } }]);
    expect(read.value.warnings[0]).toContain("purple");
    expect(read.value.sections).toBeNull();
  });

  it.each(["no json", "{}", '{"annotations":[{"namespace":"beat","data":[]}]}'])("%p is refused", (text) => {
    const read = readJams(text);
    expect(read.ok).toBe(false);
    if (!read.ok) expect(read.refusal.sentence).toMatch(/JAMS/);
  });
});

describe("text", () => {
  it("is a chart of four bars a line, by section", () => {
    expect(chordChart(plan, grid, { title: "Copper Kites" }).split("\n")).toEqual([
      "Copper Kites",
      "F♯ minor, 118.00 BPM, 4/4",
      "",
      "intro (A), bars 1 to 4, 4 bars",
      "| F♯m  | D/F♯ | A    | –    |",
      "",
      "verse, quiet (B), bars 5 to 8, 4 bars",
      "| E7  | F♯m | D   | A   |",
      "",
    ]);
  });

  it("has degrees at will", () => {
    expect(chordChart(plan, grid, { title: "x" }, { degrees: true })).toContain("| i   | VI  | III | –   |");
  });

  it("is a table of sections with quotes where they are needed", () => {
    const [head, first, second] = sectionsCsv(plan, times).split("\r\n");
    expect(head).toBe("name,letter,first bar,last bar,bars,start s,end s");
    expect(first).toBe("intro,A,1,4,4,0.500,8.636");
    expect(second).toBe('"verse, quiet",B,5,8,4,8.636,16.771');
  });

  it.each([
    ['=HYPERLINK("x")', '"\'=HYPERLINK(""x"")"'],
    ["+1", "'+1"],
    ["-2", "'-2"],
    ["@sum", "'@sum"],
    ["drop\r\nout", '"drop\r\nout"'],
  ])("keeps a spreadsheet from reading the name %j as a formula, or as two rows", (name, cell) => {
    const sections = [{ ...plan.sections[0]!, name }, plan.sections[1]!];
    expect(sectionsCsv({ ...plan, sections }, times)).toContain(`\r\n${cell},A,1,4,4,`);
  });
});

/** Which element stems are tied to: names as people give them, and what is heard where they say nothing. */
import { asColumns, type DrumHit } from "../drums/hits";
import type { DrumVoice } from "../drums/voices";
import { madeUpStudy } from "../testing/study";
import type { BassNote } from "../lowEnd";
import { proposedElements } from "./foundElements";
import type { ElementRecord } from "./records";
import { heardBass } from "./results";
import { elementOfStem } from "./stemElements";

const element = (name: string, lens: ElementRecord["lens"]): ElementRecord => ({
  id: name,
  name,
  lens,
  fromHz: 20,
  toHz: 20_000,
  state: "in work",
  note: "",
  weight: 1,
  target: null,
  hidden: false,
});
const usual = proposedElements.map(({ name, lens }) => element(name, lens));
const named = (fileName: string, elements = usual) => elementOfStem(fileName, null, elements)?.name ?? null;

test.each([
  ["Kick.wav", "Kick"],
  ["copper kites - BD.wav", "Kick"],
  ["Bass Drum 01.wav", "Kick"],
  ["04_bass.wav", "Bass"],
  ["sub bass.flac", "Bass"],
  ["SN top.wav", "Snare or clap"],
  ["claps.wav", "Snare or clap"],
  ["hh_closed.wav", "Hats"],
  // Overheads hold the whole kit.
  ["OH L.wav", null],
  ["drums and perc.wav", null],
  ["bass lead.wav", null],
  ["congas.wav", "Percussion"],
  ["lead vox.wav", "Lead or vocal"],
  ["Vocals.wav", "Lead or vocal"],
  ["riser fx.wav", "Effects"],
  ["chords bus.wav", "Chords"],
  // Several elements hold what is pitched; none says which.
  ["piano.wav", null],
  ["drums.wav", null],
  ["take 3.wav", null],
  ["kick and bass.wav", null],
])("%s is %s by its name", (fileName, expected) => {
  expect(named(fileName)).toBe(expected);
});

test("an element's own name goes before what its kind is usually called", () => {
  const elements = [element("Kick long", "kick"), element("Kick short", "kick"), element("Rhodes", "music")];
  expect(named("kick short.wav", elements)).toBe("Kick short");
  expect(named("rhodes_2.wav", elements)).toBe("Rhodes");
  // Either may be meant.
  expect(named("kick.wav", elements)).toBeNull();
});

describe("where the name says nothing", () => {
  const [analysis] = madeUpStudy().analyses.values();
  const silentPlan = { ...analysis!.plan, harmony: { ...analysis!.plan.harmony, chords: [] } };
  const heard = (voices: Partial<Record<DrumVoice, number>>, notes = 0, chords = false) => {
    const hits = Object.entries(voices).flatMap(([voice, count]) =>
      Array.from({ length: count }, (_, i): DrumHit => ({
        voice: voice as DrumVoice,
        time: i / 2,
        velocity: 0.8,
        confidence: 0.9,
        kind: 0,
      })),
    );
    const bass = Array.from({ length: notes }, (_, i): BassNote => ({
      start: i,
      end: i + 0.5,
      midi: 36,
      cents: 0,
      levelDb: -20,
      sure: 1,
    }));
    const own = {
      drums: asColumns(
        hits.sort((a, b) => a.time - b.time),
        [],
      ),
      bass,
      plan: chords ? analysis!.plan : silentPlan,
    };
    return elementOfStem("audio 7.wav", own, usual)?.name ?? null;
  };

  test("strokes of one drum tell", () => {
    expect(heard({ kick: 32 })).toBe("Kick");
    // Its strokes may be taken for bass notes as well.
    expect(heard({ kick: 32, hat: 2 }, 20)).toBe("Kick");
    expect(heard({ snare: 10, clap: 6 })).toBe("Snare or clap");
    expect(heard({ hat: 60, openHat: 4 })).toBe("Hats");
  });

  test("notes in the bass tell where no drum is struck", () => {
    expect(heard({}, 24)).toBe("Bass");
    expect(heard({ kick: 2 }, 24)).toBe("Bass");
  });

  test("several parts, or too little, tell nothing", () => {
    expect(heard({ kick: 16, snare: 16 })).toBeNull();
    expect(heard({ kick: 3 })).toBeNull();
    expect(heard({}, 24, true)).toBeNull();
    // Which of the pitched elements it is cannot be heard.
    expect(heard({}, 0, true)).toBeNull();
  });
});

describe("the bass line of a track", () => {
  const { study, analyses } = madeUpStudy();
  const reference = study.reference!;
  const note = (start: number): BassNote => ({
    start,
    end: start + 0.4,
    midi: 33,
    cents: 0,
    levelDb: -20,
    sure: 1,
  });
  const known = new Map([
    ...analyses,
    ["hash0", { ...analyses.get("hash0")!, bass: [note(1), note(2)] }],
    ["hash3", { ...analyses.get("hash3")!, bass: [note(0), note(1.5)] }],
  ]);
  const [stem] = reference.stems;
  const bass = element("Bass", "bass");
  const withStems = (...stems: typeof reference.stems) =>
    heardBass({ ...reference, stems }, [...study.elements, bass], known);
  const tied = { ...stem!, elementId: bass.id, offsetSeconds: 0.25 };

  it("is heard in its stem where it has one, from where that begins", () => {
    expect(withStems().source).toBeNull();
    expect(withStems(stem!)).toEqual({ notes: [note(1), note(2)], source: null });
    const alone = withStems(stem!, tied);
    expect(alone.source).toBe(stem!.fileName);
    expect(alone.notes.map(({ start, end }) => [start, end])).toEqual([
      [0.25, 0.65],
      [1.75, 2.15],
    ]);
  });

  it("is that of the mix where the stem has no place yet, or several are layers", () => {
    expect(withStems({ ...tied, offsetSeconds: null, measuredOffset: null }).source).toBeNull();
    expect(withStems(tied, { ...tied, id: "stem2" }).source).toBeNull();
  });
});

import { madeUpStudy } from "@/core/testing/study";
import { noCorrections, type CandidateRecord } from "@/core/study";
import {
  loopWords,
  reasonsOf,
  soundsInUse,
  suggestionWords,
  type CandidatesAnswer,
} from "@/models/candidates";
import { hitsModel } from "@/models/hits";
import { addressBar } from "../testing/navigation";
import { cleanup, fireEvent, openStudy, screen, within } from "../testing/studio";
import { HitsView } from "./HitsView";
import { answered, shownHit } from "./testing/hits";

afterEach(cleanup);

const candidate = (id: string, fileName: string): CandidateRecord => {
  const { reference } = madeUpStudy().study;
  return {
    id,
    fileName,
    file: { ...reference!.file, durationSeconds: 0.4 },
    job: reference!.job,
    chosenFor: null,
  };
};
/** As the drum of the reference, without its top. */
const near = shownHit("kick-1", 1, {
  fundamentalHz: 52,
  thirdOctaves: Array.from({ length: 29 }, (_, i) => (i > 23 ? -80 : -i / 2)),
});
const answer: CandidatesAnswer = {
  oneShots: [
    {
      id: "near",
      score: 72,
      likeness: 0.4,
      aspects: [
        { name: "pitch", score: 60, gap: 1.1 },
        { name: "length", score: 40, gap: 1 },
      ],
      suggestion: { semitones: -1, decay: 0.5, score: 94 },
      measures: near.measures,
      outline: near.outline,
    },
    {
      id: "far",
      score: 21,
      likeness: 0,
      aspects: [{ name: "tone", score: 5, gap: 12 }],
      suggestion: null,
      measures: near.measures,
      outline: near.outline,
    },
  ],
  loops: [],
  refused: [],
  waiting: [],
};

const layer = { id: "far", score: 88, offsetMs: 1.5, inverted: true, gainDb: -6 };
const answering = (value: unknown) => ({ ok: true, json: () => Promise.resolve(value) }) as Response;

async function open() {
  const study = madeUpStudy({
    change: (own) => ({
      ...own,
      candidates: [candidate("near", "lamp kick.wav"), candidate("far", "door.wav")],
    }),
  });
  const studio = openStudy(study, "hits", (results) => <HitsView model={hitsModel(results, null)} />);
  studio.answer = (_, path) => {
    if (path.includes("/layers?")) return answering({ layers: [layer] });
    if (path.endsWith("/candidates")) return answering(answer);
    return path.endsWith("/hits")
      ? answered([shownHit("kick-1", 120, { thirdOctaves: Array.from({ length: 29 }, (_, i) => -i / 2) })])
      : null;
  };
  await studio.saved();
  fireEvent.click(await screen.findByRole("button", { name: "candidates (2)" }));
  await studio.saved();
  await screen.findByRole("button", { name: "lamp kick.wav" });
  return studio;
}

describe("candidates", () => {
  it("are ranked with reasons; the one at hand is heard, brought nearer, and used", async () => {
    const studio = await open();
    expect(addressBar.now).toContain("look=candidates");
    const [, first, second] = screen.getAllByRole("row");
    expect(first!.textContent).toMatch(
      /lamp kick\.wav72rings 2\.0× as long, 1\.1 st higher−1\.0 st, decay ×0\.50: 94/,
    );
    expect(second!.textContent).toMatch(/door\.wav21tone 12\.0 dB off/);

    fireEvent.click(screen.getByRole("button", { name: "lamp kick.wav" }));
    const atHand = screen.getByRole("complementary", { name: "The sound at hand" });
    expect(within(atHand).getByTestId("candidate-closeness").textContent).toBe("72");
    const link = () => within(atHand).getByRole("link", { name: "Save as WAV" }).getAttribute("href");
    expect(link()).toMatch(/\/api\/items\/near\/sound\?track=\w+&hit=kick-1$/);
    fireEvent.click(within(atHand).getByRole("checkbox"));
    expect(within(atHand).getByTestId("candidate-closeness").textContent).toBe("94");
    expect(link()).toMatch(/&semitones=-1&decay=0\.5$/);

    fireEvent.keyDown(screen.getByRole("button", { name: "lamp kick.wav" }), { key: "ArrowDown" });
    expect(within(atHand).getByTestId("candidate-closeness").textContent).toBe("21");
    fireEvent.click(within(atHand).getByRole("button", { name: "Use it for the kick" }));
    await studio.saved();
    expect(studio.results().study.candidates.map(({ chosenFor }) => chosenFor)).toEqual([null, "kick-1"]);
    // Another takes its place.
    fireEvent.click(screen.getByRole("button", { name: "lamp kick.wav" }));
    fireEvent.click(within(atHand).getByRole("button", { name: "Use it for the kick" }));
    await studio.saved();
    expect(studio.results().study.candidates.map(({ chosenFor }) => chosenFor)).toEqual(["kick-1", null]);
    fireEvent.click(screen.getByRole("button", { name: "Remove all that are not in use" }));
    await studio.saved();
    expect(studio.results().study.candidates.map(({ id }) => id)).toEqual(["near"]);
  });
});

describe("layers", () => {
  it("fill what the sound at hand lacks, and are heard and saved with it", async () => {
    const studio = await open();
    fireEvent.click(screen.getByRole("button", { name: "lamp kick.wav" }));
    const atHand = screen.getByRole("complementary", { name: "The sound at hand" });
    within(atHand).getByText(/^top above 5\.7 kHz, \d+ dB\.$/);
    fireEvent.click(within(atHand).getByRole("button", { name: "Find a layer among the others" }));
    await studio.saved();
    fireEvent.click(await within(atHand).findByRole("button", { name: /^door\.wav 88/ }));
    within(atHand).getByText("1.50 ms later, inverted, −6 dB");
    expect(within(atHand).getByTestId("candidate-closeness").textContent).toBe("88");
    expect(within(atHand).getByRole("link", { name: "Save as WAV" }).getAttribute("href")).toMatch(
      /hit=kick-1&layer=far&offset=1\.5&inverted=yes&gain=-6$/,
    );
  });
});

describe("strokes", () => {
  it("are gone through by keys and left out by hand", async () => {
    const studio = await open();
    fireEvent.click(screen.getByRole("button", { name: "strokes" }));
    const [ours] = await screen.findAllByRole("slider", { name: /^Strokes of the kick/ });
    fireEvent.keyDown(ours!, { key: "ArrowRight" });
    fireEvent.keyDown(ours!, { key: "ArrowRight" });
    expect(ours!.getAttribute("aria-valuetext")).toMatch(/^bar \d+, beat [\d.]+, enters$/);
    fireEvent.keyDown(ours!, { key: "Delete" });
    await studio.saved();
    expect(studio.results().study.reference!.corrections.hits).toEqual({ leftOut: [2.5] });
    expect(noCorrections.hits).toEqual({});
  });
});

describe("words", () => {
  it("for what differs begin with what costs most", () => {
    expect(
      reasonsOf({
        score: 50,
        likeness: 0,
        aspects: [
          { name: "attack", score: 0, gap: 2 },
          { name: "pitch", score: 50, gap: -4 },
          { name: "tone", score: 90, gap: 2 },
        ],
      }),
    ).toBe("4.0 st lower, softer attack");
    expect(reasonsOf({ score: 99, likeness: 0.99, aspects: [] })).toMatch(/same recording/);
    expect(suggestionWords({ semitones: 2, decay: 1 })).toBe("+2.0 st");
  });

  it("for a loop say what brings it in time and in key", () => {
    const fit = { bars: 2, bpm: 125, isCut: true, stretch: 0.96, drums: null };
    const at = { first: 5, last: 6 };
    expect(
      loopWords({ ...fit, shift: { semitones: -3, otherWay: 9 }, chords: { score: 88, at } }).join("; "),
    ).toBe(
      "2 bars at 125.00 BPM; 4.0 % slower to be in time; −3 st to be in key; chords nearest in bars 5–6 (88 % the same)",
    );
  });

  it("for an element name the sounds in use of its drums", () => {
    const own = { fileName: "lamp kick.wav", chosenFor: "kick-1" };
    expect(soundsInUse([own, { fileName: "door.wav", chosenFor: null }], "Kick 90")).toEqual([
      { fileName: "lamp kick.wav", hit: "kick-1" },
    ]);
    expect(soundsInUse([own], "Bass")).toEqual([]);
  });
});

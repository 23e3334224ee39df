import { madeUpStudy } from "@/core/testing/study";
import { hitPairs, hitsModel, hitSentences, pitchWords } from "@/models/hits";
import { addressBar } from "../testing/navigation";
import { cleanup, fireEvent, openStudy, screen, within } from "../testing/studio";
import { HitsView } from "./HitsView";
import { answered, madeUpMeasures as measures, shownHit as hit } from "./testing/hits";

afterEach(cleanup);

const reference = [hit("kick-1", 120), hit("snare-1", 60, { fundamentalHz: 190 })];
const version = [hit("kick-1", 118, { fundamentalHz: 55, decay: { to20: 300, to40: null } })];
async function open(study = madeUpStudy()) {
  const studio = openStudy(study, "hits", (results) => <HitsView model={hitsModel(results, null)} />);
  const ids = { reference: studio.results().study.reference?.id };
  studio.answer = (_, path) =>
    path.endsWith("/hits") ? answered(path.includes(`/${ids.reference}/`) ? reference : version) : null;
  await studio.saved();
  return studio;
}

describe("the Hits view", () => {
  it("holds the typical kick of both sides against each other, in numbers and in words", async () => {
    await open();
    await screen.findByRole("img", {
      name: /^Kick, reference: 20 dB down after 150 ms; version: 20 dB down after 300 ms/,
    });
    expect(Number(screen.getByTestId("hit-closeness").textContent)).toBeLessThan(80);
    const row = screen.getByRole("row", { name: /^Fundamental/ });
    expect(row.textContent).toMatch(/49\.0 Hz, G1.*55\.0 Hz, A1.*\+2\.0 st/);
    screen.getByText("Your kick is 2.0 semitones higher: tune it down.");
    screen.getByText("It rings 2.0 times as long: shorten its decay.");
    const own = screen.getByRole("region", { name: "Reference" });
    within(own).getByText(/Made of 40 of 120 strokes, clean/);
    expect(within(own).getByRole("link", { name: "Save as WAV" }).getAttribute("href")).toMatch(
      /\/hits\/kick-1$/,
    );
  });

  it("shows a drum that only one side has, and keeps the choice in the address", async () => {
    await open();
    fireEvent.click(await screen.findByRole("button", { name: /^Snare/ }));
    expect(addressBar.now).toContain("hit=snare-1");
    await screen.findByText(/Nothing in your version plays its part/);
  });

  it("says what is missing before there is a reference", async () => {
    await open(madeUpStudy({ empty: true }));
    screen.getByText("Add a reference first.");
  });
});

describe("drums of both sides", () => {
  it("belong together in the order of how often they are struck; rare ones of one side are left out", () => {
    const pairs = hitPairs(
      [hit("kick-1", 20), hit("kick-2", 80), hit("hat-1", 100), hit("hat-2", 9)],
      [hit("kick-1", 90), hit("kick-2", 15), hit("hat-1", 100)],
    );
    expect(pairs.map(({ title, reference: a, version: b }) => [title, a?.name, b?.name])).toEqual([
      ["Kick 1", "kick-2", "kick-1"],
      ["Kick 2", "kick-1", "kick-2"],
      ["Closed hat", "hat-1", "hat-1"],
    ]);
  });
});

describe("words", () => {
  it("name note and cents, and nothing that is not heard", () => {
    expect(pitchWords(440)).toBe("440.0 Hz, A4");
    expect(pitchWords(50)).toMatch(/^50\.0 Hz, G1 \+3\d ct$/);
    expect(hitSentences("kick", measures(), measures({ fundamentalHz: 49.5, attackMs: 4 }))).toEqual([]);
    // A pitch that is read an octave apart may be the same.
    expect(hitSentences("kick", measures(), measures({ fundamentalHz: 98 }))).toEqual([]);
  });

  it("tell where it sits and how it ends", () => {
    expect(hitSentences("snare", measures(), measures({ position: 0.3, tail: "gated" }))).toEqual([
      "It sits further right than the reference's.",
      "Its tail is cut off, the reference's dies away.",
    ]);
  });
});

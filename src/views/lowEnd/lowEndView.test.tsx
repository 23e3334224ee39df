import { madeUpBpm, madeUpStudy } from "@/core/testing/study";
import { lowEndModel } from "@/models/lowEnd";
import { cleanup, fireEvent, openStudy, screen, waitFor } from "../testing/studio";
import { LowEndView } from "./LowEndView";

const rate = 600;
const beat = 60 / madeUpBpm;

/** A bass of 55 Hz, and a kick on every beat. */
function curve(name: string): Response {
  const samples = Float32Array.from({ length: 50 * rate }, (_, i) => {
    const t = i / rate;
    if (name === "lowSide") return 0;
    if (name === "lowRest") return 0.1 * Math.sin(2 * Math.PI * 55 * t);
    const since = (t - 0.5) % beat;
    return t < 0.5 ? 0 : 0.5 * Math.sin(2 * Math.PI * 50 * since) * Math.exp(-18 * since);
  });
  return {
    ok: true,
    headers: { get: () => String(rate) } as unknown as Headers,
    arrayBuffer: () => Promise.resolve(samples.buffer),
  } as Response;
}

afterEach(cleanup);

const open = (study = madeUpStudy(), address = "lowend") =>
  openStudy(study, address, (results) => <LowEndView model={lowEndModel(results, null)} />);

/** Opens the view and waits for its picture. */
async function drawn() {
  const studio = open();
  studio.answer = (_, path) => (path.includes("/api/curves/") ? curve(path.split("/").at(-1)!) : null);
  await studio.saved();
  await screen.findByRole("img", { name: /^Low end, reference above the line/ }, { timeout: 10_000 });
}

describe("the Low end view", () => {
  it("draws both sides, lays kicks over one another and gives every figure", async () => {
    await drawn();
    await waitFor(() => screen.getByRole("img", { name: /^Typical kick of both sides/ }));
    const row = screen.getByRole("row", { name: /^Kick length/ });
    // 20 dB by 18 nepers a second, and the window that it is seen through.
    const [length] = [...row.textContent!.matchAll(/0\.\d\d/g)].map(([own]) => Number(own));
    expect(length).toBeGreaterThan(0.2);
    expect(length).toBeLessThan(0.4);
    screen.getByText("Kick and bass share the low end as in the reference.");
  });

  it("shows fewer bars when they are asked for, and listens to the low end alone", async () => {
    await drawn();
    fireEvent.click(screen.getByRole("button", { name: "a bar" }));
    screen.getByText(/^bar \d+$/);
    const low = screen.getByRole("button", { name: "Hear only below 100 Hz" });
    fireEvent.click(low);
    expect(low.getAttribute("aria-pressed")).toBe("true");
  });

  it("shows both bass lines note by note; a note is put right by keys, and all can be undone", async () => {
    const study = madeUpStudy();
    const studio = open(study);
    fireEvent.click(screen.getByRole("button", { name: "bass line" }));
    expect(screen.getByTestId("bass-overlap").textContent).toBe("100");
    const versionId = study.study.versions.at(-1)!.id;
    const correction = () => studio.results().study.versions.at(-1)!.corrections.bass;
    const note = () => screen.getAllByRole("button", { name: /^Version 2: A1, bar 1, beat 2\.00/ })[0]!;
    fireEvent.click(note());
    const rows = screen.getByRole("group", { name: /^Bass notes of bars/ });
    fireEvent.keyDown(rows, { key: "ArrowUp" });
    fireEvent.keyDown(rows, { key: "ArrowUp" });
    screen.getByText(/^B1, bar 1, beat 2\.00, .*set by hand – the other side plays another note here$/);
    await studio.saved();
    expect(correction().added!.map(({ midi }) => midi)).toEqual([35]);
    expect(correction().removed).toHaveLength(1);
    expect(Number(screen.getByTestId("bass-overlap").textContent)).toBeLessThan(100);
    expect(studio.results().study.versions.at(-1)!.id).toBe(versionId);

    // What yours lacks is taken over with one press.
    fireEvent.keyDown(rows, { key: "Delete" });
    await studio.saved();
    expect(correction().added).toEqual([]);
    fireEvent.click(
      screen.getAllByRole("button", { name: /^Reference: A1, bar 1, beat 2\.00, .*missing$/ })[0]!,
    );
    fireEvent.click(screen.getByRole("button", { name: "Yours has it" }));
    await studio.saved();
    expect(correction().added!.map(({ midi }) => midi)).toEqual([33]);
    expect(screen.getByTestId("bass-overlap").textContent).toBe("100");
  });

  it("begins where kick and bass play, and says where no bass is heard", () => {
    const study = madeUpStudy();
    const { reference, versions } = study.study;
    for (const track of [reference!, versions.at(-1)!]) {
      const analysis = study.analyses.get(track.file.hash)!;
      analysis.bass = analysis.bass.filter(({ start }) => start > analysis.durationSeconds / 4);
    }
    open(study, "lowend?look=bass");
    screen.getByText("bars 9 to 12");
    cleanup();
    open(study, "lowend?look=bass&bars=1-4");
    screen.getByText(/^No bass notes were heard in bars 1 to 4/);
  });

  it("says what is missing before there is anything to compare", () => {
    open(madeUpStudy({ empty: true }));
    screen.getByText("Add a reference first.");
  });
});

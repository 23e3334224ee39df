/** Keys and clicks on hits, down to what then counts. */
import { asColumns } from "@/core/drums/hits";
import { countedDrums, placeHits, straight, type CountedHit, type DrumCorrection } from "@/core/drums";
import { drumsAsWritten, steadyGrid } from "@/core/testing/drums";
import type { Side } from "@/listening/Playback";
import type { ChosenHit } from "./HitPicture";
import { hitEditing } from "./hitEditing";
import type { DrumTrack } from "@/models/drums";

const grid = steadyGrid(120, 8);
const version = steadyGrid(100, 4, 1);
const heard = drumsAsWritten({ kick: ["X...X...X...X..."], snare: ["....X.......X..."] }, grid).hits;
const estimate = asColumns(heard, []);

/** A page with one track, as far as editing goes: what is chosen, and the corrections in order. */
function page() {
  const corrections: DrumCorrection[] = [];
  const said: string[] = [];
  const track = { id: "track" } as unknown as DrumTrack;
  let chosen: ChosenHit | null = null;
  const latest = () => corrections.at(-1) ?? {};
  const editing = () =>
    hitEditing({
      chosen,
      setChosen: (hit) => (chosen = hit),
      trackOf: (side: Side) => (side === "reference" || side === "version" ? track : null),
      hitsOf: () => countedDrums(estimate, latest(), grid).hits,
      grid,
      aligned: { reference: grid, version, spans: [{ referenceFirst: 3, versionFirst: 1, bars: 4 }] },
      set: (_track, change, label) => {
        corrections.push(change(latest()));
        said.push(label);
      },
    });
  const counted = () => countedDrums(estimate, latest(), grid).hits;
  return {
    corrections,
    said,
    counted,
    editing,
    choose(hit: CountedHit) {
      const [own] = placeHits([hit], grid, straight);
      chosen = { side: "reference", own: own! } as ChosenHit;
    },
    chosen: () => chosen,
  };
}
const snares = (hits: readonly CountedHit[]) => hits.filter(({ voice }) => voice === "snare");

describe("hits that sound like the chosen one", () => {
  it("are given another voice at once, and taken back as one", () => {
    const own = page();
    const kicks = own.counted().filter(({ voice }) => voice === "kick");
    own.choose(kicks[3]!);
    expect(own.editing().alike).toBe(kicks.length);
    own.editing().renameAlike("tom");
    const named = (voice: string) => own.counted().filter((hit) => hit.voice === voice);
    expect(named("kick")).toHaveLength(0);
    expect(named("tom").map(({ time, velocity }) => [time, velocity])).toEqual(
      kicks.map(({ time, velocity }) => [time, velocity]),
    );
    expect(own.said).toEqual([`${kicks.length} hits are now toms`]);
    expect(own.corrections).toHaveLength(1);
    expect(own.chosen()!.own.hit.voice).toBe("tom");
    expect(snares(own.counted())).toHaveLength(snares(heard as CountedHit[]).length);
  });

  it("stay as they are where the name is the same", () => {
    const own = page();
    own.choose(own.counted()[0]!);
    own.editing().renameAlike(own.counted()[0]!.voice);
    expect(own.corrections).toEqual([]);
  });
});

describe("a chosen hit", () => {
  it("is moved by a millisecond, or by five, as often as a key is struck", () => {
    const own = page();
    const first = snares(own.counted())[0]!;
    own.choose(first);
    for (let i = 0; i < 4; i++) own.editing().edit("later", false);
    own.editing().edit("earlier", true);
    own.editing().edit("later", true);
    const moved = snares(own.counted());
    expect(moved).toHaveLength(snares(heard as CountedHit[]).length);
    expect(moved[0]!.time - first.time).toBeCloseTo(0.004, 6);
    expect(own.said.every((label) => label === "Hit moved")).toBe(true);
  });

  it("is struck harder and softer, never beyond full", () => {
    const own = page();
    own.choose(snares(own.counted())[0]!);
    for (let i = 0; i < 9; i++) own.editing().edit("harder", true);
    expect(snares(own.counted())[0]!.velocity).toBe(1);
    own.editing().edit("softer", false);
    expect(snares(own.counted())[0]!.velocity).toBeCloseTo(0.96, 6);
    for (let i = 0; i < 9; i++) own.editing().edit("softer", true);
    expect(snares(own.counted())[0]!.velocity).toBeGreaterThan(0);
  });

  it("takes another voice, and stays chosen", () => {
    const own = page();
    const before = own.counted();
    own.choose(snares(before)[0]!);
    own.editing().edit("otherVoice", false);
    expect(own.chosen()!.own.hit.voice).toBe("clap");
    const after = own.counted();
    expect(after).toHaveLength(before.length);
    expect(snares(after)).toHaveLength(snares(before).length - 1);
  });

  it("is taken out, and then nothing is chosen and no key does anything", () => {
    const own = page();
    const before = own.counted();
    own.choose(snares(before)[2]!);
    own.editing().edit("away", false);
    expect(own.counted()).toHaveLength(before.length - 1);
    expect(own.chosen()).toBeNull();
    own.editing().edit("later", false);
    own.editing().removeChosen();
    expect(own.corrections).toHaveLength(1);
  });
});

describe("a new hit", () => {
  it("stands at its beat in the reference", () => {
    const own = page();
    own.editing().add("reference", "hat", 2.5);
    const [hat] = own.counted().filter(({ voice }) => voice === "hat");
    expect(hat!.time).toBeCloseTo(0.5 + 2.5 / 2, 6);
    expect(hat!.origin).toBe("by hand");
  });

  it("stands in the version where the bar is answered, in its own time", () => {
    const own = page();
    // Bar 4 beat 2 of the reference is bar 2 beat 2 of the version: five beats at 100 BPM.
    own.editing().add("version", "hat", 13);
    expect(own.corrections.at(-1)!.added![0]!.time).toBeCloseTo(1 + 5 * 0.6, 6);
  });

  it("cannot stand where nothing is recreated", () => {
    const own = page();
    own.editing().add("version", "hat", 1);
    expect(own.corrections).toEqual([]);
  });
});

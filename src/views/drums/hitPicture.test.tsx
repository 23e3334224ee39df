import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { placeHits, straight, type ComparedHit, type CountedHit } from "@/core/drums";
import { steadyGrid } from "@/core/testing/drums";
import { Notices } from "@/components/Notices";
import { HitPicture, type ChosenHit } from "./HitPicture";

afterEach(cleanup);
beforeEach(() => {
  Object.assign(globalThis, {
    ResizeObserver: class {
      constructor(private readonly tell: (entries: { contentRect: { width: number } }[]) => void) {}
      observe() {
        this.tell([{ contentRect: { width: 1000 } }]);
      }
      disconnect() {}
    },
  });
});

const grid = steadyGrid(120, 4, 0);
const hit = (voice: CountedHit["voice"], beat: number): CountedHit => ({
  voice,
  time: beat * 0.5,
  velocity: 0.6,
  confidence: 0.9,
  origin: "heard",
});
const placed = placeHits([hit("kick", 0), hit("snare", 1), hit("kick", 2)], grid, straight);
const compared = placed.map((reference): ComparedHit => ({
  kind: "missing",
  voice: reference.hit.voice,
  reference,
  version: null,
  timingDeviation: null,
  velocityDifference: null,
  otherVoice: null,
  masked: false,
  reliable: true,
  intended: false,
}));

describe("drum hits by the keyboard", () => {
  const open = (chosen: number | null, playhead = 0) => {
    const done: string[] = [];
    const own: ChosenHit | null =
      chosen === null ? null : { side: "reference", own: placed[chosen]!, compared: compared[chosen]! };
    render(
      <Notices>
        <HitPicture
          voices={["kick", "snare"]}
          hits={compared}
          view={{ firstBar: 1, bars: 1, beatsPerBar: 4, stepsPerBeat: 4 }}
          swing={straight}
          compares={false}
          answered={() => true}
          height={200}
          chosen={own}
          position={() => null}
          playhead={() => playhead}
          onChoose={(next) => done.push(next ? `${next.own.hit.voice} ${next.own.beat}` : "none")}
          onAdd={(side, voice, beat) => done.push(`add ${side} ${voice} ${beat}`)}
          onEdit={(key, coarse) => done.push(`${key}${coarse ? " coarse" : ""}`)}
        />
      </Notices>,
    );
    const picture = screen.getByRole("group", { name: /^Drum hits of bars 1/ });
    return { done, press: (key: string, more = {}) => fireEvent.keyDown(picture, { key, ...more }) };
  };

  it("goes to the first hit, and on along the line of the chosen voice", () => {
    const first = open(null);
    first.press("ArrowRight");
    expect(first.done).toEqual(["kick 0"]);
    cleanup();
    const next = open(0);
    next.press("ArrowRight");
    next.press("ArrowLeft");
    next.press("Escape");
    expect(next.done).toEqual(["kick 2", "none"]);
  });

  it("says aloud which hit is chosen", () => {
    open(1);
    const spoken = screen.getAllByRole("status").map(({ textContent }) => textContent);
    expect(spoken).toContain("Reference: Snare, bar 1 beat 2, 0 ms, velocity 76");
  });

  it("changes the chosen hit, and leaves keys of the program alone", () => {
    const { done, press } = open(0);
    press("ArrowRight", { altKey: true });
    press("ArrowLeft", { altKey: true, shiftKey: true });
    press("ArrowUp");
    press("ArrowDown", { shiftKey: true });
    press("Delete");
    press("z", { ctrlKey: true });
    press("ArrowUp", { ctrlKey: true });
    expect(done).toEqual(["later", "earlier coarse", "harder", "softer coarse", "away"]);
  });

  it("adds a hit at the step nearest to the playhead, and says where it cannot", () => {
    const inside = open(1, 2.3);
    inside.press("a");
    expect(inside.done).toEqual(["add reference snare 2.25"]);
    cleanup();
    const outside = open(1, 9);
    outside.press("a");
    expect(outside.done).toEqual([]);
    expect(screen.getByText(/Move the playhead into the bars shown/)).toBeTruthy();
  });
});

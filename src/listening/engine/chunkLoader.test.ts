/** Samples on demand: how many requests, what is tried again and when, what is let go. */
import { packFrames } from "@/core/formats/chunks";
import { ChunkLoader, type WantedChunk } from "./chunkLoader";

const samples = Float32Array.of(0.5, -0.25);
const bytes = packFrames([samples, samples], 0, 2);

/** A loader whose fetches and clock are in the test's hands. */
function world() {
  let time = 0;
  const timers: { at: number; act: () => void }[] = [];
  const fetches: {
    wanted: WantedChunk;
    resolve: (b: Uint8Array) => void;
    reject: () => void;
  }[] = [];
  const log: string[] = [];
  const loader = new ChunkLoader({
    fetch: (wanted) =>
      new Promise((resolve, reject) => fetches.push({ wanted, resolve, reject: () => reject(new Error()) })),
    loaded: ({ chunk }, [left]) => log.push(`loaded ${chunk} ${left[0]?.toFixed(2)}`),
    dropped: ({ chunk }) => log.push(`dropped ${chunk}`),
    failing: (is) => log.push(is ? "failing" : "well"),
    now: () => time,
    later: (ms, act) => timers.push({ at: time + ms, act }),
  });
  const settle = () => new Promise((resolve) => setImmediate(resolve));
  return {
    loader,
    fetches,
    log,
    async answer(good = true) {
      const fetch = fetches.shift()!;
      if (good) fetch.resolve(bytes);
      else fetch.reject();
      await settle();
    },
    async pass(ms: number) {
      time += ms;
      for (const timer of timers.splice(0)) {
        if (timer.at <= time) timer.act();
        else timers.push(timer);
      }
      await settle();
    },
  };
}
const chunks = (from: number, to: number, part = "whole"): WantedChunk[] =>
  Array.from({ length: to - from }, (_, i) => ({ hash: "h", part, chunk: from + i }));

describe("loading of chunks", () => {
  it("asks for three at a time, the most urgent first, each once", async () => {
    const { loader, fetches, answer, log } = world();
    loader.want(chunks(4, 10));
    loader.want(chunks(4, 10));
    expect(fetches.map(({ wanted }) => wanted.chunk)).toEqual([4, 5, 6]);
    await answer();
    expect(log).toEqual(["loaded 4 0.50"]);
    expect(fetches.map(({ wanted }) => wanted.chunk)).toEqual([5, 6, 7]);
  });

  it("tries again what failed, less and less often, and never more than it should", async () => {
    const { loader, fetches, answer, pass, log } = world();
    loader.want(chunks(0, 1));
    await answer(false);
    expect(log).toEqual(["failing"]);
    // As the audio thread reports, thirty times a second.
    for (let i = 0; i < 10; i++) loader.want(chunks(0, 1));
    expect(fetches).toHaveLength(0);
    let requests = 0;
    for (let i = 0; i < 600; i++) {
      await pass(33);
      loader.want(chunks(0, 1));
      if (fetches.length > 0) {
        requests++;
        await answer(false);
      }
    }
    // Twenty seconds: after 0.5, 1, 2, 4 and 8 s.
    expect(requests).toBeLessThanOrEqual(5);
    expect(requests).toBeGreaterThanOrEqual(3);
  });

  it("says that all is well once the sound is there", async () => {
    const { loader, answer, pass, log } = world();
    loader.want(chunks(0, 2));
    await answer(false);
    await answer();
    expect(log).toEqual(["failing", "loaded 1 0.50"]);
    await pass(600);
    await answer();
    expect(log.slice(2)).toEqual(["well", "loaded 0 0.50"]);
  });

  it("forgets a part that is no longer wanted, also what is on its way, and keeps the others", async () => {
    const { loader, fetches, answer, log } = world();
    loader.want([...chunks(0, 1), ...chunks(0, 1, "bass")]);
    loader.forget("h", "whole");
    loader.want([...chunks(0, 1, "percussive"), ...chunks(0, 1, "bass")]);
    expect(fetches.map(({ wanted }) => wanted.part)).toEqual(["whole", "bass", "percussive"]);
    await answer();
    expect(log).toEqual([]);
    await answer();
    await answer();
    expect(log).toEqual(["loaded 0 0.50", "loaded 0 0.50"]);
  });

  it("takes what was forgotten and asked for again from the second answer alone", async () => {
    const { loader, answer, log } = world();
    loader.want(chunks(0, 1));
    loader.forget("h");
    loader.want(chunks(0, 1));
    await answer();
    expect(log).toEqual([]);
    await answer();
    expect(log).toEqual(["loaded 0 0.50"]);
  });

  it("does not miss what failed and is no longer needed", async () => {
    const { loader, answer, log } = world();
    loader.want(chunks(0, 1));
    await answer(false);
    // Play went on elsewhere.
    loader.want(chunks(8, 9));
    expect(log).toEqual(["failing", "well"]);
    await answer();
    expect(log.at(-1)).toBe("loaded 8 0.50");
  });

  it("does not miss what failed of another part", async () => {
    const { loader, answer, log } = world();
    loader.want(chunks(0, 1));
    await answer(false);
    loader.forget("h", "whole");
    expect(log).toEqual(["failing", "well"]);
  });

  it("keeps about a minute, and lets go of what is farthest away", async () => {
    const { loader, answer, fetches, log } = world();
    for (let at = 0; at < 70; at++) {
      loader.want(chunks(at, at + 3));
      while (fetches.length > 0) await answer();
    }
    const dropped = log.filter((own) => own.startsWith("dropped"));
    expect(dropped.length).toBeGreaterThanOrEqual(10);
    expect(dropped.slice(0, 3)).toEqual(["dropped 0", "dropped 1", "dropped 2"]);
  });

  it("does nothing once it is closed", async () => {
    const { loader, answer, log, fetches } = world();
    loader.want(chunks(0, 1));
    loader.close();
    await answer();
    loader.want(chunks(1, 2));
    expect([log, fetches]).toEqual([[], []]);
  });
});

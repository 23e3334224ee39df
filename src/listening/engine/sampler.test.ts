import { Sampler } from "./sampler";
import { FakeContext, type Made } from "./testing/fakeAudio";

const passed = (milliseconds: number) => new Promise((resolve) => setTimeout(resolve, milliseconds));

describe("the practice kit", () => {
  it("is scheduled ahead in the music's own time, and goes round with the loop", async () => {
    const context = new FakeContext();
    let place = {
      playing: true,
      beat: 3.9,
      beatSeconds: 0.5,
      loop: { from: 0, to: 4 } as { from: number; to: number } | null,
      gain: 1,
    };
    const sampler = new Sampler(context as unknown as AudioContext, () => place);
    const started = () =>
      context.nodes.filter(({ kind }) => kind === "source").map(({ startedAt }) => startedAt);
    sampler.play({
      strikes: [
        { beat: 0, voice: "kick", velocity: 1 },
        { beat: 4, voice: "kick", velocity: 1 },
      ],
      alone: false,
    });
    await passed(60);
    // Beat 4 belongs to the next round.
    expect(started()).toEqual([]);
    place = { ...place, beat: 0.01 };
    context.currentTime = 2;
    await passed(60);
    place = { ...place, beat: 3.8, loop: null };
    await passed(60);
    expect(started()).toEqual([expect.closeTo(2 + 0.2 * 0.5, 6)]);
    sampler.play(null);
  });

  it("gives way to a sound that is fetched, which begins ahead of its stroke at the level asked for", async () => {
    const context = new FakeContext();
    const sound = { length: 400 };
    Object.assign(context, { decodeAudioData: () => Promise.resolve(sound) });
    const asked: string[] = [];
    globalThis.fetch = ((address: string) => {
      asked.push(address);
      return Promise.resolve({ ok: true, arrayBuffer: () => Promise.resolve(new ArrayBuffer(8)) });
    }) as unknown as typeof fetch;
    const place = { playing: true, beat: 0, beatSeconds: 0.5, loop: null, gain: 0.5 };
    const sampler = new Sampler(context as unknown as AudioContext, () => place);
    sampler.play({
      strikes: [{ beat: 0.2, voice: "kick", velocity: 0.4 }],
      alone: true,
      sound: { address: "/sound", ahead: 0.01, velocity: 0.8 },
    });
    await passed(90);
    sampler.play(null);
    expect(asked).toEqual(["/sound"]);
    const [source] = context.nodes.filter(({ kind }) => kind === "source") as (Made & { buffer: unknown })[];
    expect(source!.buffer).toBe(sound);
    expect(source!.startedAt).toBeCloseTo(0.1 - 0.01, 6);
    // Half the velocity is a quarter of the amplitude, behind the gain of the reference.
    expect(source!.to[0]!.gain.value).toBeCloseTo(0.5 * 0.25, 9);
  });

  it("strikes once at once", () => {
    const context = new FakeContext();
    context.currentTime = 5;
    new Sampler(context as unknown as AudioContext, () => ({
      playing: false,
      beat: 0,
      beatSeconds: 1,
      loop: null,
      gain: 1,
    })).strike("snare", 0.5);
    const [source] = context.nodes.filter(({ kind }) => kind === "source");
    expect(source!.startedAt).toBeGreaterThanOrEqual(5);
    expect(source!.to[0]!.gain.value).toBeCloseTo(0.7 * 0.25, 9);
  });
});

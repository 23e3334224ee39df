/** The transport over a stand-in for the browser's audio: orders, latency, seeks, and the filters' graph. */
import { jest } from "@jest/globals";
import { act } from "@testing-library/react";
import { insertsFor, type Inserts } from "./inserts";
import { chainFor, monitorFilters } from "./monitorFilter";
import type { Report } from "./messages";
import { plainPlayerSettings, Player, type PlayerTrack } from "./player";
import { FakeContext, FakeMixer, type Made } from "./testing/fakeAudio";
import { plainTimeline } from "./timeline";

beforeEach(() => {
  FakeContext.made = [];
  Object.assign(globalThis, {
    AudioContext: FakeContext,
    AudioWorkletNode: FakeMixer,
    fetch: () => new Promise(() => {}),
  });
});

const track = (hash: string, sampleRate = 44100): PlayerTrack => ({
  hash,
  sampleRate,
  frames: 60 * sampleRate,
  timeline: plainTimeline(60),
});
const settle = () => act(() => new Promise((resolve) => setTimeout(resolve, 5)));

async function open(
  tracks: Partial<Record<"reference" | "version", PlayerTrack>> = { reference: track("a") },
) {
  const reports: Report[] = [];
  const troubles: (string | null)[] = [];
  const player = new Player(
    (report) => reports.push(report),
    (trouble) => troubles.push(trouble),
  );
  player.setTracks({ reference: tracks.reference ?? null, version: tracks.version ?? null });
  await settle();
  return { player, reports, troubles, mixer: FakeMixer.last, context: FakeContext.made[0]! };
}

/** Addresses that samples are asked for from; none of them answers. */
function askedAddresses(): string[] {
  const asked: string[] = [];
  globalThis.fetch = ((path: string) => {
    asked.push(path);
    return new Promise(() => {});
  }) as typeof fetch;
  return asked;
}

describe("the player", () => {
  it("plays at the rate of the file, and tells the audio thread what was asked for before it was there", async () => {
    const player = new Player(
      () => {},
      () => {},
    );
    player.change({ click: 0.4 });
    player.setTracks({ reference: track("a", 48000), version: null });
    player.seek(8);
    await settle();
    expect(FakeContext.made.map(({ sampleRate, modules }) => [sampleRate, modules])).toEqual([
      [48000, ["/listening/mixer.js"]],
    ]);
    expect(FakeMixer.last.orders.map(({ kind }) => kind)).toEqual(["settings", "deck", "seek"]);
    await player.play();
    expect(FakeMixer.last.orders.at(-1)).toEqual({ kind: "play" });
    expect(FakeContext.made).toHaveLength(1);
  });

  it("leaves a rate that browsers may not have to the browser", async () => {
    const { context } = await open({ reference: track("a", 192000) });
    expect(context.sampleRate).toBe(48000);
  });

  it("goes on from the last report, as long as the music plays", async () => {
    const { player, mixer, context } = await open();
    mixer.report({ beat: 10, time: 1 });
    context.currentTime = 1.1;
    expect(player.beat()).toBeCloseTo(10.1, 9);
    // Without news the playhead does not run away.
    context.currentTime = 9;
    expect(player.beat()).toBeCloseTo(10.2, 9);
    mixer.report({ beat: 12, time: 9, waiting: true });
    expect(player.beat()).toBe(12);
    mixer.report({ beat: 12, time: 9, playing: false });
    expect(player.beat()).toBe(12);
  });

  it("suspends its audio context after a while without sound, and resumes it to play", async () => {
    const { player, mixer, context } = await open();
    jest.useFakeTimers();
    try {
      await player.play();
      mixer.report({ playing: true });
      jest.advanceTimersByTime(60_000);
      expect(context.isAsleep).toBe(false);
      mixer.report({ playing: false });
      jest.advanceTimersByTime(5_000);
      expect(context.isAsleep).toBe(false);
      jest.advanceTimersByTime(10_000);
      expect(context.isAsleep).toBe(true);
      await player.play();
      mixer.report({ playing: true });
      jest.advanceTimersByTime(60_000);
      expect(context.isAsleep).toBe(false);
    } finally {
      jest.useRealTimers();
    }
  });

  it("does not move back for what was said before a seek arrived", async () => {
    const { player, mixer } = await open();
    mixer.report({ beat: 30, playing: false });
    player.seek(4);
    expect(player.beat()).toBe(4);
    mixer.report({ beat: 30.1, playing: false, seeks: 0 });
    expect(player.beat()).toBe(4);
    mixer.report({ beat: 4.2, playing: false, seeks: 1 });
    expect(player.beat()).toBe(4.2);
    expect(mixer.orders.filter(({ kind }) => kind === "seek")).toEqual([
      { kind: "seek", beat: 4, number: 1 },
    ]);
  });

  it("keeps the samples of a file whose timeline changed, and drops those of another file", async () => {
    const { player, mixer } = await open();
    const decks = () =>
      mixer.orders.flatMap((order) =>
        order.kind === "deck" ? [[order.side, order.setup !== null, order.keepPieces]] : [],
      );
    player.setTracks({ reference: { ...track("a"), timeline: plainTimeline(30) }, version: track("b") });
    player.setTracks({ reference: { ...track("a"), timeline: plainTimeline(30) }, version: null });
    expect(decks()).toEqual([
      ["reference", true, false],
      ["reference", true, true],
      ["version", true, false],
      ["reference", true, true],
      ["version", false, false],
    ]);
  });

  it("asks for other samples where a part of the sound is listened to", async () => {
    const asked = askedAddresses();
    const { player, mixer } = await open();
    void player.play();
    expect(asked[0]).toBe("/api/audio/a/0?part=whole");
    player.change({ monitorFilter: "percussive" });
    expect(mixer.orders.slice(-2)).toEqual([
      { kind: "clear", side: "reference" },
      { kind: "clear", side: "version" },
    ]);
    mixer.report({ beat: 0 });
    expect(asked.at(-1)).toMatch(/^\/api\/audio\/a\/\d+\?part=percussive$/);
  });

  it("asks for the parts that are left where some are muted, of that side alone", async () => {
    const asked = askedAddresses();
    const { player, mixer } = await open();
    void player.play();
    asked.length = 0;
    player.change({ muted: { reference: ["kick", "bass"], version: [] } });
    expect(mixer.orders.at(-1)).toEqual({ kind: "clear", side: "reference" });
    mixer.report({ beat: 0 });
    expect(asked.length).toBeGreaterThan(0);
    for (const own of asked) expect(own).toMatch(/^\/api\/audio\/a\/\d+\?part=snare,hats,percussion,music$/);
    const clears = mixer.orders.filter(({ kind }) => kind === "clear").length;
    player.change({ muted: { reference: ["bass", "kick"], version: [] } });
    expect(mixer.orders.filter(({ kind }) => kind === "clear")).toHaveLength(clears);
  });

  it("leaves the way free for what a press asks for, unless it is heard", async () => {
    const asked = askedAddresses();
    // However slow the machine is.
    jest.useFakeTimers();
    const opened = async () => {
      const opening = open();
      await jest.advanceTimersByTimeAsync(5);
      return opening;
    };
    try {
      const { player } = await opened();
      player.seek(16);
      expect(asked).toEqual([]);
      await jest.advanceTimersByTimeAsync(300);
      expect(asked.length).toBeGreaterThan(0);
      const before = asked.length;
      player.close();
      const other = await opened();
      expect(asked).toHaveLength(before);
      void other.player.play();
      expect(asked.length).toBeGreaterThan(before);
    } finally {
      jest.useRealTimers();
    }
  });

  it("says that this browser cannot play, and tries again when asked", async () => {
    Object.assign(globalThis, {
      AudioContext: class {
        constructor() {
          throw new Error("no audio");
        }
      },
    });
    const { player, troubles } = await open();
    expect(troubles).toEqual(["This browser can't play here: its audio did not start."]);
    Object.assign(globalThis, { AudioContext: FakeContext });
    await player.play();
    expect(FakeMixer.last.orders.at(-1)).toEqual({ kind: "play" });
  });

  it("ends with its context, also where it was closed while it began", async () => {
    const { player, context } = await open();
    player.close();
    expect(context.closed).toBe(true);
    const early = new Player(
      () => {},
      () => {},
    );
    early.setTracks({ reference: track("a"), version: null });
    early.close();
    await settle();
    expect(FakeContext.made[1]!.closed).toBe(true);
  });

  it("takes the music away while the kit plays alone, and in a blind test between two sides", async () => {
    const { player, context } = await open();
    const music = () => context.nodes.find(({ to }) => to.includes(context.destination))!.gain.value;
    player.accompany({ strikes: [], alone: true });
    expect(music()).toBe(0);
    player.accompany({ strikes: [], alone: false });
    expect(music()).toBe(1);
    player.changeBehindDip({ activeSide: "version" });
    expect(music()).toBe(0);
    await act(() => new Promise((resolve) => setTimeout(resolve, 420)));
    expect(music()).toBe(1);
    player.close();
  });
});

describe("ways of listening", () => {
  const context = () => new FakeContext() as unknown as BaseAudioContext;
  const filtersOf = (name: (typeof monitorFilters)[number]["name"]) => {
    const found: [string, number][] = [];
    const walk = (node: Made) => {
      if (node.kind === "filter") found.push([node.type, node.frequency.value]);
      node.to.forEach(walk);
    };
    walk(chainFor(context(), name).input as unknown as Made);
    return found;
  };

  it.each<[(typeof monitorFilters)[number]["name"], [string, number][]]>([
    ["everything", []],
    [
      "low",
      [
        ["lowpass", 100],
        ["lowpass", 100],
      ],
    ],
    [
      "lowMid",
      [
        ["highpass", 100],
        ["lowpass", 600],
        ["highpass", 100],
        ["lowpass", 600],
      ],
    ],
    [
      "high",
      [
        ["highpass", 4000],
        ["highpass", 4000],
      ],
    ],
    ["percussive", []],
  ])("%s is a row of filters, each 24 dB an octave", (name, expected) => {
    expect(filtersOf(name)).toEqual(expected);
  });

  it("bands begin where the one before ends", () => {
    const edges = ["low", "lowMid", "mid", "high"] as const;
    const of = (name: (typeof edges)[number], type: string) =>
      filtersOf(name).find(([own]) => own === type)?.[1];
    edges.slice(1).forEach((name, i) => expect(of(name, "highpass")).toBe(of(edges[i]!, "lowpass")));
  });

  it("two sections together are 3 dB down at the corner: a fourth-order Butterworth", () => {
    const chain = chainFor(context(), "low");
    const first = chain.input as unknown as Made;
    const second = first.to[0]!;
    // At the corner a second-order section has the gain of its quality factor.
    expect(first.Q.value + second.Q.value).toBeCloseTo(-3.01, 2);
  });
});

describe("what stands behind the monitor", () => {
  const equaliser = {
    gainDb: -1.5,
    moves: [
      { type: "lowCut", hz: 40, gainDb: 0, q: Math.SQRT1_2 },
      { type: "peak", hz: 310, gainDb: -2.9, q: 0.9 },
      { type: "highShelf", hz: 9000, gainDb: 2, q: Math.SQRT1_2 },
    ],
  } as const;
  const filtersOf = (side: "reference" | "version", inserts: Inserts) => {
    const { input } = insertsFor(new FakeContext() as unknown as BaseAudioContext, side, inserts);
    const found: Made[] = [];
    for (let node = input as unknown as Made; node; node = node.to[0]!)
      if (node.kind === "filter") found.push(node);
    return { gain: (input as unknown as Made).gain.value, filters: found };
  };

  it("is the equaliser on the version alone, with the gain that keeps it as loud", () => {
    const { gain, filters } = filtersOf("version", { equaliser, narrowHz: null });
    expect(filters.map(({ type, frequency }) => [type, frequency.value])).toEqual([
      ["highpass", 40],
      ["peaking", 310],
      ["highshelf", 9000],
    ]);
    // The browser takes the Q of cuts in decibels: 0.707 is −3.01.
    expect(filters[0]!.Q.value).toBeCloseTo(-3.01, 2);
    expect(filters[1]!).toMatchObject({ Q: { value: 0.9 }, gain: { value: -2.9 } });
    expect(gain).toBeCloseTo(10 ** (-1.5 / 20), 9);
    expect(filtersOf("reference", { equaliser, narrowHz: null })).toEqual({ gain: 1, filters: [] });
  });

  it("is a narrow band on both sides where one frequency is listened to", () => {
    for (const side of ["reference", "version"] as const) {
      const { filters } = filtersOf(side, { equaliser: null, narrowHz: 3140 });
      expect(filters.map(({ type, frequency }) => [type, frequency.value])).toEqual([
        ["bandpass", 3140],
        ["bandpass", 3140],
      ]);
    }
  });
});

it("starts from plain settings", () => {
  expect(plainPlayerSettings).toMatchObject({ speed: 1, semitones: 0, monitorFilter: "everything" });
});

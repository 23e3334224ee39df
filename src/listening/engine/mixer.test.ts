/** What comes out of the mixer, sample by sample: where each side is, that nothing clicks, that loops close. */
import { framesPerChunk } from "@/core/formats/chunks";
import type { Grid } from "@/core/grid/grid";
import { fadeSeconds, Mixer } from "./mixer";
import { chunksAround } from "./chunksAround";
import type { DeckSetup, MixerSettings } from "./settings";
import { beatIn, referenceTimeline, secondsIn, segmentAt, versionTimeline, type Side } from "./timeline";

const rate = 44100;
const block = 128;
const { abs, floor, max, PI, round, sin } = Math;

const steadyGrid = (bpm: number, start: number, bars: number): Grid => ({
  beats: Array.from({ length: 4 * bars + 1 }, (_, k) => start + (k * 60) / bpm),
  barOne: 0,
  beatsPerBar: 4,
  steady: true,
  bpm,
});

/** 120 BPM from 0.5 s on, and at 100 BPM from 1.2 s on a version that answers bars 3 to 6. */
const reference = steadyGrid(120, 0.5, 8);
const version = steadyGrid(100, 1.2, 4);
const aligned = { reference, version, spans: [{ referenceFirst: 3, versionFirst: 1, bars: 4 }] };
const seconds = { reference: 18, version: 12 };
const setups: Record<Side, DeckSetup> = {
  reference: {
    sampleRate: rate,
    frames: seconds.reference * rate,
    timeline: referenceTimeline(reference, seconds.reference),
  },
  version: {
    sampleRate: rate,
    frames: seconds.version * rate,
    timeline: versionTimeline(aligned, seconds.version),
  },
};

type Signal = (seconds: number) => number;
/** The sample itself says where in the file it lies. */
const place: Signal = (time) => time / 100;
const tone: Signal = (time) => 0.4 * sin(2 * PI * 220 * time);

function mixerWith(reference: Signal, version: Signal, settings: Partial<MixerSettings> = {}, own = rate) {
  const mixer = new Mixer(rate);
  (["reference", "version"] as const).forEach((side) => {
    const setup = { ...setups[side], sampleRate: own, frames: seconds[side] * own };
    mixer.setDeck(side, setup, false);
    const signal = side === "reference" ? reference : version;
    for (let piece = 0; piece * framesPerChunk < setup.frames; piece++) {
      const samples = Float32Array.from(
        { length: Math.min(framesPerChunk, setup.frames - piece * framesPerChunk) },
        (_, i) => signal((piece * framesPerChunk + i) / own),
      );
      mixer.addPiece(side, piece, [samples, samples]);
    }
  });
  mixer.change(settings);
  return mixer;
}

/** Renders some seconds; both sides and the click. */
function render(mixer: Mixer, length: number) {
  const blocks = Math.ceil((length * rate) / block);
  const out = {
    reference: new Float32Array(blocks * block),
    version: new Float32Array(blocks * block),
    click: new Float32Array(blocks * block),
  };
  for (let b = 0; b < blocks; b++) {
    const cut = (samples: Float32Array) => samples.subarray(b * block, (b + 1) * block);
    const spare = [new Float32Array(block), new Float32Array(block)] as const;
    mixer.process([cut(out.reference), spare[0]], [cut(out.version), spare[1]], cut(out.click));
  }
  return out;
}

const sum = (out: ReturnType<typeof render>) => out.reference.map((x, i) => x + out.version[i]!);
const fade = round(fadeSeconds * rate) + block;

/** The beat that a sample of the version says it is at. */
const beatOfVersion = (value: number) => {
  const time = value * 100;
  return beatIn(setups.version.timeline[0]!, time);
};

describe("trading bars", () => {
  /** Which side is heard through the middle of each bar of the reference from `first` on. */
  const heardIn = (mixer: Mixer, bars: number) => {
    const out = render(mixer, 2 * bars);
    return Array.from({ length: bars }, (_, bar) => {
      const middle = round((2 * bar + 1) * rate);
      const level = (samples: Float32Array) =>
        samples.subarray(middle, middle + 400).reduce((most, x) => max(most, abs(x)), 0);
      return level(out.reference) > 0.1 ? "r" : level(out.version) > 0.1 ? "v" : "-";
    }).join("");
  };
  // Bars 3 to 6 have an answer; together, so that a bar is two seconds on both sides.
  const trading = (settings: Partial<MixerSettings>) =>
    mixerWith(tone, tone, { together: true, ...settings });

  it("gives both in turn, a bar or two each", () => {
    for (const [trade, turns] of [
      [1, "rvrv"],
      [2, "rrvv"],
    ] as const) {
      const mixer = trading({ trade, loop: { from: 8, to: 24 } });
      mixer.seek(8);
      mixer.play();
      expect(heardIn(mixer, 4)).toBe(turns);
    }
  });

  it("goes on with one side where the other has nothing there", () => {
    const mixer = trading({ trade: 1 });
    mixer.seek(0);
    mixer.play();
    // Bars 1 and 2 are not recreated.
    expect(heardIn(mixer, 6)).toBe("rrrvrv");
  });

  it("begins a turn before its first stroke, and says which side is heard", () => {
    const mixer = trading({ trade: 1, loop: { from: 8, to: 24 } });
    mixer.seek(8);
    mixer.play();
    const out = render(mixer, 2.2);
    // All of the version is there at its downbeat, two seconds on.
    const at = 2 * rate;
    for (let i = at; i < at + 2000; i += 37) expect(abs(out.reference[i]!)).toBeLessThan(1e-6);
    expect(mixer.report().activeSide).toBe("version");
  });

  it("begins a loop again with the reference, without a stray turn at its end", () => {
    const mixer = trading({ trade: 4, loop: { from: 8, to: 24 } });
    mixer.seek(8);
    mixer.play();
    const out = render(mixer, 8.5);
    expect(out.version.every((x) => x === 0)).toBe(true);
  });

  it("ends where it is taken back, on the side that is heard", () => {
    const mixer = trading({ trade: 1, loop: { from: 8, to: 24 } });
    mixer.seek(8);
    mixer.play();
    render(mixer, 2.5);
    mixer.change({ trade: null });
    render(mixer, 3);
    expect(mixer.report().activeSide).toBe("version");
  });
});

describe("play", () => {
  it("gives the file's own samples, to the bit, after the first fade", () => {
    const mixer = mixerWith(tone, tone);
    mixer.seek(0);
    mixer.play();
    const { reference: out, version } = render(mixer, 1);
    for (let i = fade; i < out.length; i += 37) expect(out[i]).toBeCloseTo(tone(0.5 + i / rate), 6);
    expect(version.every((x) => x === 0)).toBe(true);
  });

  it("of a file at another rate interpolates without audible error", () => {
    const mixer = mixerWith(tone, tone, {}, 48000);
    mixer.seek(0);
    mixer.play();
    const out = render(mixer, 0.5).reference;
    for (let i = fade; i < out.length; i += 37) expect(out[i]).toBeCloseTo(tone(0.5 + i / rate), 3);
  });

  it("waits in silence for samples that have not arrived, without moving on", () => {
    const mixer = new Mixer(rate);
    mixer.setDeck("reference", setups.reference, false);
    mixer.play();
    expect(render(mixer, 0.2).reference.every((x) => x === 0)).toBe(true);
    expect(mixer.report()).toMatchObject({ playing: true, waiting: true, beat: 0 });
  });

  it("ends where the file does", () => {
    const mixer = mixerWith(tone, tone);
    mixer.seek(34);
    mixer.play();
    render(mixer, 2);
    expect(mixer.report().playing).toBe(false);
  });
});

describe("a flip", () => {
  it.each([9, 12.3, 20])("at beat %f lands on the other side at the same beat", (beat) => {
    const mixer = mixerWith(() => 0, place);
    mixer.seek(beat);
    mixer.play();
    render(mixer, 0.2);
    const before = mixer.report().beat;
    mixer.change({ activeSide: "version" });
    const out = render(mixer, 0.1).version;
    const at = fade;
    const expected = before + (at / rate) * (100 / 60);
    // Five milliseconds are 0.008 beats here; the mixer is exact to a sample.
    expect(beatOfVersion(out[at]!)).toBeCloseTo(expected, 3);
  });

  it("and back never steps further than the material does", () => {
    const mixer = mixerWith(tone, (time) => 0.4 * sin(2 * PI * 220 * time + 2));
    mixer.seek(9);
    mixer.play();
    const parts = [sum(render(mixer, 0.1))];
    for (let i = 0; i < 6; i++) {
      mixer.change({ activeSide: i % 2 === 0 ? "version" : "reference" });
      parts.push(sum(render(mixer, 0.05)));
    }
    const all = parts.flatMap((part) => [...part]);
    const own = 2 * 0.4 * sin((PI * 220) / rate);
    let largest = 0;
    for (let i = 1; i < all.length; i++) largest = max(largest, abs(all[i]! - all[i - 1]!));
    expect(largest).toBeLessThan(own * 1.1);
  });

  it("to bars that are not recreated goes on at the next that are", () => {
    const mixer = mixerWith(() => 0, place);
    mixer.seek(2);
    mixer.play();
    render(mixer, 0.05);
    mixer.change({ activeSide: "version" });
    render(mixer, 0.05);
    expect(mixer.report().beat).toBeGreaterThanOrEqual(8);
    expect(mixer.report().beat).toBeLessThan(8.3);
  });

  it("waits until the samples of the other side are there, playing on", () => {
    const mixer = mixerWith(place, place);
    for (let piece = 0; piece < 20; piece++) mixer.dropPiece("version", piece);
    mixer.seek(9);
    mixer.play();
    render(mixer, 0.1);
    mixer.change({ activeSide: "version" });
    expect(render(mixer, 0.1).reference.at(-1)).toBeGreaterThan(0);
    expect(mixer.report().activeSide).toBe("reference");
  });
});

describe("both at once", () => {
  it("stay on one beat, the version at the reference's tempo", () => {
    const mixer = mixerWith(place, place, { arrangement: "ears" });
    mixer.seek(9);
    mixer.play();
    const out = render(mixer, 5);
    for (let i = fade; i < 4.9 * rate; i += 4001) {
      const beat = beatIn(setups.reference.timeline[0]!, out.reference[i]! * 100);
      expect(beatOfVersion(out.version[i]!)).toBeCloseTo(beat, 2);
    }
  });

  it("leave the version silent where nothing answers, and let it in where it does", () => {
    const mixer = mixerWith(
      () => 0,
      () => 0.5,
      { arrangement: "blend", blend: 1 },
    );
    mixer.seek(7);
    mixer.play();
    const out = render(mixer, 1.2).version;
    expect(abs(out[floor(0.3 * rate)]!)).toBeLessThan(1e-6);
    expect(out[floor(0.8 * rate)]).toBeCloseTo(0.5, 3);
  });

  it("are mixed by the share asked for and the gain of each", () => {
    const mixer = mixerWith(
      () => 0.5,
      () => 0.5,
      { arrangement: "blend", blend: 0.25, trim: { reference: 1, version: 0.5 } },
    );
    mixer.seek(9);
    mixer.play();
    const out = render(mixer, 0.3);
    expect(out.reference.at(-1)).toBeCloseTo(0.375, 4);
    expect(out.version.at(-1)).toBeCloseTo(0.0625, 4);
  });
});

describe("loops, speed and click", () => {
  it("a loop goes round at its end, to the sample, without a step", () => {
    const mixer = mixerWith(place, place, { loop: { from: 4, to: 6 } });
    mixer.seek(4);
    mixer.play();
    const out = render(mixer, 2.5).reference;
    // Two beats are one second: the second time round is at the same places.
    for (const at of [0.2, 0.5, 0.9]) {
      const first = out[floor(at * rate)]!;
      const second = out[floor(at * rate) + rate]!;
      expect(abs(second - first) * 100).toBeLessThan(0.0005);
    }
    expect(Math.max(...out) * 100).toBeLessThan(3.5 + 2 * fadeSeconds);
  });

  it("half speed takes twice the time", () => {
    const mixer = mixerWith(place, place, { speed: 0.5 });
    mixer.seek(0);
    mixer.play();
    const out = render(mixer, 1).reference;
    expect(out[floor(0.9 * rate)]! * 100).toBeCloseTo(0.5 + 0.45, 3);
  });

  it("the click falls on the beats of the side that is heard, higher where bars begin", () => {
    const mixer = mixerWith(tone, tone, { click: 1 });
    mixer.seek(3.5);
    mixer.play();
    const { click } = render(mixer, 1.2);
    const begins: number[] = [];
    for (let i = 1; i < click.length; i++) {
      if (abs(click[i]!) > 0.01 && click.subarray(max(0, i - 2000), i).every((x) => abs(x) <= 0.01))
        begins.push(i / rate);
    }
    expect(begins).toHaveLength(2);
    expect(begins[0]).toBeCloseTo(0.25, 2);
    expect(begins[1]).toBeCloseTo(0.75, 2);
    const crossings = (from: number) => {
      let count = 0;
      for (let i = floor(from * rate); i < (from + 0.01) * rate; i++)
        if (click[i]! < 0 !== click[i + 1]! < 0) count++;
      return count;
    };
    expect(crossings(begins[0]!)).toBeGreaterThan(crossings(begins[1]!));
  });
});

describe("what is fetched", () => {
  it("begins at the place asked for, and looks beyond a jump", () => {
    const { timeline } = setups.version;
    const pieces = chunksAround(setups.version, 8, 3, framesPerChunk);
    const at = secondsIn(segmentAt(timeline, 8)!, 8);
    expect(pieces[0]).toBe(floor((at * rate) / framesPerChunk));
    expect(pieces.length).toBeGreaterThanOrEqual(3);
    // From before the recreated bars, what comes first.
    expect(chunksAround(setups.version, 0, 3, framesPerChunk)[0]).toBe(pieces[0]);
    expect(chunksAround(setups.version, 100, 3, framesPerChunk)).toEqual([]);
  });
});

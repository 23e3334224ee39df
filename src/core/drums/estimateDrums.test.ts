/** Hearing drums, on patterns played on the synthesised kit: nothing that the model was told is a file. */
import { analyse } from "../analysis/analyse";
import { whiteNoise } from "../testing/signals";
import { drumsAsWritten, playedDrums, steadyGrid, type Written } from "../testing/drums";
import { velocityLevel } from "./groove";
import { asHits, leastConfidence, type DrumHit } from "./hits";
import { practiceKit, stroke } from "./kit";
import { drumVoices } from "./voices";

const { PI, abs, exp, floor, max, min, round, sin } = Math;

const rate = 44100;
const grid = steadyGrid(122, 16, 0.4);
const written: Written = {
  kick: ["X...X...X...X...", "X..x..X...X....."],
  snare: ["....X.......X..."],
  hat: ["x.o.x.o.x.o.x.o."],
};
const drums = drumsAsWritten(written, grid);
const seconds = 33;
const heardIn = async (samples: Float32Array) => {
  const { analysis } = await analyse({
    sampleRate: rate,
    channels: [samples, samples],
    layout: ["left", "right"],
  });
  return asHits(analysis.drums).filter(({ confidence }) => confidence >= leastConfidence);
};
const played = playedDrums(drums, seconds, rate, grid);
let heard: DrumHit[];
beforeAll(async () => {
  heard = await heardIn(played);
}, 60_000);

const of = (hits: readonly { voice: string; time: number }[], voice: string) =>
  hits.filter((hit) => hit.voice === voice);

describe("hits in a recording", () => {
  // Targets are those of a mix; a dry kit over one note must be clearly better.
  it.each(["kick", "snare", "hat"])("%s: nearly all are found, and hardly any other", (voice) => {
    const [real, found] = [of(drums.hits, voice), of(heard, voice)];
    const right = real.filter(({ time }) => found.some((hit) => abs(hit.time - time) < 0.03)).length;
    expect((2 * right) / (real.length + found.length)).toBeGreaterThan(0.95);
  });

  it("are placed within 3 ms, half of them within 2", () => {
    const errors = drums.hits
      .flatMap((hit) => {
        const near = of(heard, hit.voice).filter(({ time }) => abs(time - hit.time) < 0.03);
        return near.map(({ time }) => abs(time - hit.time));
      })
      .sort((a, b) => a - b);
    expect(errors[errors.length >> 1]!).toBeLessThan(0.002);
    expect(errors[floor(errors.length * 0.9)]!).toBeLessThan(0.004);
  });

  it("are heard harder where they are struck harder", () => {
    const hats = of(heard, "hat") as DrumHit[];
    const mean = (beats: number) => {
      const own = hats.filter(({ time }) => {
        const beat = ((time - 0.4) * 122) / 60;
        return abs(beat - round(beat * 2) / 2) < 0.05 && abs((round(beat * 2) / 2) % 1) === beats;
      });
      return own.reduce((sum, { velocity }) => sum + velocity, 0) / own.length;
    };
    // 0.7 on the beat, 0.5 between.
    expect(mean(0)).toBeGreaterThan(mean(0.5) + 0.05);
  });

  it("keep the width of accents", () => {
    // Written 5.8 dB apart; where kick and snare sound too, less can be known.
    const level = (offBeat: boolean) => {
      const own = (of(heard, "hat") as DrumHit[]).filter(({ time }) => {
        const beat = ((time - 0.4) * 122) / 60;
        return abs(abs(beat - round(beat)) - 0.5) < 0.1 === offBeat;
      });
      return own.reduce((sum, { velocity }) => sum + velocityLevel(velocity), 0) / own.length;
    };
    const width = level(false) - level(true);
    expect(width).toBeGreaterThan(3.5);
    expect(width).toBeLessThan(8.5);
  });

  it("are told apart in time where a snare follows a kick at once", async () => {
    const late = drumsAsWritten(
      { kick: ["X...X...X...X..."], snare: ["....X.......X..."], hat: ["..x...x...x...x."] },
      grid,
      { alter: (hit) => (hit.voice === "snare" ? { ...hit, time: hit.time + 0.014 } : hit) },
    );
    const found = await heardIn(playedDrums(late, seconds, rate, grid));
    const kicks = of(found, "kick");
    const after = of(found, "snare").flatMap(({ time }) => {
      const kick = kicks.find((own) => abs(own.time - time) < 0.03);
      return kick ? [time - kick.time] : [];
    });
    expect(after.length).toBeGreaterThan(24);
    const mean = after.reduce((a, b) => a + b, 0) / after.length;
    expect(abs(mean - 0.014)).toBeLessThan(0.005);
  }, 60_000);

  it("leave out a kick whose bass note sounds alone", async () => {
    // A bass note with every kick; three of the kicks are left out.
    const gone = [20, 37, 45];
    const beats = Array.from({ length: 60 }, (_, beat) => beat);
    const at = (beat: number) => 0.4 + (beat * 60) / 122;
    const hits = beats
      .filter((beat) => !gone.includes(beat))
      .map((beat) => ({
        time: at(beat),
        voice: "kick" as const,
        velocity: 0.8,
        confidence: 1,
        origin: "heard" as const,
      }));
    const hats = beats.map((beat) => ({
      ...hits[0]!,
      time: at(beat + 0.5),
      voice: "hat" as const,
      velocity: 0.6,
    }));
    const samples = playedDrums({ hits: [...hits, ...hats].sort((a, b) => a.time - b.time) }, seconds, rate);
    for (const beat of beats) {
      const start = round(at(beat) * rate);
      const step = (2 * PI * [55, 82.4, 73.4, 61.7][(beat >> 2) % 4]!) / rate;
      for (let i = 0; i < 0.4 * rate; i++) {
        const level = min(1, i / 400, (0.4 * rate - i) / 800) * exp(-i / (0.5 * rate));
        const overtones = 0.4 * sin(2 * step * i) + 0.2 * sin(3 * step * i);
        samples[start + i]! += 0.35 * level * (sin(step * i) + overtones);
      }
    }
    const kicks = of(await heardIn(samples), "kick");
    const near = (beat: number) => kicks.some(({ time }) => abs(time - at(beat)) < 0.05);
    expect(gone.filter(near)).toEqual([]);
    expect(beats.filter((beat) => !gone.includes(beat) && near(beat)).length).toBeGreaterThan(54);
  }, 60_000);

  it("are the same whatever the level of the file", async () => {
    const quiet = await heardIn(played.map((x) => 0.1 * x));
    const same = quiet.filter((hit) => of(heard, hit.voice).some(({ time }) => abs(time - hit.time) < 1e-3));
    expect(quiet.length).toBeGreaterThan(0.97 * heard.length);
    expect(same.length).toBeGreaterThan(0.97 * quiet.length);
  }, 60_000);

  it("are none in silence and none in a held tone", async () => {
    expect(await heardIn(new Float32Array(rate * 5))).toEqual([]);
    const tone = Float32Array.from({ length: rate * 6 }, (_, i) => 0.2 * sin((2 * PI * 220 * i) / rate));
    expect((await heardIn(tone)).filter(({ time }) => time > 0.1 && time < 5.9)).toEqual([]);
  }, 60_000);
});

describe("files that are hardly music", () => {
  const noise = whiteNoise(-12, 3, rate, 8);
  it.each<[string, number, Float32Array]>([
    ["a second", rate, noise.slice(0, rate)],
    ["a constant", rate, new Float32Array(3 * rate).fill(0.5)],
    ["noise at 96 kHz", 96000, noise],
    ["clicks at 8 kHz", 8000, Float32Array.from({ length: 24000 }, (_, i) => (i % 4000 < 40 ? 0.5 : 0))],
    ["one sample", rate, Float32Array.from({ length: 2 * rate }, (_, i) => (i === rate ? 1 : 0))],
  ])(
    "%s: times lie in the file, velocities and confidences between 0 and 1",
    async (_name, sampleRate, samples) => {
      const { analysis } = await analyse({
        sampleRate,
        channels: [samples, samples],
        layout: ["left", "right"],
      });
      for (const { time, velocity, confidence } of asHits(analysis.drums)) {
        expect(time).toBeGreaterThanOrEqual(0);
        expect(time).toBeLessThanOrEqual(samples.length / sampleRate + 0.05);
        for (const share of [velocity, confidence]) {
          expect(share).toBeGreaterThanOrEqual(0);
          expect(share).toBeLessThanOrEqual(1);
        }
      }
    },
  );
});

describe("the practice kit", () => {
  it.each([...drumVoices])("%s begins at once, stays in range and dies away", (voice) => {
    let state = 3;
    const sound = stroke(practiceKit[voice], rate, () => (state = (state * 16807) % 2147483647) / 2147483647);
    const peak = sound.reduce((a, b) => max(a, abs(b)), 0);
    expect(peak).toBeGreaterThan(0.05);
    expect(peak).toBeLessThan(1.3);
    expect(sound.findIndex((x) => abs(x) > 0.1 * peak)).toBeLessThan(0.005 * rate);
    const end = sound.subarray(sound.length - 200).reduce((a, b) => max(a, abs(b)), 0);
    expect(end).toBeLessThan(0.01 * peak);
  });
});

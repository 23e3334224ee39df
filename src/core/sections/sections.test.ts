/** Sections, names and moments of made-up tracks whose plan is known. */
import { analyse } from "../analysis/analyse";
import { clicks, stereo, whiteNoise } from "../testing/signals";
import { bestDivision } from "./boundaries";
import { measuresOfSection } from "./sectionMeasures";
import { letterAt } from "./letters";
import { suggestedNames, type SectionTraits } from "./names";

const { PI, exp, floor, round, sin } = Math;
const rate = 22050;
const beat = 0.5;

describe("the division into sections", () => {
  const odds = (count: number, at: Record<number, number>) =>
    Array.from({ length: count - 1 }, (_, i) => at[i + 1] ?? -4);

  it.each([
    ["where something new begins", { 4: 3, 12: 3 }, 20, [0, 4, 12]],
    ["a bar off eights only where that is clear", { 8: 1, 9: 1.5 }, 16, [0, 8]],
    ["a bar off eights where that is clear", { 8: -3, 9: 5 }, 17, [0, 9]],
    ["at a faint change where a section would be long otherwise", { 16: -1 }, 32, [0, 16]],
    ["not at as faint a change where it would not", { 8: -1 }, 16, [0]],
    ["nowhere where nothing changes", {}, 32, [0]],
  ])("lies %s", (_name, at, count, expected) => {
    expect(bestDivision(odds(count, at), count).starts).toEqual(expected);
  });

  it("of one bar is one section", () => {
    expect(bestDivision([], 1).starts).toEqual([0]);
  });
});

describe("names", () => {
  const traits = (letter: string, loudness: number, changes: Partial<SectionTraits> = {}): SectionTraits => ({
    letter,
    bars: 8,
    loudness,
    drums: 1,
    bass: 1,
    rises: false,
    ...changes,
  });

  it("follow fullness and place", () => {
    expect(
      suggestedNames([
        traits("A", -22, { drums: 0, bass: 0, bars: 4 }),
        traits("B", -12),
        traits("C", -10),
        traits("B", -12),
        traits("C", -10),
        traits("D", -20, { drums: 0 }),
        traits("C", -10),
        traits("E", -20, { bass: 0 }),
      ]),
    ).toEqual(["intro", "verse", "chorus", "verse 2", "chorus 2", "break", "chorus 3", "outro"]);
  });

  it("call a quiet part that rises into the chorus a build", () => {
    const names = suggestedNames([
      traits("A", -12),
      traits("B", -18, { drums: 0, rises: true }),
      traits("C", -9),
      traits("A", -12),
      traits("C", -9),
    ]);
    expect(names).toEqual(["verse", "build", "chorus", "verse 2", "chorus 2"]);
  });

  it("are one for one section, and none for none", () => {
    expect(suggestedNames([traits("A", -12)])).toEqual(["verse"]);
    expect(suggestedNames([])).toEqual([]);
  });

  it("have letters beyond Z", () => {
    expect([0, 25, 26, 52].map(letterAt)).toEqual(["A", "Z", "A2", "A3"]);
  });
});

/**
 * Forty bars at 120 BPM: eight of a held chord alone, sixteen with kick, hats and bass, eight
 * without drums, eight with them; a silent bar 24, a crash on bar 25's place where asked.
 */
function arranged({ stop = false, crash = false } = {}) {
  const bars = 40;
  const seconds = bars * 4 * beat + 0.5;
  const hasDrums = (bar: number) => (bar >= 8 && bar < 24) || bar >= 32;
  const kicks: number[] = [];
  const hats: number[] = [];
  for (let bar = 0; bar < bars; bar++) {
    if (!hasDrums(bar)) continue;
    for (let b = 0; b < 4; b++) {
      kicks.push((4 * bar + b) * beat);
      hats.push((4 * bar + b + 0.5) * beat);
    }
  }
  const noise = whiteNoise(-12, seconds, rate, 9);
  const samples = new Float32Array(round(seconds * rate));
  for (const time of kicks) {
    const from = round(time * rate);
    for (let i = 0; i < 0.2 * rate; i++) {
      const t = i / rate;
      samples[from + i]! += 0.5 * exp(-t * 18) * sin(2 * PI * (50 + 90 * exp(-t * 40)) * t);
    }
  }
  for (const time of hats) {
    const from = round(time * rate);
    for (let i = 0; i < 0.05 * rate; i++)
      samples[from + i]! += 0.4 * noise[from + i]! * exp(-(i / rate) * 90);
  }
  // Three notes of each chord and its bass, as steps of phase.
  const chords = [57, 53, 48, 55].map((root, bar) =>
    [0, bar === 0 ? 3 : 4, 7, -12].map((up) => (2 * PI * 440 * 2 ** ((root + up - 69) / 12)) / rate),
  );
  for (let i = 0; i < samples.length; i++) {
    const bar = floor(i / rate / (4 * beat));
    const [a, b, c, bass] = chords[bar % 4]!;
    samples[i]! += 0.03 * (sin(a! * i) + sin(b! * i) + sin(c! * i));
    if (hasDrums(bar)) samples[i]! += 0.1 * sin(bass! * i);
  }
  if (crash) {
    const from = round(8 * 4 * beat * rate);
    for (let i = 0; i < 2 * rate; i++) samples[from + i]! += 0.5 * noise[i]! * exp(-(i / rate) * 2);
  }
  if (stop) samples.fill(0, round((4 * 16 + 2) * beat * rate), round(4 * 17 * beat * rate));
  const marks = clicks([0], seconds, rate);
  const mixed = samples.map((x, i) => x + 0.02 * marks[i]!);
  return stereo(mixed, mixed, rate);
}

describe("a track with an arrangement", () => {
  let form: Awaited<ReturnType<typeof analyse>>["analysis"]["plan"]["form"];
  beforeAll(async () => {
    ({ form } = (await analyse(arranged())).analysis.plan);
  });

  it("has no measures of a section that lies outside it", () => {
    expect(measuresOfSection({ firstBar: 90, lastBar: 99 }, form!)).toBeNull();
  });

  it("is divided where it changes, and says who plays where", () => {
    const starts = form!.sections.map(({ firstBar }) => firstBar);
    for (const bar of [9, 25, 33]) expect(starts).toContain(bar);
    const presenceIn = (firstBar: number, lastBar: number) =>
      measuresOfSection({ firstBar, lastBar }, form!)!.presence;
    expect(presenceIn(10, 23).drums).toBeGreaterThan(0.7);
    expect(presenceIn(2, 7).drums).toBeLessThan(0.3);
    expect(presenceIn(10, 23).bass).toBeGreaterThan(0.5);
    const [louder, quieter] = [
      measuresOfSection({ firstBar: 10, lastBar: 23 }, form!)!,
      measuresOfSection({ firstBar: 2, lastBar: 7 }, form!)!,
    ];
    expect(louder.loudness).toBeGreaterThan(quieter.loudness + 2);
    expect(louder.density).toBeGreaterThan(quieter.density + 4);
    // The drums go out with bar 25 and nothing else is made up.
    const bars = form!.moments.map(({ kind, startBeat }) => `${kind} ${round(startBeat / 4) + 1}`);
    expect(bars).toContain("drumsOut 25");
    expect(bars.filter((moment) => moment.startsWith("stop"))).toEqual([]);
  });

  it("has its stop and its crash found where they are", async () => {
    const { analysis } = await analyse(arranged({ stop: true, crash: true }));
    const { moments } = analysis.plan.form!;
    const stop = moments.find(({ kind }) => kind === "stop")!;
    expect(stop.startBeat).toBeCloseTo(66, 0);
    expect(stop.endBeat).toBeCloseTo(68, 0);
    expect(moments.some(({ kind, startBeat }) => kind === "crash" && startBeat === 32)).toBe(true);
  });
});

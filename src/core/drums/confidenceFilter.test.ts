/** What is taken out of a comparison because it is measured and not played; each rule by itself. */
import type { ComparedHit } from "./compareDrums";
import {
  filterByConfidence,
  markMasked,
  normaliseVelocityDifferences,
  removeCommonShift,
  type Hints,
} from "./confidenceFilter";
import type { Placed } from "./pairing";
import type { DrumVoice } from "./voices";

const shape = { beatsPerBar: 4, stepsPerBeat: 4 };
const noHints: Hints = { reference: [], version: [], bars: 8 };

interface Own {
  velocity?: number;
  confidence?: number;
}
/** A hit on a sixteenth, counted from the beginning of bar 1, at 120 BPM. */
function placed(voice: DrumVoice, step: number, { velocity = 0.8, confidence = 0.95 }: Own = {}): Placed {
  const beat = step / 4;
  return {
    hit: { voice, time: beat / 2, velocity, confidence, origin: "heard" },
    beat,
    quantised: beat,
    bar: Math.floor(beat / 4) + 1,
    division: "sixteenth",
    offset: 0,
  } as unknown as Placed;
}
function compared(
  kind: ComparedHit["kind"],
  voice: DrumVoice,
  step: number,
  own: Own & Partial<ComparedHit> = {},
): ComparedHit {
  const hit = placed(voice, step, own);
  return {
    voice,
    reference: kind === "extra" ? null : hit,
    version: kind === "missing" ? null : hit,
    kind,
    otherVoice: null,
    timingDeviation: kind === "agrees" ? (own.timingDeviation ?? 0) : null,
    velocityDifference: kind === "agrees" ? (own.velocityDifference ?? 0) : null,
    reliable: true,
    intended: false,
    masked: false,
  };
}
/** One step of eight bars. */
const bars = (count: number, voice: DrumVoice, step = 0, own: Own & Partial<ComparedHit> = {}, first = 0) =>
  Array.from({ length: count }, (_, bar) => compared("agrees", voice, 16 * (first + bar) + step, own));
const sideOf = (hits: readonly ComparedHit[], side: "reference" | "version") =>
  hits.flatMap((hit) => hit[side] ?? []);
function filtered(hits: ComparedHit[], hints = noHints): ComparedHit[] {
  filterByConfidence(hits, sideOf(hits, "reference"), sideOf(hits, "version"), shape, hints);
  return hits;
}

describe("differences in force", () => {
  it("lose what a voice is struck harder in general, voice by voice", () => {
    const kicks = [2, 3, 4].map((difference, i) =>
      compared("agrees", "kick", 4 * i, { velocityDifference: difference }),
    );
    const hats = [-5, -5].map((difference, i) =>
      compared("agrees", "hat", 2 * i, { velocityDifference: difference }),
    );
    const lost = compared("missing", "kick", 30);
    normaliseVelocityDifferences([...kicks, ...hats, lost]);
    expect(kicks.map((hit) => hit.velocityDifference)).toEqual([-1, 0, 1]);
    expect(hats.map((hit) => hit.velocityDifference)).toEqual([0, 0]);
    expect(lost.velocityDifference).toBeNull();
  });

  it("are left alone where nothing agrees", () => {
    const hits = [compared("missing", "snare", 4), compared("extra", "snare", 12)];
    normaliseVelocityDifferences(hits);
    expect(hits.every((hit) => hit.velocityDifference === null)).toBe(true);
  });
});

describe("lateness", () => {
  const late = (voice: DrumVoice, seconds: number, count = 8) =>
    bars(count, voice, 0, { timingDeviation: seconds });
  const means = (hits: readonly ComparedHit[]) => hits[0]!.timingDeviation!;

  it("loses what all voices have in common: that is where the grid lies", () => {
    const [kick, snare, hat] = [late("kick", 0.012), late("snare", 0.013), late("hat", 0.011)];
    removeCommonShift([...kick, ...snare, ...hat]);
    for (const voice of [kick, snare, hat]) expect(Math.abs(means(voice))).toBeLessThan(0.0015);
  });

  it("leaves the one that is late by itself late, and does not make the others early", () => {
    const [kick, snare, hat] = [late("kick", 0), late("snare", 0.015), late("hat", 0)];
    removeCommonShift([...kick, ...snare, ...hat]);
    expect(means(snare)).toBeCloseTo(0.015, 6);
    expect(means(kick)).toBeCloseTo(0, 6);
    expect(means(hat)).toBeCloseTo(0, 6);
  });

  it("believes the kick rather than one other voice", () => {
    const [kick, hat] = [late("kick", 0, 8), late("hat", 0.01, 16)];
    removeCommonShift([...kick, ...hat]);
    expect(means(kick)).toBeCloseTo(0, 6);
    expect(means(hat)).toBeCloseTo(0.01, 6);
  });

  it("is left alone where one voice plays by itself, or too little of the others", () => {
    const lonely = late("kick", 0.02);
    removeCommonShift(lonely);
    expect(means(lonely)).toBe(0.02);
    const some = [...late("kick", 0.02), ...late("snare", 0.02, 2)];
    removeCommonShift(some);
    expect(means(some)).toBe(0.02);
  });
});

describe("what lacks or is too much", () => {
  it("is believed of drums that both sides hear surely", () => {
    const lost = compared("missing", "kick", 8);
    const more = compared("extra", "kick", 40);
    filtered([...bars(8, "kick"), lost, more]);
    expect([lost.reliable, more.reliable]).toEqual([true, true]);
  });

  it("is not believed where the other side is unsure of the voice", () => {
    const unsure = bars(8, "kick", 0, { confidence: 0.6 });
    const lost = compared("missing", "kick", 8);
    filtered([...unsure, lost]);
    expect(lost.reliable).toBe(false);
    // Where the other side has nothing of it at all, it is missing.
    const alone = compared("missing", "snare", 4);
    filtered([...unsure, alone]);
    expect(alone.reliable).toBe(true);
  });

  it("is not believed of a step that can be covered and comes and goes", () => {
    const lost = (voice: DrumVoice) => [6, 7].map((bar) => compared("missing", voice, 16 * bar + 2));
    const covered = lost("hat");
    filtered([...bars(6, "hat", 2), ...covered]);
    expect(covered.every((hit) => !hit.reliable)).toBe(true);
    // Kicks are heard in any mix.
    const kicks = lost("kick");
    filtered([...bars(6, "kick", 2), ...kicks]);
    expect(kicks.every((hit) => hit.reliable)).toBe(true);
    // A step that is never there is left out, not covered.
    const never = Array.from({ length: 8 }, (_, bar) => compared("missing", "hat", 16 * bar + 6));
    filtered([...bars(8, "hat", 2), ...never]);
    expect(never.every((hit) => hit.reliable)).toBe(true);
  });

  it("is not believed where the other side hears it faintly in many bars", () => {
    const never = Array.from({ length: 8 }, (_, bar) => compared("missing", "hat", 16 * bar + 6));
    const faint = [0, 2, 4].map((bar) => placed("hat", 16 * bar + 6, { confidence: 0.3 }));
    filtered([...bars(8, "hat", 2), ...never], { ...noHints, version: faint });
    expect(never.every((hit) => !hit.reliable)).toBe(true);
    const once = Array.from({ length: 8 }, (_, bar) => compared("missing", "hat", 16 * bar + 6));
    filtered([...bars(8, "hat", 2), ...once], { ...noHints, version: faint.slice(0, 1) });
    expect(once.every((hit) => hit.reliable)).toBe(true);
    // What the reference hears faintly says nothing of what it has and the version lacks.
    const other = Array.from({ length: 8 }, (_, bar) => compared("missing", "hat", 16 * bar + 6));
    filtered([...bars(8, "hat", 2), ...other], { ...noHints, reference: faint });
    expect(other.every((hit) => hit.reliable)).toBe(true);
  });

  it("is not believed of strokes much softer than those that agree, unless they are heard clearly", () => {
    const steps = bars(8, "hat", 2);
    const soft = compared("missing", "hat", 9, { velocity: 0.3, confidence: 0.9 });
    const clear = compared("missing", "hat", 25, { velocity: 0.3, confidence: 0.97 });
    const loud = compared("missing", "hat", 41, { velocity: 0.7, confidence: 0.9 });
    filtered([...steps, soft, clear, loud]);
    expect([soft, clear, loud].map((hit) => hit.reliable)).toEqual([false, true, true]);
  });

  it("is not believed right beside one that agrees: a flam", () => {
    const flam = compared("extra", "snare", 4);
    flam.version!.hit.time += 0.03;
    const apart = compared("extra", "snare", 5);
    filtered([...bars(8, "snare", 4), flam, apart]);
    expect([flam.reliable, apart.reliable]).toEqual([false, true]);
  });

  it("leaves what agrees as it is", () => {
    const all = filtered(bars(8, "hat", 2, { confidence: 0.4, velocity: 0.2 }));
    expect(all.every((hit) => hit.reliable)).toBe(true);
  });
});

describe("strokes that sound together with another of their kind", () => {
  it("are masked on both, whichever side it is on", () => {
    const closed = compared("agrees", "hat", 8);
    const open = compared("extra", "openHat", 8);
    const kick = compared("agrees", "kick", 8);
    const later = compared("agrees", "hat", 10);
    markMasked([closed, open, kick, later]);
    expect([closed, open, kick, later].map((hit) => hit.masked)).toEqual([true, true, false, false]);
  });

  it("need not be struck at the very same moment, and are not those of another kind", () => {
    const [snare, clap, hat] = [
      compared("agrees", "snare", 4),
      compared("agrees", "clap", 4),
      compared("agrees", "hat", 4),
    ];
    clap.reference!.hit.time += 0.015;
    markMasked([snare, clap, hat]);
    expect([snare, clap, hat].map((hit) => hit.masked)).toEqual([true, true, false]);
    const [one, other] = [compared("missing", "snare", 4), compared("missing", "clap", 4)];
    other.reference!.hit.time += 0.03;
    markMasked([one, other]);
    expect([one.masked, other.masked]).toEqual([false, false]);
  });

  it("are not believed to lack", () => {
    const lost = compared("missing", "hat", 8);
    const open = compared("agrees", "openHat", 8);
    const hits = [...bars(8, "hat", 2), ...bars(8, "openHat", 14), lost, open];
    markMasked(hits);
    filtered(hits);
    expect(lost.reliable).toBe(false);
  });
});

import { madeUpEnvelopes } from "@/core/testing/envelopes";
import { madeUpStudy } from "@/core/testing/study";
import { compareAll, measuresOfWhole } from "@/core/study";
import type { TrackMeasures } from "@/core/match";
import { decayWords, placeSentences, spaceModel, spaceSentences } from "./space";

const results = madeUpStudy();
const plain = measuresOfWhole(results.analyses.get(results.study.reference!.file.hash)!);
const having = (changes: Parameters<typeof madeUpEnvelopes>[0]): TrackMeasures => ({
  ...plain,
  envelopes: madeUpEnvelopes(changes),
});
const steady = { depthCents: 1, rateHz: 1, confidence: 0.8 };
const modelOf = (
  reference: TrackMeasures,
  version: TrackMeasures,
  wobble = { reference: steady, version: steady },
) => spaceModel(reference, version, compareAll(reference, version, results.study).mix.aspects, wobble);

describe("places from left to right", () => {
  it("are said where a voice has moved, and warned of where the kick is off centre", () => {
    const model = modelOf(having({}), having({ hatsAt: -0.3, kickAt: 0.2 }));
    expect(model.places[0]).toMatchObject({ name: "Kick", reference: 0, version: 0.2 });
    expect(placeSentences(model)).toEqual([
      {
        key: "Kick",
        text: "Kick 20 % right, the reference's in the middle: it belongs in the middle.",
        isWarning: true,
      },
      { key: "Closed hat", text: "Closed hat 30 % left, the reference's 20 % right.", isWarning: false },
    ]);
  });

  it("are not said where both agree, nor of a voice with few hits", () => {
    expect(placeSentences(modelOf(plain, plain))).toEqual([]);
    const few = having({ hatsAt: -0.3 });
    few.envelopes.positions.voices[1]!.hits = 8;
    expect(placeSentences(modelOf(having({}), few))).toEqual([]);
  });
});

describe("space", () => {
  it("is scored and said by how full the gaps are", () => {
    const wet = modelOf(having({ gapDb: -18 }), having({ gapDb: -10 }));
    expect(wet.score).toBeLessThan(50);
    expect(spaceSentences(wet)[0]).toMatch(/^150 Hz to 600 Hz: gaps 8\.0 dB fuller\./);
    const dry = modelOf(having({ gapDb: -10 }), having({ gapDb: -18 }));
    expect(spaceSentences(dry)[0]).toMatch(/emptier\. More room/);
    expect(dry.score).toBeCloseTo(wet.score!, 9);
    expect(spaceSentences(modelOf(plain, plain))).toEqual([]);
  });

  it("tells short, long and gated decays apart", () => {
    const range = plain.envelopes.space.ranges[0]!;
    expect(decayWords({ ...range, decaySeconds: 0.3 })).toBe("short");
    expect(decayWords({ ...range, decaySeconds: 2.4 })).toBe("long");
    expect(decayWords({ ...range, decaySeconds: 2.4, gated: 0.8 })).toBe("gated");
    expect(decayWords({ ...range, decaySeconds: null })).toBeNull();
  });
});

describe("texture", () => {
  const row = (model: ReturnType<typeof modelOf>, key: string) =>
    model.texture.find((own) => own.key === key)!;

  it("speaks of wobble only where it is sure", () => {
    const tape = { depthCents: 18, rateHz: 1.2, confidence: 0.7 };
    const sure = modelOf(plain, plain, { reference: tape, version: steady });
    expect(row(sure, "wobble").words).toBe("the reference wobbles like tape, 1.2 times a second");
    const unsure = modelOf(plain, plain, { reference: { ...tape, confidence: 0.3 }, version: steady });
    expect(row(unsure, "wobble").words).toBeNull();
  });

  describe("of quiet moments and of drive", () => {
    const textured = (own: Partial<TrackMeasures["envelopes"]["texture"]>): TrackMeasures => {
      const { envelopes, ...rest } = having({});
      return {
        ...rest,
        envelopes: { ...envelopes, texture: { ...envelopes.texture, floorConfidence: 0.9, ...own } },
      };
    };
    const words = (
      ours: Parameters<typeof textured>[0],
      theirs: Parameters<typeof textured>[0],
      key: string,
    ) => row(modelOf(textured(ours), textured(theirs)), key).words;

    it("tells more hiss from less", () => {
      expect(words({ hissDb: -60 }, { hissDb: -50 }, "hiss")).toBe("more hiss, or highs that never stop");
      expect(words({ hissDb: -50 }, { hissDb: -60 }, "hiss")).toBe(
        "the reference has hiss under it, yours has less",
      );
      expect(words({ hissDb: -50 }, { hissDb: -52 }, "hiss")).toBeNull();
    });

    it("says nothing of what is not known surely on both sides", () => {
      expect(words({ hissDb: -60 }, { hissDb: -40, floorConfidence: 0.2 }, "hiss")).toBeNull();
      expect(words({ hissDb: null }, { hissDb: -40 }, "hiss")).toBeNull();
      expect(
        words({ brighteningDb: 0 }, { brighteningDb: 6, brighteningConfidence: 0.2 }, "brightening"),
      ).toBeNull();
    });

    it("asks for more drive or less, not where both grow darker as they get louder", () => {
      expect(words({ brighteningDb: 6 }, { brighteningDb: 1 }, "brightening")).toMatch(/drive it more$/);
      expect(words({ brighteningDb: 1 }, { brighteningDb: 6 }, "brightening")).toMatch(/less drive$/);
      expect(words({ brighteningDb: -7 }, { brighteningDb: -1 }, "brightening")).toBeNull();
    });

    it("is as sure as the side that is less so", () => {
      const model = modelOf(textured({ floorConfidence: 0.9 }), textured({ floorConfidence: 0.4 }));
      expect([row(model, "hiss").confidence, row(model, "floor").confidence]).toEqual([0.4, 0.4]);
    });
  });

  it("finds a top that is cut off", () => {
    const dull: TrackMeasures = {
      ...plain,
      spectrum: {
        ...plain.spectrum,
        // Nothing above some 4 kHz.
        mid: plain.spectrum.mid.map((power, b) => (b > 95 ? power * 1e-6 : power)),
        side: plain.spectrum.side.map((power, b) => (b > 95 ? power * 1e-6 : power)),
      },
    };
    expect(row(modelOf(plain, dull), "high").words).toMatch(/^the top is cut off/);
    expect(row(modelOf(dull, plain), "high").words).toMatch(/^the reference is low-passed/);
    expect(row(modelOf(plain, plain), "high").words).toBeNull();
  });
});

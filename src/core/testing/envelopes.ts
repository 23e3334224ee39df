import { envelopeBandCount } from "../envelopes/levels";
import { framesAfter, framesBefore } from "../envelopes/pumping";
import { spaceRanges, sustainedRanges, type EnvelopeMeasures } from "../envelopes";

/** What band envelopes tell of a track that is made as it says. */
export function madeUpEnvelopes({
  dipDb = 0,
  attackDb = 9,
  gapDb = -18,
  hatsAt = 0.2,
  kickAt = 0,
}: {
  dipDb?: number;
  attackDb?: number;
  gapDb?: number;
  hatsAt?: number;
  kickAt?: number;
} = {}): EnvelopeMeasures {
  // Back after a fifth of a second.
  const dip = Array.from({ length: framesBefore + framesAfter + 1 }, (_, t) =>
    t < framesBefore ? 0 : -dipDb * Math.max(0, 1 - (t - framesBefore) / 20),
  );
  return {
    pumping: {
      kicks: 96,
      framesPerSecond: 100,
      typical: Array.from({ length: envelopeBandCount }, () => dip),
      ducking: { low: null, high: dipDb > 2 ? { depthDb: dipDb, recoveryMs: 180, beats: 0.35 } : null },
    },
    punch: { hits: 144, attackDb, sustainDb: -12 },
    space: {
      ranges: spaceRanges.map(() => ({
        gapDb,
        lateDb: -20,
        hits: 80,
        decaySeconds: 0.4,
        decays: 40,
        gated: 0,
      })),
    },
    positions: {
      voices: [
        { voice: "kick", position: kickAt, hits: 96 },
        { voice: "hat", position: hatsAt, hits: 190 },
      ],
      sustained: sustainedRanges.map(() => 0),
    },
    texture: {
      floorDb: -30,
      hissDb: -48,
      floorConfidence: 0.3,
      brighteningDb: 2,
      brighteningConfidence: 0.8,
    },
  };
}

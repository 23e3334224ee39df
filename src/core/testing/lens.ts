/** What a lens would have lifted out of made-up tracks. */
import type { Covering } from "../lens/covering";
import { lensParts, ofDrumParts, ofLensParts, type LensPart } from "../lens/parts";
import { twelfthCount } from "../tone";
import type { StoredLens } from "../study/lens";

/** What is there of each part: how free it stands, its gain in the version and the bars it plays in there. */
type MadeUpParts = Partial<
  Record<
    LensPart,
    {
      freeDb?: number;
      gainDb?: number;
      /** How long its strokes are beside the reference's. */
      length?: number;
      plays?(bar: number): boolean;
      /** Bars in whose beats it sounds in the reference. */
      playsThere?(bar: number): boolean;
      /** How far the tone of its bars strays from the reference's, in dB. */
      movement?: number;
      /** By how much fuller the gaps between its sounds are than the reference's, in dB. */
      fuller?: number;
    }
  >
>;

/** Parts that fill an octave each, in all bars of the reference; those not named are nowhere. */
export function madeUpLens(bars: number, parts: MadeUpParts, coverings: Covering[] = []): StoredLens {
  const side = (isVersion: boolean) =>
    Object.fromEntries(
      lensParts.map((part, place) => {
        const own = parts[part];
        const gain = isVersion ? 10 ** ((own?.gainDb ?? 0) / 10) : 1;
        const first = 12 + 15 * place;
        return [
          part,
          {
            freeDb: own ? (own.freeDb ?? 14) : null,
            strokeMs:
              own && part !== "bass" && part !== "music" ? 120 * (isVersion ? (own.length ?? 1) : 1) : null,
            spectrum: {
              mid: Float32Array.from({ length: twelfthCount }, (_, band) =>
                own && band >= first && band < first + 12 ? 1e-3 * gain : 0,
              ),
              side: new Float32Array(twelfthCount),
              cross: new Float32Array(twelfthCount),
            },
          },
        ];
      }),
    ) as StoredLens["reference"];
  const beats = (plays: (bar: number) => boolean) =>
    Array.from({ length: bars }, (_, i) => (plays(i + 1) ? "1111" : "0000")).join("");
  const levels = (plays: (bar: number) => boolean, gainDb = 0) =>
    Array.from({ length: bars }, (_, i) => (plays(i + 1) ? -20 + gainDb : -90));
  return {
    reference: side(false),
    version: side(true),
    bars: {
      parts: ofLensParts((part) => ({
        levels: {
          reference: levels(() => part in parts),
          version: levels((bar) => part in parts && (parts[part]!.plays?.(bar) ?? true), parts[part]?.gainDb),
        },
        own: null,
      })),
      beats: ofLensParts((part) => ({
        reference: beats((bar) => part in parts && (parts[part]!.playsThere?.(bar) ?? true)),
        version: beats((bar) => part in parts && (parts[part]!.plays?.(bar) ?? true)),
      })),
      // As loud beside the bars' levels as an even stroke may be.
      strokes: ofDrumParts((part) => ({
        reference: levels(() => part in parts, 9),
        version: levels(
          (bar) => part in parts && (parts[part]!.plays?.(bar) ?? true),
          9 + (parts[part]?.gainDb ?? 0),
        ),
      })),
      depths: ofLensParts((part) => ({
        reference: levels(() => true).map(() => (part in parts ? -12 : null)),
        version: levels(() => true).map(() => (part in parts ? -12 + (parts[part]!.fuller ?? 0) : null)),
      })),
      coverings,
    },
    tones: ofLensParts((part) => {
      const own = parts[part];
      const first = 12 + 15 * lensParts.indexOf(part);
      return own
        ? {
            gap: Array.from({ length: twelfthCount }, () => 0),
            weight: Array.from({ length: twelfthCount }, (_, band) =>
              band >= first && band < first + 12 ? 1 : 0,
            ),
            movement: own.movement ?? 0,
            bars: [],
          }
        : null;
    }),
  };
}

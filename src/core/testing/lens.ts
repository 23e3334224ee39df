/** What a lens would have lifted out of made-up tracks. */
import { lensParts, type LensPart } from "../lens/parts";
import { twelfthCount } from "../tone";
import type { StoredLens } from "../study/lens";

/** What is there of each part: how free it stands, its gain in the version and the bars it plays in there. */
type MadeUpParts = Partial<
  Record<LensPart, { freeDb?: number; gainDb?: number; plays?(bar: number): boolean }>
>;

/** Parts that fill an octave each, in all bars of the reference; those not named are nowhere. */
export function madeUpLens(bars: number, parts: MadeUpParts): StoredLens {
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
            powers: Float32Array.from({ length: twelfthCount }, (_, band) =>
              own && band >= first && band < first + 12 ? 1e-3 * gain : 0,
            ),
          },
        ];
      }),
    ) as StoredLens["reference"];
  const levels = (plays: (bar: number) => boolean) =>
    Array.from({ length: bars }, (_, i) => (plays(i + 1) ? -20 : -90));
  return {
    reference: side(false),
    version: side(true),
    bars: Object.fromEntries(
      lensParts.map((part) => [
        part,
        {
          reference: levels(() => part in parts),
          version: levels((bar) => part in parts && (parts[part]!.plays?.(bar) ?? true)),
        },
      ]),
    ) as StoredLens["bars"],
  };
}

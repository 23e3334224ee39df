/** Parts that the lens lifts out, muted on either side, and stems heard in their place. */
import type { ListeningPart, StemsOfElement } from "@/core/formats/chunks";
import { lensParts, type LensPart } from "@/core/lens/parts";
import { monitorFilterOf, type MonitorFilter } from "./monitorFilter";
import { sides, type Side } from "./timeline";

/** The stems of an element alone. */
export interface StemsAlone extends StemsOfElement {
  /** That of the element. */
  name: string;
}

/** What of a side does not sound: parts of its mix, or all of it but some stems. */
export type MutedSide = readonly LensPart[] | StemsAlone;
export type Muted = Record<Side, MutedSide>;

export const nothingMuted: Muted = { reference: [], version: [] };

const isStems = (own: MutedSide): own is StemsAlone => "elementId" in own;
const partsOf = (own: MutedSide): readonly LensPart[] => (isStems(own) ? [] : own);

export const isMuted = (muted: Muted, side: Side, part: LensPart): boolean =>
  partsOf(muted[side]).includes(part);

/**
 * One part alone on both sides, or its stems on a side that has them.
 *
 * @param part null for what no part of the lens is.
 */
export function onlyPart(part: LensPart | null, stems: Partial<Record<Side, StemsAlone>> = {}): Muted {
  const others = part ? lensParts.filter((own) => own !== part) : [];
  return { reference: stems.reference ?? others, version: stems.version ?? others };
}
export const allBut = (part: LensPart): Muted => ({ reference: [part], version: [part] });

/** Mutes a part on one side, or lets it sound again. */
export const toggled = (muted: Muted, side: Side, part: LensPart): Muted => ({
  ...muted,
  [side]: lensParts.filter((own) => isMuted(muted, side, own) !== (own === part)),
});

const sameSide = (a: MutedSide, b: MutedSide): boolean =>
  isStems(a) || isStems(b)
    ? isStems(a) && isStems(b) && a.elementId === b.elementId
    : lensParts.every((part) => a.includes(part) === b.includes(part));

/** Whether both sides sound the same parts: a blind test gives nothing away then. */
export const isMutedAlike = ({ reference, version }: Muted): boolean => sameSide(reference, version);

export const sameMuted = (a: Muted, b: Muted): boolean => sides.every((side) => sameSide(a[side], b[side]));

/** Whether the lens has to lift something out for what a side sounds. */
export const isLifted = (muted: Muted, side: Side): boolean => partsOf(muted[side]).length > 0;

/** What of a side's file sounds, or in its place. */
export function soundingPart(filter: MonitorFilter, muted: MutedSide): ListeningPart {
  const { part } = monitorFilterOf(filter);
  if (part !== "whole") return part;
  if (isStems(muted)) return { trackId: muted.trackId, elementId: muted.elementId };
  return muted.length === 0 ? part : lensParts.filter((own) => !muted.includes(own));
}

const isSeparated = (filter: MonitorFilter): boolean => monitorFilterOf(filter).part !== "whole";

/** Separated parts are of the whole mix: one of them chosen ends what is muted, and the other way round. */
export function withoutConflict<T extends { monitorFilter?: MonitorFilter; muted?: Muted }>(
  next: T,
  now: MonitorFilter,
): T {
  if (next.monitorFilter && isSeparated(next.monitorFilter)) return { ...next, muted: nothingMuted };
  if (next.muted && !next.monitorFilter && isSeparated(now)) return { ...next, monitorFilter: "everything" };
  return next;
}

/** In a few words: "kick only", "all but kick", "reference without kick"; empty where nothing is muted. */
export function mutedWords(muted: Muted): string {
  const wordsOf = (own: MutedSide): string => {
    if (isStems(own)) return `stems of ${own.name}`;
    const sounding = lensParts.filter((part) => !own.includes(part));
    if (sounding.length === 0) return "silence";
    return own.length > sounding.length ? `${sounding.join(" and ")} only` : `all but ${own.join(" and ")}`;
  };
  const isWhole = (own: MutedSide) => !isStems(own) && own.length === 0;
  const { reference, version } = muted;
  if (isMutedAlike(muted)) return isWhole(reference) ? "" : wordsOf(reference);
  return [
    isWhole(reference) ? "" : `reference: ${wordsOf(reference)}`,
    isWhole(version) ? "" : `version: ${wordsOf(version)}`,
  ]
    .filter(Boolean)
    .join(", ");
}

/** Parts that the lens lifts out, muted on either side. */
import type { ListeningPart } from "@/core/formats/chunks";
import { lensParts, type LensPart } from "@/core/lens/parts";
import { monitorFilterOf, type MonitorFilter } from "./monitorFilter";
import type { Side } from "./timeline";

/** What is muted on each side. */
export type Muted = Record<Side, readonly LensPart[]>;

export const nothingMuted: Muted = { reference: [], version: [] };

/** All but one part muted on both sides, or that one alone. */
export const onlyPart = (part: LensPart): Muted => alike(lensParts.filter((own) => own !== part));
export const allBut = (part: LensPart): Muted => alike([part]);
const alike = (muted: readonly LensPart[]): Muted => ({ reference: muted, version: muted });

/** Mutes a part on one side, or lets it sound again. */
export const toggled = (muted: Muted, side: Side, part: LensPart): Muted => ({
  ...muted,
  [side]: lensParts.filter((own) => muted[side].includes(own) !== (own === part)),
});

/** Whether both sides sound the same parts: a blind test gives nothing away then. */
export const isMutedAlike = ({ reference, version }: Muted): boolean =>
  lensParts.every((part) => reference.includes(part) === version.includes(part));

export const sameMuted = (a: Muted, b: Muted): boolean =>
  (["reference", "version"] as const).every((side) =>
    lensParts.every((part) => a[side].includes(part) === b[side].includes(part)),
  );

/** What of a side's file sounds. */
export function soundingPart(filter: MonitorFilter, muted: readonly LensPart[]): ListeningPart {
  const { part } = monitorFilterOf(filter);
  return part !== "whole" || muted.length === 0 ? part : lensParts.filter((own) => !muted.includes(own));
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
  const wordsOf = (own: readonly LensPart[]): string => {
    const sounding = lensParts.filter((part) => !own.includes(part));
    if (sounding.length === 0) return "silence";
    return own.length > sounding.length ? `${sounding.join(" and ")} only` : `all but ${own.join(" and ")}`;
  };
  const { reference, version } = muted;
  if (isMutedAlike(muted)) return reference.length === 0 ? "" : wordsOf(reference);
  return [
    reference.length > 0 ? `reference: ${wordsOf(reference)}` : "",
    version.length > 0 ? `version: ${wordsOf(version)}` : "",
  ]
    .filter(Boolean)
    .join(", ");
}

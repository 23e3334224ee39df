/** Whether the stems of a track add up to it, in words. */
import type { LensPart } from "@/core/lens/parts";
import { isWhollyMissing, type MissingPart } from "@/core/stems/stemSum";
import type { ElementRecord, StoredStemSum, TrackRecord } from "@/core/study";
import { listedBars } from "./coverage";
import { lensNames } from "./elements";
import { fixed, nominalFrequency, signed } from "./format";

/** What is said of the stems of a track. */
export interface StemSumWords {
  /** Whether they add up to it. */
  isWhole: boolean;
  sentence: string;
  /** What is missing and what is not in the track, a sentence each. */
  findings: string[];
}

/** The element that a part of the track is, where only one without a stem is. */
function nameOf(part: LensPart, elements: readonly ElementRecord[], { stems }: Pick<TrackRecord, "stems">) {
  const without = elements.filter(
    ({ id, lens }) => lens === part && stems.every(({ elementId }) => elementId !== id),
  );
  return without.length === 1 ? without[0]!.name : lensNames[part];
}

function missingWords(missing: MissingPart, name: string | null): string {
  const { fromHz, toHz, bars, throughout } = missing;
  const range = `${nominalFrequency(fromHz)} to ${nominalFrequency(toHz)}`;
  const where = throughout ? "" : `, in ${listedBars(bars)}`;
  if (name === null) return `Missing: something from ${range}${where}.`;
  return `Partly missing: ${name}, from ${range}${where}.`;
}

/** @param sum what is known of the stems of a track. */
export function stemSumWords(
  sum: StoredStemSum,
  elements: readonly ElementRecord[],
  track: Pick<TrackRecord, "stems">,
): StemSumWords {
  const { restDb, missing, gainsDb } = sum;
  const named = missing.map((own) => ({ ...own, name: own.part && nameOf(own.part, elements, track) }));
  const wholly = named.flatMap((own) => (own.name !== null && isWhollyMissing(own) ? [own.name] : []));
  const strangers = track.stems.filter(({ id }) => gainsDb[id] === null);
  const findings = [
    ...(wholly.length > 0 ? [`Missing: ${wholly.join("; ")}.`] : []),
    ...named
      .filter((own) => own.name === null || !isWhollyMissing(own))
      .map((own) => missingWords(own, own.name)),
    ...strangers.map(
      ({ fileName }) =>
        `“${fileName}” is hardly heard in the track, if at all: check where it starts, and whether it is the same take.`,
    ),
  ];
  const isWhole = findings.length === 0;
  const left = `what is left without them is ${fixed(Math.abs(restDb), 0)} dB softer`;
  return {
    isWhole,
    sentence: isWhole
      ? `The stems add up to the track: ${left}.`
      : `The stems do not add up to the track; ${left}.`,
    findings,
  };
}

/** How much louder a stem is in its track than in its file; empty while that is not known. */
export function gainWords(sum: StoredStemSum | null, stemId: string): string {
  const gain = sum?.gainsDb[stemId];
  return gain === undefined ? "" : gain === null ? "hardly heard" : `${signed(gain)} dB`;
}

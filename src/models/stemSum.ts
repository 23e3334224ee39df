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
  if (name === null) return `Something from ${range} is missing${where}.`;
  return isWhollyMissing(missing)
    ? `${name} is missing.`
    : `${name} is partly missing, from ${range}${where}.`;
}

/** @param sum what is known of the stems of a track. */
export function stemSumWords(
  sum: StoredStemSum,
  elements: readonly ElementRecord[],
  track: Pick<TrackRecord, "stems">,
): StemSumWords {
  const { restDb, missing, gainsDb } = sum;
  const strangers = track.stems.filter(({ id }) => gainsDb[id] === null);
  const findings = [
    ...missing.map((own) => missingWords(own, own.part && nameOf(own.part, elements, track))),
    ...strangers.map(
      ({ fileName }) =>
        `“${fileName}” is not heard in the track: check where it starts, or whether it is another take.`,
    ),
  ];
  const isWhole = findings.length === 0;
  const left = `without them the track is ${fixed(Math.abs(restDb), 0)} dB softer`;
  return {
    isWhole,
    sentence: isWhole
      ? `The stems add up to the track: ${left}.`
      : `The stems do not add up to the track; ${left}.`,
    findings,
  };
}

/** How loud a stem is in its track beside its file; empty while that is not known. */
export function gainWords(sum: StoredStemSum | null, stemId: string): string {
  const gain = sum?.gainsDb[stemId];
  return typeof gain === "number" ? `${signed(gain)} dB in the track` : "";
}

/** What covers an element, in words. */
import type { Covering } from "@/core/lens/covering";
import type { LensPart } from "@/core/lens/parts";
import type { ElementRecord } from "@/core/study";
import { lensNames } from "./elements";
import { frequency } from "./format";

/** What a part is called: by the elements that are heard through it, else by what the lens calls it. */
export function coveringName(part: LensPart, elements: readonly ElementRecord[]): string {
  const own = elements.filter(({ lens, state }) => lens === part && state !== "left out");
  return own.length === 1 ? own[0]!.name : lensNames[part];
}

/** @returns what stands above it, and how far, in one sentence each. */
export function coveringWords(
  { by, fromHz, toHz, reference, version }: Covering,
  elements: readonly ElementRecord[],
): { title: string; detail: string } {
  const size = (decibels: number) => `${Math.abs(decibels).toFixed(0)} dB`;
  const name = coveringName(by, elements);
  const range = `${toHz < 1000 ? Math.round(fromHz) : frequency(fromHz)}–${frequency(toHz)}`;
  return {
    title: `${name} ${size(version)} above it at ${range}`,
    detail: `${size(reference)} ${reference < 0 ? "below" : "above"} it in the reference.`,
  };
}

/** Stems held against a mix that was mastered otherwise, whole and with one of them missing. */
import { analyse } from "@/core/analysis/analyse";
import { applyBiquad, designBiquad } from "@/core/dsp/biquad";
import { loadFft } from "@/core/dsp/fft";
import { gridOf } from "@/core/grid/correction";
import { heardIn, keptOf, lensParts, lift, partSpectrogram } from "@/core/lens";
import { isPresenceTold } from "@/core/lens/presence";
import { restOfTrack, stemSum, type Passage } from "@/core/stems";
import { barStarts } from "@/core/study";
import { stereo } from "@/core/testing/signals";
import { renderRate, type StereoTrack } from "@/demo/render";
import { measuredPieces, type PartedPiece } from "../material/parts";
import { energyOf, sumOfTracks } from "../material/tracks";
import { limit } from "../material/treatment";
import { quantile, table } from "../tables";
import { thinnedCount, type PartOptions, type Sections } from "./part";

const piecesOfOthers = 6;
const stylesUsed = 8;
const seconds = 32;
/** Parts softer than that beside the whole are not left out: nobody hears them. */
const softest = 1e-3;

const passage =
  (track: StereoTrack): Passage =>
  (from, to) =>
    Promise.resolve([track[0].subarray(from, to), track[1].subarray(from, to)]);

interface Case {
  source: PartedPiece["source"];
  /** Whether the part that is left out stands free enough to be named; null where none is left out. */
  isTold: boolean | null;
  restDb: number;
  /** Whether the first that is named is the one that is left out, and how many others are. */
  isNamed: boolean;
  others: number;
}

async function casesOf({ source, parts: all }: PartedPiece): Promise<Case[]> {
  const names = lensParts.filter((part) => all[part]);
  const cut = (track: StereoTrack): StereoTrack => [
    track[0].slice(0, seconds * renderRate),
    track[1].slice(0, seconds * renderRate),
  ];
  const parts = names.map((part) => cut(all[part]!));
  const mix = sumOfTracks(parts);
  const power = energyOf(mix);
  for (const samples of mix) applyBiquad(designBiquad("highShelf", renderRate, 4000, 0.7, 3), samples);
  limit(mix, 5, 0.08);
  const { analysis } = await analyse(stereo(mix[0], mix[1], renderRate));
  const heard = heardIn(analysis);
  const lifted = keptOf(lift(mix, renderRate, heard), renderRate, heard);
  const grid = gridOf(analysis.grid, analysis.durationSeconds, {}, null);
  const starts = grid ? barStarts(grid) : Array.from({ length: seconds / 2 + 1 }, (_, i) => 2 * i);
  const whole = partSpectrogram(mix, renderRate);
  const sumOf = async (left: number) => {
    const stems = parts.filter((_, k) => k !== left);
    const { rest } = await restOfTrack(mix[0].length, renderRate, passage(mix), stems.map(passage));
    // Several elements are lifted out as music: a stem of one does not hold the others.
    const held = names.filter((part, k) => k !== left && (part !== "music" || left === -1));
    return stemSum(partSpectrogram(rest, renderRate), whole, lifted, starts, held);
  };
  const complete = await sumOf(-1);
  const cases: Case[] = [
    {
      source,
      isTold: null,
      restDb: complete.restDb,
      isNamed: complete.missing.length === 0,
      others: complete.missing.length,
    },
  ];
  for (const [left, part] of names.entries()) {
    if (energyOf(parts[left]!) < softest * power) continue;
    const { restDb, missing } = await sumOf(left);
    cases.push({
      source,
      isTold: isPresenceTold(lifted.free[part]),
      restDb,
      isNamed: missing[0]?.part === part,
      others: missing.filter((own) => own.part !== part).length,
    });
  }
  return cases;
}

export async function stemSections({ styles, seeds, oneIn }: PartOptions): Promise<Sections> {
  await loadFft();
  const makers = await measuredPieces(
    styles.slice(0, thinnedCount(stylesUsed, oneIn)),
    seeds[0]!,
    thinnedCount(piecesOfOthers, oneIn),
  );
  const cases: Case[] = [];
  for (const make of makers) cases.push(...(await casesOf(await make())));
  const rows = (["own", "tracker", "midi"] as const).map((source) => {
    const own = cases.filter((one) => one.source === source);
    const complete = own.filter(({ isTold }) => isTold === null);
    const lacking = own.filter(({ isTold }) => isTold !== null);
    const told = lacking.filter(({ isTold }) => isTold);
    const named = (some: readonly Case[]) =>
      `${some.filter(({ isNamed }) => isNamed).length} of ${some.length}`;
    return [
      source,
      named(complete),
      quantile(
        complete.map(({ restDb }) => restDb),
        0.5,
      ).toFixed(1),
      named(lacking),
      named(told),
      String(lacking.reduce((sum, { others }) => sum + others, 0)),
    ];
  });
  return {
    "Stems and their track": `The parts of ${makers.length} mixes of ${seconds} s as stems of a mix with a shelf of 3 dB and 5 dB of limiting (pieces as in “The lens”; no source for a target): all of them, of which nothing is to be called missing, and each one left out in turn, which is to be named first; the same of those that stand free enough to be named, and how often others are named besides.\n\n${table(
      [
        "Source",
        "Complete, nothing missing",
        "What is left, dB",
        "One left out, named",
        "Standing free, named",
        "Others named",
      ],
      rows,
    )}`,
  };
}

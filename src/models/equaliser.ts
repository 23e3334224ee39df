/** Regions of the gap in the trade's words, equaliser moves in sentences, and what they are worth. */
import {
  equalised,
  fitMoves,
  fitResolution,
  hasGain,
  responseOf,
  type EqualiserMove,
  type KeptMove,
} from "@/core/equaliser";
import { measureRules, scoreOf } from "@/core/match";
import { bands, type BandGap, type BandsPerOctave } from "@/core/tone";
import { fixed, frequency, nominalFrequency } from "./format";
import { spectrumCurve, type ComparedSpectra } from "./spectra";

/** Regions of the spectrum as the trade speaks of them; edges in Hz are those of octave and third-octave bands. */
const regions = [
  { from: 20, to: 63, more: "rumbling", less: "light underneath" },
  { from: 63, to: 125, more: "boomy", less: "thin" },
  { from: 125, to: 250, more: "thick", less: "lean" },
  { from: 250, to: 500, more: "muddy", less: "hollow" },
  { from: 500, to: 1000, more: "boxy", less: "scooped" },
  { from: 1000, to: 2000, more: "honky", less: "distant" },
  { from: 2000, to: 4000, more: "harsh", less: "dull" },
  { from: 4000, to: 8000, more: "edgy", less: "soft, without bite" },
  { from: 8000, to: 20000, more: "bright", less: "closed, without air" },
] as const;

export interface RegionWords {
  range: string;
  fromHz: number;
  toHz: number;
  /** Weighted mean, dB. */
  gap: number;
  /** Whether the mean lies beyond what is noticed. */
  isHeard: boolean;
  words: string;
}

/** The gap region by region, with what the trade calls it. */
export function regionsInWords(curve: readonly BandGap[], tolerance: number): RegionWords[] {
  return regions.flatMap(({ from, to, more, less }) => {
    const own = curve.filter(({ centre, weight }) => centre >= from && centre < to && weight > 0);
    const weight = own.reduce((sum, band) => sum + band.weight, 0);
    if (weight === 0) return [];
    const gap = own.reduce((sum, band) => sum + band.weight * band.gap, 0) / weight;
    const isHeard = Math.abs(gap) > tolerance;
    return [
      {
        range: `${nominalFrequency(from)} – ${nominalFrequency(to)}`,
        fromHz: from,
        toHz: to,
        gap,
        isHeard,
        words: isHeard ? (gap > 0 ? more : less) : "matches",
      },
    ];
  });
}

const regionAt = (hertz: number) => regions.find(({ from, to }) => hertz >= from && hertz < to);

/** What a move does, as people say it: `Cut 2.9 dB at 310 Hz`. */
export function moveTitle({ type, hz, gainDb }: EqualiserMove): string {
  const size = `${fixed(Math.abs(gainDb))} dB`;
  const verb = gainDb < 0 ? "Cut" : "Add";
  switch (type) {
    case "lowCut":
      return `Low cut at ${frequency(hz)}`;
    case "highCut":
      return `High cut at ${frequency(hz)}`;
    case "lowShelf":
      return `${verb} ${size} below ${frequency(hz)}`;
    case "highShelf":
      return `${verb} ${size} above ${frequency(hz)}`;
    case "peak":
      return `${verb} ${size} at ${frequency(hz)}`;
  }
}

/** Why, in the trade's words, and how wide. */
export function moveDetail({ type, hz, gainDb, q }: EqualiserMove): string {
  const region = regionAt(hz);
  const why = region ? (gainDb < 0 || !hasGain(type) ? region.more : region.less) : "";
  const how =
    type === "peak"
      ? `${q < 0.9 ? "wide" : q > 3 ? "narrow" : "medium"}, Q ${fixed(q, q < 10 ? 1 : 0)}`
      : hasGain(type)
        ? "shelf"
        : "12 dB an octave";
  return why ? `${how}; yours is ${why} here` : how;
}

export const moveTypeNames: Record<EqualiserMove["type"], string> = {
  lowCut: "low cut",
  lowShelf: "low shelf",
  peak: "peak",
  highShelf: "high shelf",
  highCut: "high cut",
};

/** The moves that bring the version nearest. */
export function suggestedMoves(spectra: ComparedSpectra, sampleRate: number): KeptMove[] {
  return fitMoves(spectrumCurve(spectra, "whole", fitResolution), sampleRate).map((move) => ({
    ...move,
    on: true,
  }));
}

/** Resolution of the gap that counts in the match. */
const scoredResolution = 3;

export interface MovesWorth {
  /** Root-mean-square gap without and with the moves that are on, dB. */
  before: number;
  after: number;
  /** Score of the tone without and with them. */
  scoreBefore: number;
  scoreAfter: number;
  /** dB of gap that would come back without each move; 0 for moves that are off. */
  each: number[];
  /** dB by which the version is turned up after the moves to stay as loud. */
  gainDb: number;
}

/** What moves are worth, all together and each. */
export function movesWorth(
  spectra: ComparedSpectra,
  moves: readonly KeptMove[],
  sampleRate: number,
): MovesWorth {
  const curve = spectrumCurve(spectra, "whole", scoredResolution);
  const on = moves.filter((move) => move.on);
  const left = (own: readonly EqualiserMove[]) => equalised(curve, own, scoredResolution, sampleRate);
  const before = left([]).left;
  const { left: after, gainDb } = left(on);
  const rule = measureRules.tone;
  return {
    before,
    after,
    scoreBefore: scoreOf(before, rule),
    scoreAfter: scoreOf(after, rule),
    each: moves.map((move) => (move.on ? left(on.filter((own) => own !== move)).left - after : 0)),
    gainDb,
  };
}

/** What is left of a curve with moves, and what the moves do, in each of its bands. */
export function curveWithMoves(
  curve: readonly BandGap[],
  moves: readonly KeptMove[],
  perOctave: BandsPerOctave,
  sampleRate: number,
): { left: number[]; response: number[] } {
  const on = moves.filter((move) => move.on);
  const { gap, gainDb } = equalised(curve, on, perOctave, sampleRate);
  const middles = bands(perOctave).map(({ centre }) => centre);
  return {
    left: Array.from(gap),
    response: Array.from(responseOf(on, middles, sampleRate), (db) => db + gainDb),
  };
}

/** Moves as a table: CSV for programs, text for people. */
export function movesTable(moves: readonly KeptMove[], form: "csv" | "text"): string {
  const on = moves.filter((move) => move.on);
  if (form === "csv") {
    const rows = on.map((move) =>
      [
        moveTypeNames[move.type],
        move.hz,
        hasGain(move.type) ? move.gainDb : "",
        move.type === "peak" ? move.q : "",
      ].join(","),
    );
    return ["type,frequency Hz,gain dB,Q", ...rows, ""].join("\r\n");
  }
  const lines = on.map(
    (move, i) =>
      `${i + 1}. ${moveTitle(move)} (${moveTypeNames[move.type]}${move.type === "peak" ? `, Q ${fixed(move.q, 2)}` : ""})`,
  );
  return [...lines, ""].join("\n");
}

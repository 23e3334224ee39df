/**
 * What stands behind the monitor filter of a side: an equaliser on the version, and a narrow band
 * when a single frequency is listened to. Browser nodes of the same formulas as the moves.
 */
import { hasGain, plainQ, type EqualiserMove, type MoveType } from "@/core/equaliser/filters";
import { decibelsToAmplitude } from "@/core/units";
import type { Chain } from "./monitorFilter";
import type { Side } from "./timeline";

/** Moves that the version is heard through, and the gain that keeps it as loud. */
export interface HeardEqualiser {
  moves: readonly EqualiserMove[];
  gainDb: number;
}

export interface Inserts {
  equaliser: HeardEqualiser | null;
  /** Only a narrow band around this frequency is heard; null for everything. */
  narrowHz: number | null;
}

export const noInserts: Inserts = { equaliser: null, narrowHz: null };

const nodeTypes: Record<MoveType, BiquadFilterType> = {
  lowCut: "highpass",
  lowShelf: "lowshelf",
  peak: "peaking",
  highShelf: "highshelf",
  highCut: "lowpass",
};
/** About a third of an octave, twice in a row. */
const narrowQ = 5;
/** A narrow band is much softer than the whole. */
const narrowGainDb = 6;

function filterNode(context: BaseAudioContext, { type, hz, gainDb, q }: EqualiserMove): BiquadFilterNode {
  const node = context.createBiquadFilter();
  node.type = nodeTypes[type];
  node.frequency.value = hz;
  node.gain.value = gainDb;
  // The browser takes the quality factor of its cuts in decibels, and shelves have none.
  node.Q.value = hasGain(type) ? q : 20 * Math.log10(plainQ);
  return node;
}

export function insertsFor(context: BaseAudioContext, side: Side, { equaliser, narrowHz }: Inserts): Chain {
  const input = context.createGain();
  const output = context.createGain();
  const nodes: AudioNode[] = [];
  let gainDb = 0;
  if (equaliser && side === "version") {
    nodes.push(...equaliser.moves.map((move) => filterNode(context, move)));
    gainDb += equaliser.gainDb;
  }
  if (narrowHz !== null) {
    for (let i = 0; i < 2; i++) {
      const band = context.createBiquadFilter();
      band.type = "bandpass";
      band.frequency.value = narrowHz;
      band.Q.value = narrowQ;
      nodes.push(band);
    }
    gainDb += narrowGainDb;
  }
  input.gain.value = decibelsToAmplitude(gainDb);
  [...nodes, output].reduce<AudioNode>((before, node) => {
    before.connect(node);
    return node;
  }, input);
  return { input, output };
}

/** The bass line: whether its notes are found, at their pitch and in their octave, by source. */
import { analyse } from "@/core/analysis/analyse";
import type { Signal } from "@/core/audio/signal";
import { bassPieces } from "../material/bassPieces";
import { mean, table } from "../tables";
import { firstSeed, type PartOptions, type Sections } from "./part";

const within = 0.05;
interface Row {
  source: string;
  name: string;
  onset: number;
  pitch: number;
  octave: number;
}

async function measured(
  source: string,
  name: string,
  signal: Signal,
  truth: readonly { time: number; pitch: number }[],
): Promise<Row> {
  const { analysis } = await analyse(signal);
  const pairs = (isRight: (midi: number, pitch: number) => boolean) => {
    const used = new Set<number>();
    let count = 0;
    for (const { time, pitch } of truth) {
      const found = analysis.bass.findIndex(
        (own, i) => !used.has(i) && Math.abs(own.start - time) <= within && isRight(own.midi, pitch),
      );
      if (found < 0) continue;
      used.add(found);
      count++;
    }
    return count;
  };
  const f = (count: number) => (2 * count) / (truth.length + analysis.bass.length);
  const right = pairs((midi, pitch) => midi === pitch);
  const inAnyOctave = pairs((midi, pitch) => (midi - pitch) % 12 === 0);
  const row = {
    source,
    name,
    onset: f(pairs(() => true)),
    pitch: f(right),
    octave: inAnyOctave > 0 ? right / inAnyOctave : NaN,
  };
  console.error(
    `${source} ${name}: ${row.onset.toFixed(2)} ${row.pitch.toFixed(2)} ${row.octave.toFixed(2)}`,
  );
  return row;
}

export async function lowEndSections({ styles }: PartOptions): Promise<Sections> {
  const known: Row[] = [];
  for await (const { source, name, signal, notes } of bassPieces(styles, firstSeed, "measure"))
    known.push(await measured(source, name, signal, notes));
  const sources = [...new Set(known.map(({ source }) => source))];
  return {
    "Bass line": `Notes of the bass part, where no other part sounds beneath it; songs and pieces that nothing was fitted on. F-measure of beginnings at ±50 ms; the same with the right pitch; of notes with the right name, the share in the right octave. Means over pieces with at least 20 notes. Targets: 0.85 with pitch, 0.95 in the right octave.\n\n${table(
      ["source", "pieces", "beginnings", "with pitch", "right octave"],
      sources.map((source) => {
        const own = known.filter((row) => row.source === source);
        return [
          source,
          own.length,
          mean(own.map(({ onset }) => onset)),
          mean(own.map(({ pitch }) => pitch)),
          mean(own.map(({ octave }) => octave).filter((value) => !Number.isNaN(value))),
        ];
      }),
    )}`,
  };
}

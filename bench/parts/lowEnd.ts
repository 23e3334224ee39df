/** The bass line: whether its notes are found, at their pitch and in their octave, by source. */
import { analyse } from "@/core/analysis/analyse";
import type { Signal } from "@/core/audio/signal";
import { bassPieces } from "../material/bassPieces";
import { songWithSlides, type SlidBass } from "../material/slidBass";
import { mean, table } from "../tables";
import { firstSeed, type PartOptions, type Sections } from "./part";

const within = 0.05;
interface Row {
  source: string;
  name: string;
  onset: number;
  pitch: number;
  octave: number;
  /** Notes that are said to slide, of a hundred. */
  sliding: number;
}

/** How near a slide must be found in time and in semitones. */
const slideWithin = { seconds: 0.1, semitones: 0.7 } as const;

interface SlideRow {
  slides: number;
  found: number;
  rightSize: number;
  notes: number;
  /** Notes that are said to slide where none does. */
  false: number;
}

async function slidesOf({ signal, slides }: SlidBass): Promise<SlideRow> {
  const { bass } = (await analyse(signal)).analysis;
  const told = bass.flatMap(({ slide }) => (slide ? [slide] : []));
  const isNear = (a: { from: number; to: number }, b: { from: number; to: number }) =>
    a.from < b.to + slideWithin.seconds && b.from < a.to + slideWithin.seconds;
  const found = slides.flatMap((own) => {
    const there = told.find((slide) => isNear(own, slide));
    return there ? [Math.abs(there.after - there.before - own.by) <= slideWithin.semitones] : [];
  });
  return {
    slides: slides.length,
    found: found.length,
    rightSize: found.filter(Boolean).length,
    notes: bass.length,
    false: told.filter((slide) => !slides.some((own) => isNear(own, slide))).length,
  };
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
    sliding: (100 * analysis.bass.filter(({ slide }) => slide).length) / Math.max(1, analysis.bass.length),
  };
  console.error(
    `${source} ${name}: ${row.onset.toFixed(2)} ${row.pitch.toFixed(2)} ${row.octave.toFixed(2)}`,
  );
  return row;
}

export async function lowEndSections({ styles, oneIn }: PartOptions): Promise<Sections> {
  const known: Row[] = [];
  for await (const { source, name, signal, notes } of bassPieces(styles, firstSeed, "measure", oneIn))
    known.push(await measured(source, name, signal, notes));
  const slid: SlideRow[] = [];
  for (const style of styles) {
    const song = await songWithSlides(style, firstSeed);
    if (!song || song.slides.length === 0) continue;
    slid.push(await slidesOf(song));
    console.error(`slides, ${style}: ${JSON.stringify(slid.at(-1))}`);
  }
  const sum = (of: (row: SlideRow) => number) => slid.reduce((all, row) => all + of(row), 0);
  const sources = [...new Set(known.map(({ source }) => source))];
  return {
    "Bass line": `Notes of the bass part, where no other part sounds beneath it; songs and pieces that nothing was fitted on. F-measure of beginnings at ±50 ms; the same with the right pitch; of notes with the right name, the share in the right octave. Means over pieces with at least 20 notes. Targets: 0.85 with pitch, 0.95 in the right octave.\n\n${table(
      ["source", "pieces", "beginnings", "with pitch", "right octave", "said to slide, of 100"],
      sources.map((source) => {
        const own = known.filter((row) => row.source === source);
        return [
          source,
          own.length,
          mean(own.map(({ onset }) => onset)),
          mean(own.map(({ pitch }) => pitch)),
          mean(own.map(({ octave }) => octave).filter((value) => !Number.isNaN(value))),
          mean(own.map(({ sliding }) => sliding)),
        ];
      }),
    )}\n\nNext to none of these notes slide. In ${slid.length} own songs whose bass is played anew by a synthesised one, ${sum((row) => row.slides)} notes slide by 2 to 12 semitones in 80 to 200 ms: found within ${slideWithin.seconds * 1000} ms are ${sum((row) => row.found)} (${(
      sum((row) => row.found) /
      Math.max(
        1,
        sum((row) => row.slides),
      )
    ).toFixed(
      2,
    )}), by the right interval ${sum((row) => row.rightSize)} of them; of ${sum((row) => row.notes)} notes ${sum((row) => row.false)} are said to slide that do not.`,
  };
}

/**
 * Development songs: one writer a style. A seed chooses tempo, key, chords, patterns, sounds and
 * how loosely it is played, so that no two songs of a style are alike.
 */
import { chance } from "../random";
import { startSong, type SectionPlan, type Song } from "../song";
import { assorted } from "./assortedStyle";
import { liveBand, popRock, shuffle, slowSoul, synthPop, waltz } from "./bandStyles";
import { boomBap, drill, reggaeton, trap } from "./beatStyles";
import { discoFunk, drumAndBass, house, speedGarage, techno } from "./clubStyles";
import { majorLoops, minorLoops, type StylePlan } from "./stylePlan";

const plans: Record<string, StylePlan> = {
  house,
  "disco-funk": discoFunk,
  "drum-and-bass": drumAndBass,
  "boom-bap": boomBap,
  drill,
  "speed garage": speedGarage,
  "pop-rock": popRock,
  shuffle,
  waltz,
  "synth-pop": synthPop,
  techno,
  trap,
  reggaeton,
  "slow soul": slowSoul,
  assorted,
  "live band": liveBand,
};

/** Names of the styles that development songs are written in. */
export const styles = Object.keys(plans);

const tonics = ["C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B"];

/**
 * Writes the development song of a style that belongs to a seed.
 *
 * @param change makes the same notes at another tempo or in another key.
 */
export function styleSong(
  style: string,
  seed: number,
  change: { tempoRatio?: number; semitones?: number } = {},
): Song {
  const plan = plans[style];
  if (!plan) throw new Error(`Unknown style ${style}; known are ${styles.join(", ")}`);
  const c = chance(seed * 7919 + styles.indexOf(style) * 104729);
  const mode = plan.mode ?? c.pick(["major", "minor"] as const);
  const exact = c.between(...plan.bpm);
  const [looseSeconds, looseVelocity] = plan.looseness ?? [0.002, 0.05];
  const wholeBpm = c.next() < 0.7;
  const bpm = wholeBpm ? Math.round(exact) : Math.round(exact * 100) / 100;
  const tonic = tonics.indexOf(c.pick(tonics));
  const song = startSong({
    title: `${style} ${seed}`,
    artist: "Development",
    style,
    seed,
    // Most produced music sits on whole tempi; some was recorded or pitched to anything.
    bpm: Math.round(bpm * (change.tempoRatio ?? 1) * 100) / 100,
    beatsPerBar: plan.beatsPerBar ?? 4,
    tonic: tonics[(tonic + (change.semitones ?? 0) + 12) % 12]!,
    mode,
    swing: plan.swing
      ? { of: plan.swing.of, percent: Math.round(c.between(...plan.swing.percent) * 10) / 10 }
      : { of: 16, percent: 50 },
    sections: plan.sections.map(([name, bars]): SectionPlan => ({ name, bars })),
    leadInSeconds: c.next() < 0.3 ? 0 : Math.round(c.between(0, 1.5) * 1000) / 1000,
    drift: plan.drift ?? 0,
    looseness: { seconds: looseSeconds * c.between(0.5, 1.3), velocity: looseVelocity },
  });
  plan.write(song, c, c.pick(mode === "minor" ? minorLoops : majorLoops));
  return song;
}

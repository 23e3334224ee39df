/** How many moments of an arrangement are found, and how many that are found are there. */
import { analyse } from "@/core/analysis/analyse";
import { gridOf } from "@/core/grid/correction";
import { secondsAt } from "@/core/grid/grid";
import { momentKinds, type MomentKind } from "@/core/sections/moments";
import { decodeFile } from "@/server/decoding/decode";
import { momentSong } from "./momentSongs";

export interface CountedMoments {
  kind: MomentKind;
  written: number;
  found: number;
  right: number;
}

interface Timed {
  kind: MomentKind;
  start: number;
  end: number;
}

/** What rises or opens is known by where it ends, all else by where it begins. */
const byEnd: readonly MomentKind[] = ["riser", "filterOpening"];

/** Counts moments that are matched once each within a bar. */
export function matchMoments(
  truth: readonly Timed[],
  found: readonly Timed[],
  bar: number,
): CountedMoments[] {
  const used = new Set<Timed>();
  return momentKinds.map((kind) => {
    const own = found.filter((moment) => moment.kind === kind);
    const written = truth.filter((moment) => moment.kind === kind);
    const at = (moment: Timed) => (byEnd.includes(kind) ? moment.end : moment.start);
    let right = 0;
    for (const moment of written) {
      const match = own.find((other) => !used.has(other) && Math.abs(at(other) - at(moment)) <= 1.05 * bar);
      if (!match) continue;
      used.add(match);
      right++;
    }
    return { kind, written: written.length, found: own.length, right };
  });
}

export async function measureMoments(
  styles: readonly string[],
  seeds: readonly number[],
): Promise<CountedMoments[]> {
  const counts = momentKinds.map((kind): CountedMoments => ({ kind, written: 0, found: 0, right: 0 }));
  for (const style of styles) {
    for (const seed of seeds) {
      const song = await momentSong(style, seed);
      const decoded = await decodeFile(song.file);
      if (!decoded.ok) throw new Error(decoded.refusal.sentence);
      const { analysis } = await analyse(decoded.value.signal);
      const grid = gridOf(analysis.grid, analysis.durationSeconds);
      const { beats, tempo } = song.truth;
      const beat = (beats.at(-1)! - beats[0]!) / (beats.length - 1);
      const truth = song.moments.map(({ kind, startBeat, beats: length }) => ({
        kind,
        start: beats[0]! + startBeat * beat,
        end: beats[0]! + (startBeat + length) * beat,
      }));
      const found = grid
        ? (analysis.plan.form?.moments ?? []).map(({ kind, startBeat, endBeat }) => ({
            kind,
            start: secondsAt(grid, startBeat),
            end: secondsAt(grid, endBeat),
          }))
        : [];
      matchMoments(truth, found, beat * tempo.beatsPerBar).forEach((own, i) => {
        counts[i]!.written += own.written;
        counts[i]!.found += own.found;
        counts[i]!.right += own.right;
      });
    }
  }
  return counts;
}

/** Rows of the report, with one for all kinds. */
export function momentRows(counts: readonly CountedMoments[]): (string | number)[][] {
  const row = (name: string, own: readonly CountedMoments[]) => {
    const sum = (of: (c: CountedMoments) => number) => own.reduce((a, c) => a + of(c), 0);
    const [written, found, right] = [sum((c) => c.written), sum((c) => c.found), sum((c) => c.right)];
    return [
      name,
      written,
      found,
      right,
      written + found > 0 ? ((2 * right) / (written + found)).toFixed(3) : "–",
    ];
  };
  const names: Record<MomentKind, string> = {
    stop: "stop",
    riser: "riser",
    crash: "crash",
    drumsOut: "drums out",
    filterOpening: "filter opening",
  };
  return [...counts.map((own) => row(names[own.kind], [own])), row("**all**", counts)];
}

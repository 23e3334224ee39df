/** Sections of a track on its grid, what happens in them, and moments worth noting. */
import type { Grid } from "../grid/grid";
import type { Seconds } from "../units";
import { barProfile, type BarProfile, type ProfileCurves } from "./barProfile";
import { bestPhasedDivision } from "./boundaries";
import { boundaryModel } from "./boundaryModel";
import { presenceGroups, type FormEstimate } from "./formEstimate";
import { lettersOf, withHalvesJoined, type BarSpan } from "./similarity";
import { similarityModel } from "./similarityModel";
import { findMoments, type Moment } from "./moments";
import { suggestedNames } from "./names";
import { elementGroups, presenceOf } from "./presence";

const { max, min, round } = Math;

/** Bars this much under the loudest at either end are silence or the last sound dying away: dB. */
const silentBelow = 40;
/** Kinds of moments that are effects. */
const effects: readonly Moment["kind"][] = ["riser", "crash", "filterOpening"];

/** The bars from the first to the last that sound, as places of the profile. */
function soundingBars({ loudness, count }: BarProfile): BarSpan {
  let loudest = -90;
  for (const level of loudness) loudest = max(loudest, level);
  let from = 0;
  let to = count;
  while (from < to && loudness[from]! < loudest - silentBelow) from++;
  while (to > from && loudness[to - 1]! < loudest - silentBelow) to--;
  return [from, to];
}

/** Longest section that two neighbours of the same material make: bars. */
const longestJoined = 16;

/** Neighbours of the same material are one section, as long as that is not too long. */
function withNeighboursJoined(found: readonly BarSpan[], lettersFound: readonly string[]) {
  const places: BarSpan[] = [];
  const letters: string[] = [];
  found.forEach(([a, b], i) => {
    const last = places.at(-1);
    if (last && letters.at(-1) === lettersFound[i] && b - last[0] <= longestJoined) {
      places[places.length - 1] = [last[0], b];
    } else {
      places.push([a, b]);
      letters.push(lettersFound[i]!);
    }
  });
  return { places, letters };
}

const rounded = (value: number, digits: number) => round(value * 10 ** digits) / 10 ** digits;

function mean(rows: Float32Array | readonly number[], from: number, to: number): number {
  let sum = 0;
  for (let bar = from; bar < to; bar++) sum += rows[bar]!;
  return sum / max(1, to - from);
}

/** Sections, moments and bars of a track. */
export function estimateForm(grid: Grid, curves: ProfileCurves, durationSeconds: Seconds): FormEstimate {
  const profile = barProfile(grid, curves, durationSeconds);
  const { firstBar, count } = profile;
  const [from, to] = soundingBars(profile);
  const starts =
    to > from ? bestPhasedDivision(boundaryModel, profile, from, to).map((place) => from + place) : [];
  const found = withHalvesJoined(
    similarityModel,
    profile,
    longestJoined,
    starts.map((start, i): BarSpan => [start, starts[i + 1] ?? to]),
  );
  const { places, letters } = withNeighboursJoined(found, lettersOf(similarityModel, profile, found));
  const moments = findMoments(grid, profile, curves);
  const names = suggestedNames(
    places.map(([a, b], i) => {
      const { drums, bass } = presenceOf(profile, a, b);
      return {
        letter: letters[i]!,
        bars: b - a,
        loudness: mean(profile.loudness, a, b),
        drums,
        bass,
        rises: moments.some(
          ({ kind, startBeat, endBeat }) =>
            (kind === "riser" || kind === "filterOpening") &&
            startBeat / grid.beatsPerBar + 1 >= firstBar + a - 1 &&
            Math.abs(endBeat / grid.beatsPerBar + 1 - (firstBar + b)) <= 1,
        ),
      };
    }),
  );
  const each = (digits: number, rows: Float32Array) => Array.from(rows, (value) => rounded(value, digits));
  const presence = Object.fromEntries(
    presenceGroups.map((group) => [group, new Array<number>(count).fill(0)]),
  );
  for (let bar = 0; bar < count; bar++) {
    // Over two bars each way, within which a part may rest.
    const chances = presenceOf(profile, max(0, bar - 1), min(count, bar + 2));
    for (const group of elementGroups) presence[group]![bar] = rounded(chances[group], 2);
  }
  for (const { kind, startBeat, endBeat } of moments) {
    if (!effects.includes(kind)) continue;
    const first = Math.floor(startBeat / grid.beatsPerBar) + 1 - firstBar;
    const last = Math.ceil(endBeat / grid.beatsPerBar) - firstBar;
    for (let bar = max(0, first); bar <= min(count - 1, last); bar++) presence.effects![bar] = 1;
  }
  return {
    sections: places.map(([a, b], i) => ({
      firstBar: firstBar + a,
      lastBar: firstBar + b - 1,
      name: names[i]!,
      letter: letters[i]!,
    })),
    moments: moments.map((moment) => ({
      ...moment,
      startBeat: rounded(moment.startBeat, 3),
      endBeat: rounded(moment.endBeat, 3),
    })),
    bars: {
      firstBar,
      loudness: each(1, profile.loudness),
      brightness: each(0, profile.brightness),
      width: each(1, profile.width),
      density: each(0, profile.density),
      presence: presence as FormEstimate["bars"]["presence"],
    },
  };
}

/**
 * Fits where sections begin and which groups of elements play in a section, on what is heard in
 * development songs: `npm run fit:sections`.
 */
import { parseArgs } from "node:util";
import { gridOf } from "@/core/grid/correction";
import { barProfile } from "@/core/sections/barProfile";
import { boundaryFeatures } from "@/core/sections/boundaries";
import { similarityFeatures } from "@/core/sections/similarity";
import { elementGroups, presenceFeatures } from "@/core/sections/presence";
import { rolesIn } from "@/demo/truth";
import { styleSong } from "@/demo/songs/styles";
import { sectionSpans } from "@/demo/song";
import { sameBars } from "./coverage";
import { heardSongs } from "./heard";
import { fitAndWrite, printHeldOut, type Example } from "./logistic";
import { eventF } from "./metrics";
import type { DevelopmentSong } from "./songs";

const { values } = parseArgs({
  options: {
    seeds: { type: "string", default: "6" },
    /** Names of models, to fit some of them only. */
    only: { type: "string" },
    /** Leaves out how the models do on songs they were not fitted on. */
    quick: { type: "boolean", default: false },
  },
});
const seeds = Array.from({ length: Number(values.seeds) }, (_, i) => i + 1);

/** Sections are the same material where this share of their bars is the same. */
const sameMaterial = 0.75;

const boundaries: Example[] = [];
const likeness: Example[] = [];
const presence = new Map(elementGroups.map((group): [string, Example[]] => [group, []]));

/** Yes or no as a choice between something with features and nothing. */
const yesOrNo = ({ style, name }: DevelopmentSong, features: number[], yes: boolean): Example => ({
  source: style,
  group: name,
  name,
  candidates: [features, features.map(() => 0)],
  right: yes ? 0 : 1,
});

for await (const { song, analysis, curves } of heardSongs(seeds)) {
  const grid = gridOf(analysis.grid, analysis.durationSeconds);
  // Bars that are counted wrongly teach nothing about sections.
  if (!grid || eventF(song.truth.downbeats, analysis.grid?.downbeats ?? []) < 0.8) continue;
  const profile = barProfile(
    grid,
    {
      kWeightedMeanSquares: curves.levels.kWeightedMeanSquares,
      onsets: curves.onsets,
      pitches: curves.pitches,
      bands: curves.bands,
    },
    analysis.durationSeconds,
  );
  const nearest = (time: number) =>
    profile.starts.reduce(
      (best, t, i) => (Math.abs(t - time) < Math.abs(profile.starts[best]! - time) ? i : best),
      0,
    );
  const begins = new Set(song.truth.sections.map(({ start }) => nearest(start)));
  boundaryFeatures(profile).forEach((features, i) => {
    boundaries.push(yesOrNo(song, features, begins.has(i + 1)));
  });
  const seed = Number(song.name.split("-").at(-1));
  const written = styleSong(song.style, seed);
  const roles = rolesIn(written);
  const same = sameBars(written);
  const bounds = sectionSpans(written).map(({ startBeat, beats }) => ({
    from: startBeat / written.beatsPerBar,
    bars: beats / written.beatsPerBar,
  }));
  const places = song.truth.sections.map(({ start, end }) => [nearest(start), nearest(end)] as const);
  // The same material where most bars have the very same notes, whatever the sections are called.
  places.forEach((a, i) => {
    places.slice(i + 1).forEach((b, k) => {
      const [first, second] = [bounds[i]!, bounds[i + 1 + k]!];
      const bars = Math.min(first.bars, second.bars);
      let alike = 0;
      for (let bar = 0; bar < bars; bar++) {
        if (same[first.from + bar] === same[second.from + bar]) alike++;
      }
      likeness.push(yesOrNo(song, similarityFeatures(profile, a, b), alike >= sameMaterial * bars));
    });
  });
  song.truth.sections.forEach(({ start, end }, s) => {
    const features = presenceFeatures(profile, nearest(start), nearest(end));
    for (const group of elementGroups) {
      presence.get(group)!.push(yesOrNo(song, features, roles[s]!.includes(group)));
    }
  });
}
const command = "fit:sections";
const fittings = [
  {
    examples: boundaries,
    name: "boundaryModel",
    file: "src/core/sections/boundaryModel.ts",
    command,
    about: "`boundaryFeatures`",
    penalty: 0.003,
  },
  {
    examples: likeness,
    name: "similarityModel",
    file: "src/core/sections/similarityModel.ts",
    command,
    about: "`likenessFeatures`",
    penalty: 0.003,
  },
  ...elementGroups.map((group) => ({
    examples: presence.get(group)!,
    name: `${group}Model`,
    file: `src/core/sections/${group}Model.ts`,
    command,
    about: "`presenceFeatures`",
    penalty: 0.01,
  })),
];
const wanted = values.only?.split(",");
for (const fitting of fittings.filter(({ name }) => !wanted || wanted.includes(name))) {
  await fitAndWrite(fitting);
  if (!values.quick) printHeldOut(fitting);
}

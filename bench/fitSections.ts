/**
 * Fits where sections begin and which groups of elements play in a section, on what is heard in
 * development songs: `npm run fit:sections`.
 */
import { parseArgs } from "node:util";
import { gridOf } from "@/core/grid/correction";
import { barProfile } from "@/core/sections/barProfile";
import { boundaryFeatures } from "@/core/sections/boundaries";
import { likenessFeatures } from "@/core/sections/likeness";
import { elementGroups, presenceFeatures } from "@/core/sections/presence";
import { rolesIn } from "@/demo/truth";
import { styleSong } from "@/demo/songs/styles";
import { heardSongs } from "./heard";
import { fitAndWrite, printHeldOut, type Example } from "./logistic";
import { eventF } from "./metrics";

const { values } = parseArgs({ options: { seeds: { type: "string", default: "6" } } });
const seeds = Array.from({ length: Number(values.seeds) }, (_, i) => i + 1);

const boundaries: Example[] = [];
const likeness: Example[] = [];
const presence = new Map(elementGroups.map((group): [string, Example[]] => [group, []]));

/** Yes or no as a choice between something with features and nothing. */
const yesOrNo = (style: string, features: number[], yes: boolean): Example => ({
  style,
  candidates: [features, features.map(() => 0)],
  right: yes ? 0 : 1,
});

for await (const { song, analysis, curves } of heardSongs(seeds)) {
  const grid = gridOf(analysis.grid, analysis.durationSeconds);
  // Bars that are counted wrongly teach nothing about sections.
  if (!grid || eventF(song.truth.downbeats, analysis.grid?.downbeats ?? []) < 0.8) continue;
  const profile = barProfile(
    grid,
    { energies: curves.levels.energies, onsets: curves.onsets, pitches: curves.pitches, bands: curves.bands },
    analysis.durationSeconds,
  );
  const nearest = (time: number) =>
    profile.starts.reduce(
      (best, t, i) => (Math.abs(t - time) < Math.abs(profile.starts[best]! - time) ? i : best),
      0,
    );
  const begins = new Set(song.truth.sections.map(({ start }) => nearest(start)));
  boundaryFeatures(profile).forEach((features, i) => {
    boundaries.push(yesOrNo(song.style, features, begins.has(i + 1)));
  });
  const places = song.truth.sections.map(({ start, end, label }) => ({
    section: [nearest(start), nearest(end)] as const,
    material: label.replace(/ \d+$/, ""),
  }));
  places.forEach((a, i) => {
    for (const b of places.slice(i + 1)) {
      const features = likenessFeatures(profile, a.section, b.section);
      likeness.push(yesOrNo(song.style, features, a.material === b.material));
    }
  });
  const seed = Number(song.name.split("-").at(-1));
  const roles = rolesIn(styleSong(song.style, seed));
  song.truth.sections.forEach(({ start, end }, s) => {
    const features = presenceFeatures(profile, nearest(start), nearest(end));
    for (const group of elementGroups) {
      presence.get(group)!.push(yesOrNo(song.style, features, roles[s]!.includes(group)));
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
    name: "likenessModel",
    file: "src/core/sections/likenessModel.ts",
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
for (const fitting of fittings) {
  await fitAndWrite(fitting);
  printHeldOut(fitting);
}

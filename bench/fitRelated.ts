/** Fits how likely two tracks are to have to do with each other: `npm run fit:related`. */
import { appendFile } from "node:fs/promises";
import { fitAndWrite, printHeldOut, type Example } from "./logistic";
import { ofTheStyle, pairs } from "./related";

/** Another song of a style may go through the same chords over the same drums: how much one counts. */
const alikeWeight = 0.15;

const examples: Example[] = [];
for await (const { source, half, isRelated, evidence, kind, name } of pairs({
  only: "fit",
  seeds: [1],
  mostRecordings: 32,
  strangers: 8,
})) {
  if (process.env.LOG)
    await appendFile(
      process.env.LOG,
      `${JSON.stringify({ source, half, isRelated, kind, name, evidence })}\n`,
    );
  if (!evidence) continue;
  // Yes or no as a choice between something with features and nothing.
  examples.push({
    source,
    group: name,
    name,
    candidates: [evidence, evidence.map(() => 0)],
    right: isRelated ? 0 : 1,
    weight: kind === ofTheStyle ? alikeWeight : 1,
  });
}
const fitting = {
  examples,
  name: "relatedModel",
  file: "src/core/align/relatedModel.ts",
  command: "fit:related",
  about: "`relationFeatures`",
  penalty: 0.002,
};
printHeldOut(fitting);
await fitAndWrite(fitting);

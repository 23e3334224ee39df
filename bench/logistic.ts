/** Fits the logistic models by which the core chooses between candidates. */
import { writeFile } from "node:fs/promises";
import path from "node:path";
import { probabilities, type ChoiceModel } from "@/core/grid/choice";

/** One song: the features of its candidates and which of them is right. */
export interface Example {
  /** Examples of one group are held out together. */
  group: string;
  source: string;
  name: string;
  candidates: number[][];
  right: number;
  /** How much it counts; 1 where left out. */
  weight?: number;
}

/** How much each example counts, 1 in the mean: sources all as much, though they have more examples or fewer. */
function weightsOf(examples: readonly Example[]): number[] {
  const counts = new Map<string, number>();
  for (const { source } of examples) counts.set(source, (counts.get(source) ?? 0) + 1);
  return examples.map(({ source }) => examples.length / counts.size / counts.get(source)!);
}

/** Multinomial logistic regression with a quadratic penalty, by gradient descent. */
export function fit({
  examples,
  penalty,
  evenly,
  rounds = 1200,
}: Pick<Fitting, "examples" | "penalty" | "evenly" | "rounds">): ChoiceModel {
  const counts = evenly ? weightsOf(examples) : examples.map(({ weight }) => weight ?? 1);
  const all = examples.flatMap((e) => e.candidates);
  const size = all[0]!.length;
  const means = Array.from({ length: size }, (_, i) => all.reduce((a, f) => a + f[i]!, 0) / all.length);
  const deviations = means.map(
    (mean, i) => Math.sqrt(all.reduce((a, f) => a + (f[i]! - mean) ** 2, 0) / all.length) || 1,
  );
  const scaled = examples.map((e, n) => ({
    right: e.right,
    counts: counts[n]!,
    rows: e.candidates.map((row) => Float64Array.from(row, (f, i) => (f - means[i]!) / deviations[i]!)),
  }));
  const weights = new Array<number>(size).fill(0);
  for (let round = 0; round < rounds; round++) {
    const gradient = weights.map((w) => penalty * w);
    for (const { rows, right, counts: own } of scaled) {
      const scores = rows.map((row) => row.reduce((sum, f, i) => sum + weights[i]! * f, 0));
      const most = Math.max(...scores);
      const odds = scores.map((score) => Math.exp(score - most));
      const total = odds.reduce((a, b) => a + b, 0);
      rows.forEach((row, r) => {
        const error = (own * (odds[r]! / total - (r === right ? 1 : 0))) / scaled.length;
        for (let i = 0; i < size; i++) gradient[i]! += error * row[i]!;
      });
    }
    for (let i = 0; i < size; i++) weights[i]! -= 0.3 * gradient[i]!;
  }
  return { weights, means, deviations };
}

const isRight = (model: ChoiceModel, { candidates, right }: Example): boolean => {
  const shares = probabilities(model, candidates);
  return shares.indexOf(Math.max(...shares)) === right;
};

/** One model: what it is fitted on and where it is written. */
export interface Fitting {
  examples: readonly Example[];
  name: string;
  file: string;
  command: string;
  about: string;
  penalty: number;
  /** Whether every source counts as much as every other. */
  evenly?: boolean;
  /** Steps of the descent; 1200 where left out. */
  rounds?: number;
}

/** Fits a model, writes it, and prints how many of the songs it was fitted on it gets right. */
export async function fitAndWrite(fitting: Fitting): Promise<void> {
  const { examples, name, file, command, about } = fitting;
  const model = fit(fitting);
  const list = (values: readonly number[]) => `[${values.map((v) => v.toFixed(4)).join(", ")}]`;
  await writeFile(
    path.join(process.cwd(), file),
    `/** Fitted by \`npm run ${command}\`; one entry a feature of ${about}. Not edited by hand. */
// oxfmt-ignore
export const ${name} = {
  weights: ${list(model.weights)},
  means: ${list(model.means)},
  deviations: ${list(model.deviations)},
};
`,
  );
  const right = examples.filter((e) => isRight(model, e)).length;
  console.log(`${name}, fitted on all: ${right} of ${examples.length}`);
}

const shareRight = (model: ChoiceModel, own: readonly Example[]): string => {
  const right = own.filter((e) => isRight(model, e)).length;
  return `${right} of ${own.length} (${(right / Math.max(1, own.length)).toFixed(3)})`;
};

/** Prints how a model does on what it was not fitted on: each source by the others, and each fifth of the groups by the rest. */
export function printHeldOut(fitting: Fitting, rounds = 500): void {
  const { examples, name } = fitting;
  const sources = [...new Set(examples.map(({ source }) => source))];
  for (const source of sources) {
    const own = examples.filter((e) => e.source === source);
    const model = fit({ ...fitting, examples: examples.filter((e) => e.source !== source), rounds });
    console.log(`${name}, ${source} by the other sources: ${shareRight(model, own)}`);
  }
  const groups = [...new Set(examples.map(({ group }) => group))];
  const wrong: string[] = [];
  const rights = new Map(sources.map((source) => [source, [0, 0]]));
  for (let fold = 0; fold < 5; fold++) {
    const held = new Set(groups.filter((_, i) => i % 5 === fold));
    const model = fit({ ...fitting, examples: examples.filter((e) => !held.has(e.group)), rounds });
    for (const e of examples.filter((own) => held.has(own.group))) {
      const count = rights.get(e.source)!;
      count[1]!++;
      if (isRight(model, e)) count[0]!++;
      else wrong.push(e.name);
    }
  }
  for (const [source, [right, all]] of rights)
    console.log(`${name}, ${source} with a fifth of the pieces and styles held out: ${right} of ${all}`);
  console.log(`${name}, wrong: ${wrong.join(", ")}`);
}

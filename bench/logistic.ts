/** Fits the logistic models by which the core chooses between candidates. */
import { writeFile } from "node:fs/promises";
import path from "node:path";
import { probabilities, type ChoiceModel } from "@/core/grid/choice";

/** One song: the features of its candidates and which of them is right. */
export interface Example {
  style: string;
  candidates: number[][];
  right: number;
}

/** Multinomial logistic regression with a quadratic penalty, by gradient descent. */
export function fit(examples: readonly Example[], penalty: number, rounds = 1200): ChoiceModel {
  const all = examples.flatMap((e) => e.candidates);
  const size = all[0]!.length;
  const means = Array.from({ length: size }, (_, i) => all.reduce((a, f) => a + f[i]!, 0) / all.length);
  const deviations = means.map(
    (mean, i) => Math.sqrt(all.reduce((a, f) => a + (f[i]! - mean) ** 2, 0) / all.length) || 1,
  );
  const scaled = examples.map((e) => ({
    right: e.right,
    rows: e.candidates.map((row) => row.map((f, i) => (f - means[i]!) / deviations[i]!)),
  }));
  const identity = { means: new Array<number>(size).fill(0), deviations: new Array<number>(size).fill(1) };
  const weights = new Array<number>(size).fill(0);
  for (let round = 0; round < rounds; round++) {
    const gradient = weights.map((w) => penalty * w);
    for (const { rows, right } of scaled) {
      const shares = probabilities({ weights, ...identity }, rows);
      rows.forEach((row, r) => {
        const error = shares[r]! - (r === right ? 1 : 0);
        for (let i = 0; i < size; i++) gradient[i]! += (error * row[i]!) / scaled.length;
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
}

/** Fits a model, writes it, and prints how many of the songs it was fitted on it gets right. */
export async function fitAndWrite({ examples, name, file, command, about, penalty }: Fitting): Promise<void> {
  const model = fit(examples, penalty);
  const list = (values: readonly number[]) => `[${values.map((v) => v.toFixed(4)).join(", ")}]`;
  await writeFile(
    path.join(process.cwd(), file),
    `/** Fitted by \`npm run ${command}\`; one entry a feature of ${about}. Not edited by hand. */
// prettier-ignore
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

/** Prints how a model does on songs it was not fitted on: each half by the other, each style by the rest. */
export function printHeldOut({ examples, name, penalty }: Fitting): void {
  const rightOn = (own: readonly Example[], others: readonly Example[]) => {
    const model = fit(others, penalty);
    return own.filter((e) => isRight(model, e)).length;
  };
  const halves = [0, 1].map((half) => examples.filter((_, i) => (i >> 1) % 2 === half));
  const crossed = rightOn(halves[0]!, halves[1]!) + rightOn(halves[1]!, halves[0]!);
  console.log(`${name}, each half by the other: ${crossed} of ${examples.length}`);
  let held = 0;
  for (const style of new Set(examples.map((e) => e.style))) {
    const own = examples.filter((e) => e.style === style);
    const right = rightOn(
      own,
      examples.filter((e) => e.style !== style),
    );
    held += right;
    console.log(`${name}, ${style} held out: ${right} of ${own.length}`);
  }
  console.log(`${name}, held-out styles: ${held} of ${examples.length}`);
}

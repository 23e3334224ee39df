/** Tables and figures as the benchmark prints them. */

export const table = (head: readonly string[], rows: readonly (readonly (string | number)[])[]): string =>
  [head, head.map(() => "---"), ...rows].map((row) => `| ${row.join(" | ")} |`).join("\n");

export const share = (part: number, whole: number): string => (whole === 0 ? "–" : (part / whole).toFixed(3));

export const mean = (numbers: readonly number[]): string =>
  (numbers.reduce((a, b) => a + b, 0) / Math.max(1, numbers.length)).toFixed(3);

/** The value below which a share of the numbers lies; 0 where there are none. */
export const quantile = (numbers: readonly number[], below: number): number =>
  [...numbers].sort((a, b) => a - b)[Math.min(numbers.length - 1, Math.floor(below * numbers.length))] ?? 0;

export const median = (numbers: readonly number[]): number => quantile(numbers, 0.5);

/** Solves a small system of linear equations by elimination. */
export function solved(matrix: readonly (readonly number[])[], right: readonly number[]): number[] {
  const rows = matrix.map((row, i) => [...row, right[i]!]);
  const size = rows.length;
  for (let i = 0; i < size; i++) {
    let best = i;
    for (let k = i + 1; k < size; k++) if (Math.abs(rows[k]![i]!) > Math.abs(rows[best]![i]!)) best = k;
    [rows[i], rows[best]] = [rows[best]!, rows[i]!];
    for (let k = 0; k < size; k++) {
      if (k === i) continue;
      const factor = rows[k]![i]! / rows[i]![i]!;
      for (let c = i; c <= size; c++) rows[k]![c]! -= factor * rows[i]![c]!;
    }
  }
  return rows.map((row, i) => row[size]! / row[i]!);
}

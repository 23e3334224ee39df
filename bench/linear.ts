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

/** Eigenvalues and eigenvectors of a symmetric matrix, the largest first, by Jacobi's rotations. */
export function symmetricEigen(
  matrix: readonly (readonly number[])[],
): { value: number; vector: number[] }[] {
  const size = matrix.length;
  const a = matrix.map((row) => [...row]);
  const v = a.map((_, i) => a.map((__, k) => Number(i === k)));
  const scale = a.reduce((sum, row) => sum + row.reduce((own, x) => own + x * x, 0), 0);
  for (let sweep = 0; sweep < 60; sweep++) {
    let off = 0;
    for (let p = 0; p < size; p++) for (let q = p + 1; q < size; q++) off += a[p]![q]! ** 2;
    if (off <= 1e-22 * scale) break;
    for (let p = 0; p < size; p++)
      for (let q = p + 1; q < size; q++) {
        if (a[p]![q] === 0) continue;
        const theta = (a[q]![q]! - a[p]![p]!) / (2 * a[p]![q]!);
        const t = (theta >= 0 ? 1 : -1) / (Math.abs(theta) + Math.sqrt(theta * theta + 1));
        const c = 1 / Math.sqrt(t * t + 1);
        const s = t * c;
        for (let k = 0; k < size; k++) {
          const [x, y] = [a[k]![p]!, a[k]![q]!];
          a[k]![p] = c * x - s * y;
          a[k]![q] = s * x + c * y;
        }
        for (let k = 0; k < size; k++) {
          const [x, y] = [a[p]![k]!, a[q]![k]!];
          a[p]![k] = c * x - s * y;
          a[q]![k] = s * x + c * y;
          const [m, n] = [v[k]![p]!, v[k]![q]!];
          v[k]![p] = c * m - s * n;
          v[k]![q] = s * m + c * n;
        }
      }
  }
  return a
    .map((row, i) => ({ value: row[i]!, vector: v.map((own) => own[i]!) }))
    .sort((x, y) => y.value - x.value);
}

type Row = Float64Array;

function meanAndCovariance(rows: readonly Row[]): { mean: number[]; covariance: number[][] } {
  const size = rows[0]!.length;
  const mean = Array.from(
    { length: size },
    (_, i) => rows.reduce((sum, row) => sum + row[i]!, 0) / rows.length,
  );
  const covariance = mean.map(() => mean.map(() => 0));
  for (const row of rows) {
    const own = mean.map((m, i) => row[i]! - m);
    own.forEach((x, i) => own.forEach((y, k) => (covariance[i]![k]! += (x * y) / (rows.length - 1))));
  }
  return { mean, covariance };
}

/**
 * Linear discriminants of classes (Fisher 1936): axes on which members of one class vary by 1 and the means of
 * the classes most.
 *
 * @param ridge added to how members vary, as a share of their mean variance.
 */
export function discriminants(
  classes: readonly (readonly Row[])[],
  count: number,
  ridge: number,
): number[][] {
  const all = classes.map(meanAndCovariance);
  const size = all[0]!.mean.length;
  const within = all[0]!.mean.map((_, i) =>
    all[0]!.mean.map(
      (__, k) => all.reduce((sum, { covariance }) => sum + covariance[i]![k]!, 0) / all.length,
    ),
  );
  const trace = within.reduce((sum, row, i) => sum + row[i]!, 0);
  within.forEach((row, i) => (row[i]! += (ridge * trace) / size));
  const white = symmetricEigen(within).map(({ value, vector }) => vector.map((x) => x / Math.sqrt(value)));
  const means = all.map(({ mean }) =>
    Float64Array.from(white, (axis) => axis.reduce((sum, x, i) => sum + x * mean[i]!, 0)),
  );
  return symmetricEigen(meanAndCovariance(means).covariance)
    .slice(0, count)
    .map(({ vector }) => white[0]!.map((_, i) => vector.reduce((sum, x, k) => sum + x * white[k]![i]!, 0)));
}

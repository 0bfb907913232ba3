/** Solves A x = b for a symmetric positive definite A by Cholesky; undefined where A is not one. */
export function solveSymmetric(A: number[][], b: readonly number[]): number[] | undefined {
  const n = b.length;
  const L = A.map((row, i) => row.map((v, j) => (i === j ? v * (1 + 1e-7) + 1e-12 : v)));
  for (let j = 0; j < n; j++) {
    for (let k = 0; k < j; k++) for (let i = j; i < n; i++) L[i]![j]! -= L[i]![k]! * L[j]![k]!;
    const d = L[j]![j]!;
    if (!(d > 0)) return undefined;
    const inv = 1 / Math.sqrt(d);
    for (let i = j; i < n; i++) L[i]![j]! *= inv;
  }
  const x = [...b];
  for (let i = 0; i < n; i++) {
    for (let k = 0; k < i; k++) x[i]! -= L[i]![k]! * x[k]!;
    x[i]! /= L[i]![i]!;
  }
  for (let i = n - 1; i >= 0; i--) {
    for (let k = i + 1; k < n; k++) x[i]! -= L[k]![i]! * x[k]!;
    x[i]! /= L[i]![i]!;
  }
  return x;
}

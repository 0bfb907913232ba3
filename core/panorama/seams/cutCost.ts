/** What a cut costs: capacities from the source's side to the sink's. */
export function cutCost(
  w: number,
  h: number,
  t: Float32Array,
  r: Float32Array,
  d: Float32Array,
  side: ArrayLike<number>,
): number {
  let s = 0;
  for (let i = 0; i < w * h; i++) {
    if (t[i]! > 0 && !side[i]) s += t[i]!;
    if (t[i]! < 0 && side[i]) s -= t[i]!;
    if (i % w < w - 1 && side[i] !== side[i + 1]) s += r[i]!;
    if (i + w < w * h && side[i] !== side[i + w]) s += d[i]!;
  }
  return s;
}

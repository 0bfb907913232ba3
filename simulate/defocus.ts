import { clamp } from "../core/math/clamp";

/** Parts of a px's height over which a disc's width is averaged. */
const PARTS = 8;

/**
 * A plane as a lens shows it that is out of focus: every point spread over a disc, sharp-edged and
 * of any radius, each px by as much of it as the disc covers. Where the radius changes from row to
 * row, as on a slope, what light is spread thinner or thicker is made even again. What lies beyond
 * the border is as the border is.
 *
 * @param radiusOf  in px, of a row's points
 */
export function defocus(
  plane: Float32Array,
  w: number,
  h: number,
  radiusOf: (row: number) => number,
): Float32Array {
  const out = new Float32Array(plane.length);
  const share = new Float32Array(w);
  const weights = new Float64Array(h);
  for (let y = 0; y < h; y++) {
    // a disc within one px leaves it as it is
    const radius = Math.max(0.5, radiusOf(y));
    const rows = Math.ceil(radius - 0.5);
    const pad = Math.ceil(radius) + 1;
    const half = Array.from({ length: rows + 1 }, (_, k) => meanHalf(radius, k));
    const area = half.reduce((s, v, k) => s + (k ? 4 : 2) * v, 0);
    // the row's running sums, of which a disc's row is a difference of two
    const sums = new Float64Array(w + 2 * pad + 1);
    for (let i = 0; i < sums.length - 1; i++)
      sums[i + 1] = sums[i]! + plane[y * w + clamp(i - pad, 0, w - 1)]!;
    // a border's row is those beyond it, too
    const first = y === 0 ? -rows : y;
    const last = y === h - 1 ? y + rows : y;
    for (let k = 0; k <= rows; k++) {
      // the ends of a disc's row lie between px: whole ones, and a share of the next
      const from = pad + 0.5 - half[k]!;
      const to = pad + 0.5 + half[k]!;
      const left = Math.floor(from);
      const right = Math.floor(to);
      const under = (from - left) / area;
      const over = (to - right) / area;
      const one = 1 / area;
      const weight = (2 * half[k]!) / area;
      for (let x = 0; x < w; x++)
        share[x] =
          sums[right + x]! * (one - over) +
          sums[right + x + 1]! * over -
          sums[left + x]! * (one - under) -
          sums[left + x + 1]! * under;
      for (let v = first; v <= last; v++)
        for (const row of k ? [v - k, v + k] : [v])
          if (row >= 0 && row < h) {
            for (let x = 0, at = row * w; x < w; x++) out[at + x]! += share[x]!;
            weights[row]! += weight;
          }
    }
  }
  for (let y = 0; y < h; y++)
    for (let x = 0, by = 1 / weights[y]!; x < w; x++) out[y * w + x]! *= by;
  return out;
}

/** Half the width of a disc in the k-th row off its centre. */
function meanHalf(radius: number, k: number): number {
  let sum = 0;
  for (let p = 0; p < PARTS; p++)
    sum += Math.sqrt(Math.max(0, radius ** 2 - (k - 0.5 + (p + 0.5) / PARTS) ** 2));
  return sum / PARTS;
}

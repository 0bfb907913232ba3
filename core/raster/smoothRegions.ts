/** Passes in each direction. */
const PASSES = 3;

/** How a plane is smoothed into regions. */
export interface RegionOptions {
  /** how strongly values are drawn together */
  strength: number;
  /** difference over three cells by which the pull across them falls to 1/e */
  edge: number;
}

/**
 * A plane smoothed wherever no strong edge runs: what is within edges becomes nearly one value, and
 * the edges themselves stay where they are. Edges are looked for over three cells, since one that
 * falls between two of them makes two half steps.
 *
 * @param values  w x h, kept
 * @see Min et al., "Fast global image smoothing based on weighted least squares", TIP 2014
 */
export function smoothRegions(
  values: Float32Array,
  w: number,
  h: number,
  { strength, edge }: RegionOptions,
): Float32Array {
  const out = values.slice();
  const across = pulls(values, w, h, 1, w, edge);
  const down = pulls(values, h, w, w, 1, edge);
  const longest = Math.max(w, h);
  const work = { upper: new Float64Array(longest), line: new Float64Array(longest) };
  for (let pass = 1; pass <= PASSES; pass++) {
    const pull = (1.5 * 4 ** (PASSES - pass) * strength) / (4 ** PASSES - 1);
    for (let y = 0; y < h; y++) solveLine(out, across, y * w, 1, w, pull, work);
    for (let x = 0; x < w; x++) solveLine(out, down, x, w, h, pull, work);
  }
  return out;
}

/** How strongly each cell pulls at the next of its line, 0 to 1; at the place of the first. */
function pulls(
  values: Float32Array,
  length: number,
  lines: number,
  step: number,
  stride: number,
  edge: number,
): Float32Array {
  const out = new Float32Array(values.length);
  for (let line = 0; line < lines; line++) {
    const from = line * stride;
    for (let i = 0; i + 1 < length; i++) {
      const before = values[from + Math.max(0, i - 1) * step]!;
      const here = values[from + i * step]!;
      const next = values[from + (i + 1) * step]!;
      const after = values[from + Math.min(length - 1, i + 2) * step]!;
      const difference = Math.max(
        Math.abs(next - here),
        Math.abs(after - here),
        Math.abs(next - before),
      );
      out[from + i * step] = Math.exp(-difference / edge);
    }
  }
  return out;
}

/** Solves one line of weighted least squares in place (Thomas's algorithm). */
function solveLine(
  values: Float32Array,
  weights: Float32Array,
  from: number,
  step: number,
  length: number,
  pull: number,
  { upper, line }: { upper: Float64Array; line: Float64Array },
): void {
  let before = 0;
  for (let i = 0; i < length; i++) {
    const at = from + i * step;
    const next = i + 1 < length ? pull * weights[at]! : 0;
    const last = i ? upper[i - 1]! : 0;
    const pivot = 1 + before + next + before * last;
    upper[i] = -next / pivot;
    line[i] = (values[at]! + before * (i ? line[i - 1]! : 0)) / pivot;
    before = next;
  }
  values[from + (length - 1) * step] = line[length - 1]!;
  for (let i = length - 2; i >= 0; i--) {
    line[i] = line[i]! - upper[i]! * line[i + 1]!;
    values[from + i * step] = line[i]!;
  }
}

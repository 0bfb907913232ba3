/** Where each cell of a filled rectangle was before, in cells of the picture with empty borders. */
export interface Shifted {
  x: Float32Array;
  y: Float32Array;
}

/** What a cell costs that is doubled already: seams spread out instead of stretching one place. */
const DOUBLING_COST = 0.6;
/** Crossed only where a whole line is empty, which another side's seams will fill. */
const EMPTY_COST = 1e4;

/**
 * Stretches a picture with empty borders to a full rectangle: for as long as some cells of a side
 * are empty, a seam of least contrast across the longest run of them is doubled, and what lies
 * between it and the side moves outwards.
 *
 * @param grey    w x h cells; @param full  1 where there is a picture
 * @param closed  the picture goes all round: its left and right are no sides
 * @returns undefined where that does not come to an end: most of the picture is empty
 * @see Avidan and Shamir, "Seam carving for content-aware image resizing", SIGGRAPH 2007; He,
 *   Chang, Sun, "Rectangling panoramic images via warping", SIGGRAPH 2013 (section 3.1)
 */
export function insertSeams(
  w: number,
  h: number,
  grey: Float32Array,
  full: Uint8Array,
  closed = false,
): Shifted | undefined {
  const n = w * h;
  const value = grey.slice();
  const on = full.slice();
  const x = Float32Array.from(value, (_, i) => i % w);
  const y = Float32Array.from(value, (_, i) => Math.floor(i / w));
  const doubled = new Float32Array(n);
  const planes = [value, x, y, doubled];
  for (let rounds = 0; rounds < 2 * (w + h); rounds++) {
    const run = longestEmptyRun(on, w, h, closed);
    if (!run) return { x, y };
    // a seam runs along the side: cells are addressed by place along the run and depth from the
    // side
    const { side, from, to } = run;
    const depth = side === "left" || side === "right" ? w : h;
    const at = (along: number, deep: number): number => {
      if (side === "left") return along * w + deep;
      if (side === "right") return along * w + w - 1 - deep;
      if (side === "top") return deep * w + along;
      return (h - 1 - deep) * w + along;
    };
    const seam = cheapestSeam(from, to, depth, at, value, on, doubled, w, h);
    if (!seam) return undefined;
    for (let a = from; a < to; a++) {
      const s = seam[a - from]!;
      for (let d = 0; d < s; d++) {
        const k = at(a, d);
        const next = at(a, d + 1);
        for (const p of planes) p[k] = p[next]!;
        on[k] = on[next]!;
      }
      const k = at(a, s);
      const out = at(a, Math.max(0, s - 1));
      doubled[k]! += DOUBLING_COST;
      doubled[out]! += DOUBLING_COST;
      // the new cell lies between the seam and its neighbour
      if (s > 1) for (const p of [x, y]) p[out] = (p[k]! + p[at(a, s - 2)]!) / 2;
    }
  }
  return undefined;
}

function longestEmptyRun(
  on: Uint8Array,
  w: number,
  h: number,
  closed: boolean,
): { side: "left" | "right" | "top" | "bottom"; from: number; to: number } | undefined {
  let best: { side: "left" | "right" | "top" | "bottom"; from: number; to: number } | undefined;
  const scan = (
    side: "left" | "right" | "top" | "bottom",
    count: number,
    at: (i: number) => number,
  ): void => {
    for (let i = 0; i < count;) {
      if (on[at(i)]) {
        i++;
        continue;
      }
      let e = i;
      while (e < count && !on[at(e)]) e++;
      if (!best || e - i > best.to - best.from) best = { side, from: i, to: e };
      i = e;
    }
  };
  if (!closed) {
    scan("left", h, (i) => i * w);
    scan("right", h, (i) => i * w + w - 1);
  }
  scan("top", w, (i) => i);
  scan("bottom", w, (i) => (h - 1) * w + i);
  return best;
}

/**
 * Depth of the seam at each place of the run, by dynamic programming; undefined where it would
 * cross nothing but the empty.
 */
function cheapestSeam(
  from: number,
  to: number,
  depth: number,
  at: (along: number, deep: number) => number,
  value: Float32Array,
  on: Uint8Array,
  doubled: Float32Array,
  w: number,
  h: number,
): Int32Array | undefined {
  const n = to - from;
  const cost = new Float32Array(n * depth);
  const way = new Int8Array(n * depth);
  for (let a = 0; a < n; a++)
    for (let d = 0; d < depth; d++) {
      const k = at(from + a, d);
      const x = k % w;
      const y = Math.floor(k / w);
      const e = !on[k]
        ? EMPTY_COST
        : Math.abs(value[y * w + Math.min(w - 1, x + 1)]! - value[y * w + Math.max(0, x - 1)]!) +
          Math.abs(value[Math.min(h - 1, y + 1) * w + x]! - value[Math.max(0, y - 1) * w + x]!) +
          doubled[k]! +
          0.003;
      if (a === 0) {
        cost[d] = e;
        continue;
      }
      let best = Infinity;
      let step = 0;
      for (let s = -1; s <= 1; s++) {
        const q = d + s;
        if (q >= 0 && q < depth && cost[(a - 1) * depth + q]! < best) {
          best = cost[(a - 1) * depth + q]!;
          step = s;
        }
      }
      cost[a * depth + d] = best + e;
      way[a * depth + d] = step;
    }
  let d = 0;
  for (let q = 1; q < depth; q++)
    if (cost[(n - 1) * depth + q]! < cost[(n - 1) * depth + d]!) d = q;
  const seam = new Int32Array(n);
  let crosses = 0;
  for (let a = n - 1; a >= 0; a--) {
    seam[a] = d;
    crosses += on[at(from + a, d)]!;
    d += way[a * depth + d]!;
  }
  return crosses ? seam : undefined;
}

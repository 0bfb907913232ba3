import type { SharpMap } from "./sharpMap";

export interface FocusOrder {
  /** places of the frames from one end of the focus travel to the other */
  order: number[];
  /** places of frames in which nothing is as sharp as in others */
  blurred: number[];
}

/**
 * The order of a focus run from its pixels alone: neighbours are sharp at the same places. Frames are laid along a line so
 * that likeness falls with distance (the second eigenvector of the likeness graph).
 *
 * @see Atkins, Boman, Hendrickson, "A spectral algorithm for seriation and the consecutive ones problem", SIAM J. Comput. 1998
 */
export function focusOrder(maps: readonly SharpMap[]): FocusOrder {
  const n = maps.length, cells = maps[0]?.values.length ?? 0;
  if (n < 3) return { order: maps.map((_, i) => i), blurred: [] };
  const relative = relativeSharpness(maps), like = relative.map((a) => relative.map((b) => likeness(a, b)));
  const degree = like.map((r) => r.reduce((s, v) => s + v, 0));
  // largest eigenvector of the normalised likeness beside the trivial one, by iteration from the given order
  const trivial = degree.map(Math.sqrt), norm = Math.hypot(...trivial), M = like.map((r, i) => r.map((v, j) => v / Math.sqrt(degree[i]! * degree[j]!) + (i === j ? 1 : 0)));
  let x = maps.map((_, i) => i - (n - 1) / 2 + 0.01 * Math.sin(i * 7.3));
  for (let k = 0; k < 600; k++) {
    const along = x.reduce((s, v, i) => s + (v * trivial[i]!) / norm, 0);
    x = x.map((v, i) => v - (along * trivial[i]!) / norm);
    x = M.map((r) => r.reduce((s, v, j) => s + v * x[j]!, 0));
    const length = Math.hypot(...x) || 1;
    x = x.map((v) => v / length);
  }
  const at = x.map((v, i) => v / Math.sqrt(degree[i]!)), order = at.map((_, i) => i).sort((a, b) => at[a]! - at[b]! || a - b);
  if (order.indexOf(0) > order.indexOf(n - 1)) order.reverse();
  const best = relative.map((r) => [...r].sort((p, q) => q - p)[Math.floor(cells * 0.02)]!);
  return { order, blurred: best.flatMap((v, i) => (v < 0.25 ? [i] : [])) };
}

/** Against the sharpest that any frame has in a cell, so that texture itself does not count. */
const relativeSharpness = (maps: readonly SharpMap[]): Float32Array[] => {
  const top = Float32Array.from(maps[0]!.values, (_, c) => Math.max(...maps.map((m) => m.values[c]!)));
  return maps.map((m) => m.values.map((v, c) => Math.exp(Math.max(-6, (v - top[c]!) * 1.2))));
};
/** How far two frames are sharp at the same places, 0 to 1. */
const likeness = (a: Float32Array, b: Float32Array): number => { let ab = 0, aa = 0, bb = 0; for (let c = 0; c < a.length; c++) { ab += a[c]! * b[c]!; aa += a[c]! ** 2; bb += b[c]! ** 2; } return (ab / Math.sqrt(aa * bb + 1e-12)) ** 4; };

/** A step whose two frames are sharp at so much fewer common places than those of the other steps was too wide. */
const GAP = 0.4;
/** Frames this much alike show the same focus twice. */
const SAME = 0.985;

/** What the steps between neighbours along a focus travel leave to be wished: places in `order` after which a step is missing, and pairs of frames that are sharp at the same places. */
export function travelFaults(maps: readonly SharpMap[], order: readonly number[]): { gaps: number[]; twice: [number, number][] } {
  if (order.length < 4) return { gaps: [], twice: [] };
  const relative = relativeSharpness(maps), steps = order.slice(1).map((b, k) => likeness(relative[order[k]!]!, relative[b]!)), usual = [...steps].sort((a, b) => a - b)[steps.length >> 1]!;
  // only beside steps that are as they should be: at a travel's ends nothing may be sharp at all
  const gaps = steps.flatMap((v, k) => (v < GAP * usual && v < GAP * Math.max(steps[k - 1] ?? 0, steps[k + 1] ?? 0) * 1.2 ? [k] : []));
  return { gaps, twice: steps.flatMap((v, k): [number, number][] => (v > SAME && v > usual + 0.5 * (1 - usual) ? [[order[k]!, order[k + 1]!]] : [])) };
}

/** How far each frame of an order is sharp where the next one is, summed. */
export function travelled(maps: readonly SharpMap[], order: readonly number[]): number {
  const relative = relativeSharpness(maps);
  return order.slice(1).reduce((s, b, k) => s + likeness(relative[order[k]!]!, relative[b]!), 0);
}

/** Whether frames were taken in the order of the focus travel, but for a few neighbours that are too alike to tell. */
export const isOrdered = (order: readonly number[]): boolean => order.every((v, i) => Math.abs(v - i) <= 1);

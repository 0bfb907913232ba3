import type { Heap } from "../../kernels/heap";
import type { ToneField } from "../tone/toneField";
import type { ToneGrid } from "../tone/toneGrid";
import { areasOf } from "./areas";
import { ranked, type Suspect } from "./suspect";

/**
 * EV by which one and the same tone is drawn brighter or darker beside an edge than further off, to
 * be worth a look.
 */
const VISIBLE_EV = 0.33;
/** How far off an edge is felt, in cells of the tone grid; an edge is this high, EV. */
const EDGE_REACH_CELLS = 14;
const EDGE_EV = 2;
const SAME_EV = 0.35;

/**
 * Halos that toning may have made: places near a strong edge whose own tone gets another gain than
 * the same tone gets round about.
 *
 * @param scale  full-size px a cell of the grid
 */
export function haloSuspects(
  heap: Heap,
  grid: ToneGrid,
  field: ToneField,
  scale: number,
): Suspect[] {
  const { width: w, height: h } = grid;
  const n = w * h;
  if (field.width !== w || field.height !== h) return [];
  const L = heap.f32(grid.ptr, n);
  const slopes = heap.f32(field.slopes, n);
  const offsets = heap.f32(field.offsets, n);
  // where no frame reaches or all is black, and half a cell beside it, nothing was seen that could
  // be an edge
  const bare = L.map((l) => (l <= grid.floorEv ? 1 : 0));
  const shown = (k: number): boolean =>
    !(bare[k]! || bare[k - 1]! || bare[k + 1]! || bare[k - w]! || bare[k + w]!);
  const gain = L.map((l, i) => slopes[i]! * l + offsets[i]!);
  const excess = new Float32Array(n);
  for (let y = 2; y < h - 2; y += 2)
    for (let x = 2; x < w - 2; x += 2) {
      const i = y * w + x;
      const l = L[i]!;
      // only where the scene itself is flat
      if (!shown(i) || Math.abs(L[i + 1]! - L[i - 1]!) + Math.abs(L[i + w]! - L[i - w]!) > 0.3)
        continue;
      let edge = false;
      let sum = 0;
      let count = 0;
      for (
        let v = Math.max(0, y - EDGE_REACH_CELLS);
        v <= Math.min(h - 1, y + EDGE_REACH_CELLS);
        v += 2
      )
        for (
          let u = Math.max(0, x - EDGE_REACH_CELLS);
          u <= Math.min(w - 1, x + EDGE_REACH_CELLS);
          u += 2
        ) {
          const k = v * w + u;
          const away = Math.abs(L[k]! - l);
          const near = Math.max(Math.abs(u - x), Math.abs(v - y)) <= EDGE_REACH_CELLS / 2;
          if (!shown(k)) continue;
          if (away > EDGE_EV && near) edge = true;
          if (away < SAME_EV && !near) {
            sum += gain[k]!;
            count++;
          }
        }
      if (!edge || count < 12) continue;
      const off = Math.abs(gain[i]! - sum / count);
      for (const k of [i, i + 1, i + w, i + w + 1]) excess[k] = off;
    }
  return ranked(
    areasOf(
      w,
      h,
      (i) => excess[i]! > VISIBLE_EV,
      24,
      (i) => excess[i]!,
    ).map((a) => ({
      kind: "halo",
      x: a.x0 * scale,
      y: a.y0 * scale,
      width: (a.x1 - a.x0) * scale,
      height: (a.y1 - a.y0) * scale,
      score:
        Math.round(Math.min(1, a.mean * 0.5 * Math.min(1, Math.sqrt(a.cells / n) * 8)) * 1000) /
        1000,
    })),
    12,
  );
}

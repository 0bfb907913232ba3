import type { Heap } from "../../../kernels/heap";
import { minimumCut } from "../../math/maxFlow";

/** Grids up to so many cells are cut at once. */
const MAX_CELLS_AT_ONCE = 6000;
/** How far from the coarser grid's cut the finer one may run, cells of the finer. */
const BAND_CELLS = 4;
/** Capacity that no cut affords: what lies beyond the band stays with its side. */
const FIXED_CAPACITY = 1e6;

/**
 * A cheap cut of a large grid graph, found coarse to fine: cells are joined by fours until the grid
 * is small, and each finer cut is looked for in a band round the coarser one. Not always the
 * cheapest of all, but in a small part of the time. Arguments and result as in `minimumCut`.
 *
 * @see Lombaert et al., "A multilevel banded graph cuts method for fast image segmentation", ICCV
 *   2005
 */
export function bandedCut(
  heap: Heap,
  w: number,
  h: number,
  terminal: Float32Array,
  right: Float32Array,
  down: Float32Array,
): Uint8Array {
  if (w * h <= MAX_CELLS_AT_ONCE || w < 8 || h < 8)
    return minimumCut(heap, w, h, terminal, right, down);
  const cw = (w + 1) >> 1;
  const ch = (h + 1) >> 1;
  const t = new Float32Array(cw * ch);
  const r = new Float32Array(cw * ch);
  const d = new Float32Array(cw * ch);
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0; x < w; x++, i++) {
      const k = (y >> 1) * cw + (x >> 1);
      t[k]! += terminal[i]!;
      if (x & 1) r[k]! += right[i]!;
      if (y & 1) d[k]! += down[i]!;
    }
  const coarse = bandedCut(heap, cw, ch, t, r, d);
  const band = new Uint8Array(w * h);
  const side = new Uint8Array(w * h);
  const mark = (x: number, y: number): void => {
    const x1 = Math.min(w, 2 * x + 2 + BAND_CELLS);
    const y1 = Math.min(h, 2 * y + 2 + BAND_CELLS);
    for (let v = Math.max(0, 2 * y - BAND_CELLS); v < y1; v++)
      band.fill(1, v * w + Math.max(0, 2 * x - BAND_CELLS), v * w + x1);
  };
  for (let y = 0, k = 0; y < ch; y++)
    for (let x = 0; x < cw; x++, k++) {
      if (x + 1 < cw && coarse[k] !== coarse[k + 1]) {
        mark(x, y);
        mark(x + 1, y);
      }
      if (y + 1 < ch && coarse[k] !== coarse[k + cw]) {
        mark(x, y);
        mark(x, y + 1);
      }
    }
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0; x < w; x++, i++) side[i] = coarse[(y >> 1) * cw + (x >> 1)]!;
  // what is neither in the band nor beside it takes no part
  const own = new Float32Array(w * h);
  const across = new Float32Array(w * h);
  const below = new Float32Array(w * h);
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0; x < w; x++, i++) {
      const beside =
        (x > 0 && band[i - 1]) ||
        (x + 1 < w && band[i + 1]) ||
        (y > 0 && band[i - w]) ||
        (y + 1 < h && band[i + w]);
      const fixed = side[i] ? FIXED_CAPACITY : -FIXED_CAPACITY;
      if (band[i]) own[i] = terminal[i]!;
      else own[i] = beside ? fixed : 0;
      if (x + 1 < w && (band[i] || band[i + 1])) across[i] = right[i]!;
      if (y + 1 < h && (band[i] || band[i + w])) below[i] = down[i]!;
    }
  const fine = minimumCut(heap, w, h, own, across, below);
  for (let i = 0; i < side.length; i++) if (band[i]) side[i] = fine[i]!;
  return side;
}

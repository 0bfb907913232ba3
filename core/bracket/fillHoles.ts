import type { Heap } from "../../kernels/heap";
import { bilinear, pullPush } from "../raster/pullPush";
import { MEASURED, type FoldInput } from "./foldFrame";
import { type Accumulator } from "../raster/accumulator";
import { clamp } from "../math/clamp";

/**
 * A hole is where the reference frame is clipped: what lies in it is at least this bright, and so
 * is what may fill it.
 */
const HOLE_FROM = 0.9;

/** Above the reference's own bound: a darker frame was clipped here. */
const MAX_OVER_BOUND = 1.3;

/**
 * Where some frame lost its confidence to something that moved, on a grid of `scale` px, whose
 * first row lies `top` rows above the accumulator's.
 */
export interface Holes {
  width: number;
  height: number;
  scale: number;
  mask: Uint8Array;
  top?: number;
}
/** Planar R, G, B on that grid. */
export type Fill = Float32Array;

/**
 * Places where a frame was held back because something moved in it, so that perhaps no frame is
 * left that shows what is behind: a bright doorway that the reference frame clips and in which
 * somebody stands in every darker frame.
 */
export function findHoles(
  frames: readonly { ghosts?: FoldInput["ghosts"] | undefined }[],
  downscale: number,
): Holes | undefined {
  const all = frames.flatMap((f) => (f.ghosts ? [f.ghosts] : []));
  const first = all[0];
  if (!first) return undefined;
  const mask = new Uint8Array(first.confidences.length);
  for (const g of all)
    for (let i = 0; i < mask.length; i++) if (g.confidences[i]! < 250) mask[i] = 1;
  return { width: first.width, height: first.height, scale: first.scale / downscale, mask };
}

/**
 * Per cell of the grid rows g0 to g1, the mean of the measured pixels as bright as a hole can be
 * and their share, then the mean of the bounds that frames darker than the reference gave, and
 * their share: planes R, G, B, share, twice.
 */
export function measureCells(
  heap: Heap,
  acc: Accumulator,
  { width: gw, height: gh, scale }: Holes,
  g0: number,
  g1: number,
): Float32Array {
  const { width: w, height: h, ptr, planeBytes } = acc;
  const stride = scale >= LARGE_CELL_PX ? 2 : 1;
  const n = gw * (g1 - g0);
  const out = new Float32Array(n * CELL_PLANES);
  const [R, G, B, W] = [0, 1, 2, 3].map((c) => heap.f32(ptr + c * planeBytes, w * h)) as [
    Float32Array,
    Float32Array,
    Float32Array,
    Float32Array,
  ];
  for (let gy = g0; gy < g1; gy++)
    for (let gx = 0; gx < gw; gx++) {
      const x1 = gx === gw - 1 ? w : Math.floor((gx + 1) * scale);
      const y1 = gy === gh - 1 ? h : Math.floor((gy + 1) * scale);
      const k = (gy - g0) * gw + gx;
      let all = 0;
      // a quarter of a large cell's pixels tells its mean
      for (let y = Math.floor(gy * scale); y < y1; y += stride)
        for (let i = y * w + Math.floor(gx * scale), e = y * w + x1; i < e; i += stride, all++) {
          const measured = W[i]! >= MEASURED;
          if (Math.max(R[i]!, G[i]!, B[i]!) < (measured ? HOLE_FROM : MAX_OVER_BOUND)) continue;
          const at = measured ? k : 4 * n + k;
          out[at]! += R[i]!;
          out[n + at]! += G[i]!;
          out[2 * n + at]! += B[i]!;
          out[3 * n + at]! += 1;
        }
      for (const at of [k, 4 * n + k]) {
        const seen = out[3 * n + at]!;
        if (seen) {
          for (let c = 0; c < 3; c++) out[c * n + at]! /= seen;
          out[3 * n + at] = seen / all;
        }
      }
    }
  return out;
}
export const CELL_PLANES = 8;
/** Px from which a cell is large. */
export const LARGE_CELL_PX = 6;

/**
 * The light to put into holes: from the measured cells, and from those bounds that this alone would
 * not reach. It is stated where a hole can be, and round it.
 */
export function fillCells(cells: Float32Array, { width: w, height: h, mask }: Holes): Fill {
  const n = w * h;
  const measured = cells.slice(0, 4 * n);
  const bounds = cells.subarray(4 * n);
  const bounded = bounds.subarray(3 * n);
  const fill = pullPush(measured, 3, w, h, (i) => bounded[i]! > 0);
  for (let i = 0; i < n; i++) {
    const s = measured[3 * n + i]!;
    const t = bounded[i]!;
    if (!t || bounds[n + i]! <= fill[n + i]!) continue;
    for (let c = 0; c < 3; c++)
      measured[c * n + i] = (measured[c * n + i]! * s + bounds[c * n + i]! * t) / (s + t);
    measured[3 * n + i] = Math.min(1, s + t);
  }
  // a hole's pixels are drawn between cells
  const near = new Uint8Array(n);
  for (let i = 0; i < n; i++)
    if (mask[i])
      for (
        let y = Math.max(0, Math.floor(i / w) - 1), x0 = Math.max(0, (i % w) - 1);
        y <= Math.min(h - 1, Math.floor(i / w) + 1);
        y++
      )
        near.fill(1, y * w + x0, y * w + Math.min(w, (i % w) + 2));
  return pullPush(measured, 3, w, h, (i) => near[i]! > 0);
}

/**
 * Least channel of a clipped sample, of the greatest, below which its colour is known well enough
 * to stay, and above which it may be any bright thing.
 */
const COLOUR_KNOWN_BELOW = 0.6;
const COLOUR_UNKNOWN_ABOVE = 0.85;

/**
 * Gives pixels of the rows y0 to y1 that nobody measured the fill, but never less than the bound
 * they have; what clips in one colour only stays what it is.
 */
export function fillHoles(
  heap: Heap,
  acc: Accumulator,
  { width: gw, height: gh, scale, mask, top = 0 }: Holes,
  fill: Fill,
  y0: number,
  y1: number,
): void {
  const { width: w, height: h, ptr, planeBytes } = acc;
  const n = gw * gh;
  const planes = [0, 1, 2].map((c) => heap.f32(ptr + c * planeBytes, w * h)) as [
    Float32Array,
    Float32Array,
    Float32Array,
  ];
  const [R, G, B] = planes;
  const weights = heap.f32(ptr + 3 * planeBytes, w * h);
  for (let y = y0; y < y1; y++) {
    const gy = (y + top + 0.5) / scale;
    const row = Math.min(gh - 1, Math.floor(gy)) * gw;
    for (let cell = 0; cell < gw; cell++)
      if (mask[row + cell]) {
        const end = cell === gw - 1 ? w : Math.min(w, Math.ceil((cell + 1) * scale - 0.5));
        for (let x = Math.max(0, Math.ceil(cell * scale - 0.5)), i = y * w + x; x < end; x++, i++) {
          if (weights[i]! >= MEASURED) continue;
          const [r, g, b] = [R[i]!, G[i]!, B[i]!];
          const unknown = clamp(
            (Math.min(r, g, b) / Math.max(r, g, b) - COLOUR_KNOWN_BELOW) /
              (COLOUR_UNKNOWN_ABOVE - COLOUR_KNOWN_BELOW),
            0,
            1,
          );
          if (unknown > 0)
            for (let c = 0; c < 3; c++) {
              const p = planes[c]!;
              p[i]! +=
                Math.max(
                  0,
                  bilinear(fill, c * n, gw, gh, (x + 0.5) / scale - 0.5, gy - 0.5) - p[i]!,
                ) * unknown;
            }
        }
      }
  }
}

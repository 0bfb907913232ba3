import type { Heap } from "../../../kernels/heap";
import type { Accumulator } from "../../raster/accumulator";
import { boxMean, boxRows } from "../../raster/boxMean";
import { patchFill } from "./patchFill";
import { clamp } from "../../math/clamp";

/** Long edge of the small picture on which patches are found, cells. */
const EDGE = 1024;
/**
 * Cells over which the filled goes over into the known: less deep than the places lie that patches
 * are taken from, which must stay as they are.
 */
const BLEND = 2;
/**
 * Radius of the means, twice, that stand for the light of a place: what is finer comes from the
 * patches as it is.
 */
const LIGHT_RADIUS = 2;

/**
 * A patchwork in the workers' memory: its broad colours as floats, steps in 16 bit, and how firmly
 * a cell is known, in bytes.
 */
export interface AllocatedPatchwork {
  width: number;
  height: number;
  colour: number;
  dx: number;
  dy: number;
  firm: number;
  bytes: number;
}

/**
 * Where the parts of a patchwork for a picture of this size lie from `at` on.
 *
 * @param edge  its long edge at most, cells
 */
export function patchworkAt(
  at: number,
  picture: { width: number; height: number },
  edge = EDGE,
): AllocatedPatchwork {
  const by = Math.max(1, Math.max(picture.width, picture.height) / edge);
  const width = Math.max(1, Math.round(picture.width / by));
  const height = Math.max(1, Math.round(picture.height / by));
  const n = width * height;
  return {
    width,
    height,
    colour: at,
    dx: at + n * 12,
    dy: at + n * 14 + (n & 1) * 2,
    firm: at + n * 16 + 8,
    bytes: n * 17 + 64,
  };
}

/**
 * Finds what the uncovered parts of a picture may be filled with, on a small copy of it.
 *
 * @param acc  planes R, G, B of light, and of what is covered: 0 where nothing is, 1 where patches
 *   may be taken from, between them where something is and none may
 */
export function makePatchwork(heap: Heap, acc: Accumulator, patchwork: AllocatedPatchwork): void {
  const { width: w, height: h } = patchwork;
  const n = w * h;
  const all = acc.width * acc.height;
  const colour = new Float32Array(n * 3);
  const known = new Uint8Array(n);
  const usable = new Uint8Array(n);
  const planes = [0, 1, 2, 3].map((c) => heap.f32(acc.ptr + c * acc.planeBytes, all)) as [
    Float32Array,
    Float32Array,
    Float32Array,
    Float32Array,
  ];
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const x0 = Math.floor((x * acc.width) / w);
      const x1 = Math.max(x0 + 1, Math.floor(((x + 1) * acc.width) / w));
      const y0 = Math.floor((y * acc.height) / h);
      const y1 = Math.max(y0 + 1, Math.floor(((y + 1) * acc.height) / h));
      const k = y * w + x;
      let r = 0;
      let g = 0;
      let b = 0;
      let covered = 0;
      let free = 0;
      for (let v = y0; v < y1; v++)
        for (let u = x0; u < x1; u++) {
          const i = v * acc.width + u;
          if (planes[3][i]! > 0) {
            covered++;
            if (planes[3][i] === 1) free++;
            r += planes[0][i]!;
            g += planes[1][i]!;
            b += planes[2][i]!;
          }
        }
      const area = (x1 - x0) * (y1 - y0);
      known[k] = covered === area ? 1 : 0;
      usable[k] = free === area ? 1 : 0;
      if (known[k]) {
        colour[k * 3] = Math.sqrt(Math.max(0, r / covered));
        colour[k * 3 + 1] = Math.sqrt(Math.max(0, g / covered));
        colour[k * 3 + 2] = Math.sqrt(Math.max(0, b / covered));
      }
    }
  // a covered rim may be dimmed by what it was blended with
  const inner = distances(known, w, h);
  const made = patchFill(
    w,
    h,
    colour,
    Uint8Array.from(inner, (d) => (d > 1 ? 1 : 0)),
    Uint8Array.from(inner, (d, i) => (d > 1 ? usable[i]! : 0)),
  );
  const broad = heap.f32(patchwork.colour, n * 3);
  for (let c = 0; c < 3; c++) {
    const mark = heap.mark();
    const plane = heap.alloc(n * 4 + 16);
    const own = heap.f32(plane, n);
    for (let i = 0; i < n; i++) own[i] = made.colour[i * 3 + c]!;
    const mean = heap.f32(
      boxMean(heap, boxMean(heap, plane, w, h, LIGHT_RADIUS), w, h, LIGHT_RADIUS),
      n,
    );
    for (let i = 0; i < n; i++) broad[i * 3 + c] = mean[i]!;
    heap.release(mark);
  }
  new Int16Array(heap.memory.buffer, patchwork.dx, n).set(made.dx);
  new Int16Array(heap.memory.buffer, patchwork.dy, n).set(made.dy);
  heap
    .u8(patchwork.firm, n)
    .set(Uint8Array.from(inner, (d) => Math.round(255 * clamp((d - 1) / BLEND, 0, 1))));
}

/** Bytes of scratch for making the patchwork that uncovered parts are filled from. */
export const patchworkScratch = ({ width, height }: AllocatedPatchwork): number =>
  width * height * 12 + boxRows(width) + 4096;

/** Steps to the nearest unknown cell, in cells, up to 255. */
function distances(known: Uint8Array, w: number, h: number): Uint8Array {
  const d = Uint8Array.from(known, (k) => (k ? 255 : 0));
  const take = (i: number, from: number): void => {
    if (d[from]! + 1 < d[i]!) d[i] = d[from]! + 1;
  };
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = y * w + x;
      if (x) take(i, i - 1);
      if (y) take(i, i - w);
    }
  for (let y = h - 1; y >= 0; y--)
    for (let x = w - 1; x >= 0; x--) {
      const i = y * w + x;
      if (x < w - 1) take(i, i + 1);
      if (y < h - 1) take(i, i + w);
    }
  return d;
}

/**
 * Fills rows y0 to y1 of the picture, in place: with the places that the patches came from, but in
 * the broad colours of the small copy, so that no step shows; near what is known the two go over
 * into each other. What is filled counts as covered by a half.
 */
export function fillRows(
  heap: Heap,
  acc: Accumulator,
  patchwork: AllocatedPatchwork,
  y0: number,
  y1: number,
): void {
  const { width: w, height: h } = patchwork;
  const n = w * h;
  const all = acc.width * acc.height;
  const sx = acc.width / w;
  const sy = acc.height / h;
  const colour = heap.f32(patchwork.colour, n * 3);
  const firm = heap.u8(patchwork.firm, n);
  const dx = new Int16Array(heap.memory.buffer, patchwork.dx, n);
  const dy = new Int16Array(heap.memory.buffer, patchwork.dy, n);
  const planes = [0, 1, 2].map((c) => heap.f32(acc.ptr + c * acc.planeBytes, all)) as [
    Float32Array,
    Float32Array,
    Float32Array,
  ];
  const W = heap.f32(acc.ptr + 3 * acc.planeBytes, all);
  const low = new Float32Array(3);
  const made = new Float32Array(3);
  const lowAt = (x: number, y: number): void => {
    const gx = clamp((x + 0.5) / sx - 0.5, 0, w - 1);
    const gy = clamp((y + 0.5) / sy - 0.5, 0, h - 1);
    const i = Math.floor(gx);
    const j = Math.floor(gy);
    const fx = gx - i;
    const fy = gy - j;
    const a = (j * w + i) * 3;
    const b = i < w - 1 ? a + 3 : a;
    const c = j < h - 1 ? a + w * 3 : a;
    const d = c + b - a;
    for (let k = 0; k < 3; k++) {
      const t = colour[a + k]! + (colour[b + k]! - colour[a + k]!) * fx;
      const u = colour[c + k]! + (colour[d + k]! - colour[c + k]!) * fx;
      low[k] = t + (u - t) * fy;
    }
  };
  for (let y = y0; y < y1; y++) {
    const gy = clamp((y + 0.5) / sy - 0.5, 0, h - 1);
    const j = Math.floor(gy);
    const fy = gy - j;
    const j1 = Math.min(h - 1, j + 1);
    for (let x = 0; x < acc.width; x++) {
      const gx = clamp((x + 0.5) / sx - 0.5, 0, w - 1);
      const i = Math.floor(gx);
      const fx = gx - i;
      const i1 = Math.min(w - 1, i + 1);
      const cells = [j * w + i, j * w + i1, j1 * w + i, j1 * w + i1] as const;
      if (
        firm[cells[0]] === 255 &&
        firm[cells[1]] === 255 &&
        firm[cells[2]] === 255 &&
        firm[cells[3]] === 255
      )
        continue;
      const share = [(1 - fx) * (1 - fy), fx * (1 - fy), (1 - fx) * fy, fx * fy] as const;
      const at = y * acc.width + x;
      let known = 0;
      let weight = 0;
      made.fill(0);
      for (let q = 0; q < 4; q++) {
        const c = cells[q]!;
        known += share[q]! * (firm[c]! / 255);
        if (share[q]! < 1e-3 || (!dx[c] && !dy[c])) continue;
        const u = Math.round(x + dx[c]! * sx);
        const v = Math.round(y + dy[c]! * sy);
        if (u < 0 || v < 0 || u >= acc.width || v >= acc.height || W[v * acc.width + u] !== 1)
          continue;
        lowAt(u, v);
        // two patches go over into each other on a short way, or their texture would be averaged
        // away
        const confidence = share[q]! ** 2;
        for (let k = 0; k < 3; k++)
          made[k]! +=
            confidence * (Math.sqrt(Math.max(0, planes[k]![v * acc.width + u]!)) - low[k]!);
        weight += confidence;
      }
      if (!(W[at]! > 0)) known = 0;
      lowAt(x, y);
      for (let k = 0; k < 3; k++) {
        const filled = Math.max(0, low[k]! + (weight > 0 ? made[k]! / weight : 0)) ** 2;
        planes[k]![at] = known > 0 ? planes[k]![at]! * known + filled * (1 - known) : filled;
      }
      if (!(W[at]! > 0)) W[at] = 0.5;
    }
  }
}

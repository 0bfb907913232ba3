import type { Heap } from "../../kernels/heap";
import { smallest } from "../raster/smallest";
import { windowVariance } from "../raster/windowVariance";
import { luminance } from "../colour/luminance";
import { fromOklab, oklab } from "./oklab";

/** Cells of the longer edge of the grid on which parts are found. */
const LONG_EDGE = 1280;
/** Light at which colours are compared, linear: what is in shade has the hue of what is lit. */
const EQUAL_LIGHT = 0.4;

/** What parts are found by: log2 luminance, Oklab's a and b at equal light, texture in EV; planes. */
export interface ColourGrid {
  width: number;
  height: number;
  /** address of four planes of width x height floats */
  at: number;
}

/** Size of the grid of a picture. */
export function colourGridSize(width: number, height: number): { width: number; height: number } {
  const s = Math.min(1, LONG_EDGE / Math.max(width, height));
  return { width: Math.max(1, Math.round(width * s)), height: Math.max(1, Math.round(height * s)) };
}

/** Bytes of a grid's planes. */
export const colourGridBytes = ({ width, height }: { width: number; height: number }): number =>
  4 * (width * height * 4) + 64;

/** The address of a plane of a grid. */
export const colourPlane = ({ width, height, at }: ColourGrid, plane: number): number =>
  at + plane * width * height * 4;

/**
 * Fills rows g0 to g1 of the light and colour of a grid from a scene's mean over each cell; texture
 * is found when all are there, by `measureTexture`.
 */
export function reduceColour(
  heap: Heap,
  scene: { ptr: number; planeBytes: number; width: number; height: number },
  grid: ColourGrid,
  lowest: number,
  g0: number,
  g1: number,
): void {
  const { width: w, height: h } = grid;
  const n = w * h;
  const [light, a, b] = [0, 1, 2].map((p) => heap.f32(colourPlane(grid, p), n)) as [
    Float32Array,
    Float32Array,
    Float32Array,
  ];
  const planes = [0, 1, 2].map((c) =>
    heap.f32(scene.ptr + c * scene.planeBytes, scene.width * scene.height),
  );
  for (let gy = g0; gy < g1; gy++) {
    const y0 = Math.floor((gy * scene.height) / h);
    const y1 = Math.max(y0 + 1, Math.floor(((gy + 1) * scene.height) / h));
    for (let gx = 0; gx < w; gx++) {
      const x0 = Math.floor((gx * scene.width) / w);
      const x1 = Math.max(x0 + 1, Math.floor(((gx + 1) * scene.width) / w));
      const rgb = planes.map((plane) => {
        let sum = 0;
        for (let y = y0; y < y1; y++)
          for (let x = x0; x < x1; x++) sum += plane[y * scene.width + x]!;
        const mean = sum / ((x1 - x0) * (y1 - y0));
        return Number.isFinite(mean) ? Math.max(0, mean) : 0;
      }) as [number, number, number];
      const i = gy * w + gx;
      const y = luminance(...rgb);
      light[i] = Math.log2(Math.max(lowest, y, 1e-18));
      const even = y > lowest ? EQUAL_LIGHT / y : 0;
      const [, ca, cb] = oklab([rgb[0] * even, rgb[1] * even, rgb[2] * even]);
      a[i] = ca;
      b[i] = cb;
    }
  }
}

/**
 * Fills the texture of a grid: standard deviation of log luminance in windows of 5 x 5, the least of
 * those that a cell lies in, so that an edge beside it does not count as its texture.
 */
export function measureTexture(heap: Heap, grid: ColourGrid): void {
  const { width: w, height: h } = grid;
  const n = w * h;
  const mark = heap.mark();
  const spare = windowVariance(heap, colourPlane(grid, 0), w, h, 2);
  heap.k.roots(spare, n);
  heap.f32(colourPlane(grid, 3), n).set(smallest(heap.f32(spare, n), w, h, 3));
  heap.release(mark);
}

/** Oklab's lightness of grey at that light. */
const EQUAL_LIGHTNESS = 0.7368;

/** A cell's colour as linear R, G, B of luminance 1; some of it may be below 0. */
export function colourOfCell(a: number, b: number): [number, number, number] {
  const rgb = fromOklab([EQUAL_LIGHTNESS, a, b]);
  const y = Math.max(1e-6, luminance(...rgb));
  return [rgb[0] / y, rgb[1] / y, rgb[2] / y];
}

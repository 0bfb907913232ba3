import type { Heap } from "../../kernels/heap";
import { guidedFilter } from "../raster/guidedFilter";
import { smallest } from "../raster/smallest";
import { colourOfCell, colourPlane, type ColourGrid } from "./colourGrid";
import type { Finish } from "./finish";
import { fitLines } from "./lines";

/** Radius of the window in which something without haze is dark in a channel, share of the longer edge. */
const WINDOW_SHARE = 0.008;
/** How much of the haze is taken for haze: a little is left, so that depth is still seen. */
const KEPT = 0.92;
/** Transmission is no lower than this. */
const LEAST = 0.12;
/** Share of the cells with the thickest haze from which the air's light is taken. */
const THICKEST = 0.001;
/** Radius and variance of the filter that carries transmission along edges. */
const GUIDE_SHARE = 0.03;
const GUIDE_EPS = 0.25 ** 2;

/**
 * Where the air is: -log2 of its transmission as lines in log luminance, and the colour of its light.
 *
 * @param at  where the lines go
 * @see He, Sun, Tang, "Single image haze removal using dark channel prior", TPAMI 2011
 */
export function findAir(heap: Heap, grid: ColourGrid, at: number): NonNullable<Finish["air"]> {
  const { width: w, height: h } = grid;
  const n = w * h;
  const mark = heap.mark();
  const colours = coloursOf(heap, grid);
  const radius = Math.max(1, Math.round(Math.max(w, h) * WINDOW_SHARE));
  const least = new Float32Array(n);
  for (let i = 0; i < n; i++)
    least[i] = Math.min(colours[3 * i]!, colours[3 * i + 1]!, colours[3 * i + 2]!);
  const dark = smallest(least, w, h, radius);
  const colour = airColour(dark, colours);
  for (let i = 0; i < n; i++)
    least[i] = Math.min(
      colours[3 * i]! / colour[0],
      colours[3 * i + 1]! / colour[1],
      colours[3 * i + 2]! / colour[2],
    );
  const values = heap.alloc(n * 4 + 64);
  const depth = heap.f32(values, n);
  const hazy = smallest(least, w, h, radius);
  for (let i = 0; i < n; i++)
    depth[i] = -Math.log2(Math.max(LEAST, Math.min(1, 1 - KEPT * hazy[i]!)));
  const light = colourPlane(grid, 0);
  const reach = Math.max(2, Math.round(Math.max(w, h) * GUIDE_SHARE));
  const smooth = guidedFilter(heap, values, light, w, h, reach, GUIDE_EPS);
  // the filter spreads the depth of what is bright a little over its border: no further than it was
  const found = heap.f32(smooth, n);
  const widest = smallest(
    Float32Array.from(depth, (d) => -d),
    w,
    h,
    radius,
  );
  for (let i = 0; i < n; i++) found[i] = Math.min(found[i]!, -widest[i]!);
  const lines = fitLines(heap, smooth, light, w, h, at);
  heap.release(mark);
  return { ...lines, colour };
}

/** Linear R, G, B of each cell, from its light and its colour at equal light. */
function coloursOf(heap: Heap, grid: ColourGrid): Float32Array {
  const n = grid.width * grid.height;
  const [light, a, b] = [0, 1, 2].map((p) => heap.f32(colourPlane(grid, p), n)) as [
    Float32Array,
    Float32Array,
    Float32Array,
  ];
  const out = new Float32Array(3 * n);
  for (let i = 0; i < n; i++) {
    const rgb = colourOfCell(a[i]!, b[i]!);
    const by = 2 ** light[i]!;
    for (let c = 0; c < 3; c++) out[3 * i + c] = Math.max(0, rgb[c]! * by);
  }
  return out;
}

/** The air's own light: the mean of what shows least of anything else. */
function airColour(dark: Float32Array, colours: Float32Array): [number, number, number] {
  const n = dark.length;
  const sorted = Float32Array.from(dark).sort();
  const from = sorted[Math.max(0, n - 1 - Math.ceil(n * THICKEST))]!;
  const sum: [number, number, number] = [0, 0, 0];
  let count = 0;
  for (let i = 0; i < n; i++)
    if (dark[i]! >= from) {
      for (let c = 0; c < 3; c++) sum[c]! += colours[3 * i + c]!;
      count++;
    }
  return sum.map((v) => Math.max(1e-6, v / Math.max(1, count))) as [number, number, number];
}

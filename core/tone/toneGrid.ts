import type { Heap } from "../../kernels/heap";
import { quantiles } from "../math/quantiles";

/**
 * The picture reduced for tone analysis: log2 luminance in EV, a plane at `ptr`, at most
 * GRID_LONG_EDGE long.
 */
export interface ToneGrid {
  width: number;
  height: number;
  ptr: number;
  /**
   * the scene's black: no cell is below it, and light below it is noise or nothing. The same for
   * every use of a logarithm.
   */
  floorEv: number;
}
export const GRID_LONG_EDGE = 640;
/** Where a mean of nothing is put until the scene's floor is known. */
export const LOWEST_EV = -59;
/** EV below the lights at which even the widest scene has ended. */
const WIDEST_SCENE_EV = 24;

/** Size of the tone grid of a picture, in cells. */
export function gridSize(width: number, height: number): { width: number; height: number } {
  const s = Math.min(1, GRID_LONG_EDGE / Math.max(width, height));
  return { width: Math.max(1, Math.round(width * s)), height: Math.max(1, Math.round(height * s)) };
}

/**
 * Fills the rows g0 to g1 of the grid: log2 of the mean luminance (linear Rec. 2020) over each cell
 * of the scene.
 */
export function reduceToGrid(
  heap: Heap,
  scene: { ptr: number; planeBytes: number; width: number; height: number },
  grid: Omit<ToneGrid, "floorEv">,
  g0: number,
  g1: number,
): void {
  const { width: gw, height: gh, ptr } = grid;
  const mark = heap.mark();
  const xs = heap.alloc((gw + 1) * 4);
  const sums = heap.alloc(gw * 8);
  heap
    .i32(xs, gw + 1)
    .set(Array.from({ length: gw + 1 }, (_, i) => Math.floor((i * scene.width) / gw)));
  for (let gy = g0; gy < g1; gy++) {
    const top = Math.floor((gy * scene.height) / gh);
    const bottom = Math.max(top + 1, Math.floor(((gy + 1) * scene.height) / gh));
    heap.k.gridRow(
      scene.ptr,
      scene.planeBytes,
      scene.width,
      top,
      bottom,
      xs,
      gw,
      sums,
      LOWEST_EV,
      ptr + gy * gw * 4,
    );
  }
  heap.release(mark);
}

/**
 * Finds the scene's floor, and raises the cells that are below it: light that no exposure could
 * tell from noise, and places of which every frame says 0, whose logarithm would otherwise be as
 * far down as one cares to write.
 *
 * @param noise  standard deviation of the scene's noise in the dark, linear, on the scene's scale;
 *   0 where not known
 * @returns the floor in EV
 */
export function floorGrid(
  heap: Heap,
  { width, height, ptr }: Omit<ToneGrid, "floorEv">,
  noise: number,
): number {
  const n = width * height;
  const [lights] = quantiles(heap, ptr, n, [0.998]) as [number];
  // as a cell holds it
  const floorEv = Math.fround(
    Math.max(lights - WIDEST_SCENE_EV, noise > 0 ? Math.log2(noise) : LOWEST_EV, LOWEST_EV),
  );
  const cells = heap.f32(ptr, n);
  for (let i = 0; i < n; i++) cells[i] = Math.max(floorEv, cells[i]!);
  return floorEv;
}

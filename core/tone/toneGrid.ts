import type { Heap } from "../../kernels/heap";

/** The picture reduced for tone analysis: log2 luminance in EV, a plane at `ptr`, at most GRID_LONG_EDGE long. */
export interface ToneGrid { width: number; height: number; ptr: number }
export const GRID_LONG_EDGE = 640;
export const GRID_FLOOR_EV = -20;

export function gridSize(width: number, height: number): { width: number; height: number } {
  const s = Math.min(1, GRID_LONG_EDGE / Math.max(width, height));
  return { width: Math.max(1, Math.round(width * s)), height: Math.max(1, Math.round(height * s)) };
}

/** Fills the rows g0 to g1 of the grid: log2 of the mean luminance (linear Rec. 2020) over each cell of the scene. */
export function reduceToGrid(heap: Heap, scene: { ptr: number; planeBytes: number; width: number; height: number }, grid: ToneGrid, g0: number, g1: number): void {
  const { width: gw, height: gh, ptr } = grid, mark = heap.mark();
  const xs = heap.alloc((gw + 1) * 4), sums = heap.alloc(gw * 8);
  heap.i32(xs, gw + 1).set(Array.from({ length: gw + 1 }, (_, i) => Math.floor((i * scene.width) / gw)));
  for (let gy = g0; gy < g1; gy++) {
    const top = Math.floor((gy * scene.height) / gh), bottom = Math.max(top + 1, Math.floor(((gy + 1) * scene.height) / gh));
    heap.k.gridRow(scene.ptr, scene.planeBytes, scene.width, top, bottom, xs, gw, sums, GRID_FLOOR_EV, ptr + gy * gw * 4);
  }
  heap.release(mark);
}

import type { Heap } from "../../../kernels/heap";
import { columnOf, type Bounds } from "../blend/blend";
import type { Canvas } from "../canvas/projection";

/**
 * Cells of the seams' map that are one frame's (1) or not (0), `across` to a row at `cells`; beyond
 * the map its border goes on.
 */
export interface SeamWindow {
  cells: number;
  across: number;
  /** cells a px of the canvas */
  perX: number;
  perY: number;
  /** a px of the canvas, by its middle, among the cells: their middles lie at whole numbers */
  at(x: number, y: number): readonly [u: number, v: number];
  /** whether any of what lies between two px of the canvas is the frame's */
  any(x0: number, x1: number, y0: number, y1: number): boolean;
}

/**
 * The cells over a part of the canvas, px, and round it.
 *
 * @param labels  the map at this address
 * @param label  the frame's
 */
export function seamWindow(
  heap: Heap,
  labels: { ptr: number; width: number; height: number },
  canvas: Canvas,
  label: number,
  part: Bounds,
): SeamWindow {
  const perX = labels.width / canvas.width;
  const perY = labels.height / canvas.height;
  const map = heap.u8(labels.ptr, labels.width * labels.height);
  const left = Math.floor(part.x * perX - 0.5);
  const top = Math.floor(part.y * perY - 0.5);
  const across = Math.ceil((part.x + part.width) * perX - 0.5) + 2 - left;
  const rows = Math.ceil((part.y + part.height) * perY - 0.5) + 2 - top;
  const cells = heap.alloc(across * rows);
  const own = heap.u8(cells, across * rows);
  // how many are the frame's above and to the left of each, so that of any rectangle it is known at
  // once
  const line = across + 1;
  const sums = new Int32Array(line * (rows + 1));
  for (let r = 0, k = 0; r < rows; r++) {
    const row = Math.max(0, Math.min(labels.height - 1, top + r)) * labels.width;
    for (let c = 0, here = 0; c < across; c++, k++) {
      here += own[k] = map[row + columnOf(left + c, labels.width, canvas.closed)] === label ? 1 : 0;
      sums[(r + 1) * line + c + 1] = sums[r * line + c + 1]! + here;
    }
  }
  return {
    cells,
    across,
    perX,
    perY,
    at: (x, y) => [(x + 0.5) * perX - 0.5 - left, (y + 0.5) * perY - 0.5 - top],
    any(x0, x1, y0, y1) {
      const a = Math.floor(x0 * perX - 0.5) - left;
      const b = Math.ceil(x1 * perX - 0.5) + 1 - left;
      const c = (Math.floor(y0 * perY - 0.5) - top) * line;
      const d = (Math.ceil(y1 * perY - 0.5) + 1 - top) * line;
      return sums[d + b]! - sums[d + a]! - sums[c + b]! + sums[c + a]! > 0;
    },
  };
}

import type { Rectangle } from "../../core/raster/largestRectangle";
import { applyRepair } from "../../core/retouch/applyRepair";
import type { PlacedRows } from "../../core/retouch/logWindow";
import type { Repair } from "../../core/retouch/repair";
import type { Heap } from "../../kernels/heap";
import type { StepContext } from "../stepContext";

const reachInto = (heap: Heap, { ptr, planeBytes }: PlacedRows): void =>
  heap.ensure(ptr + planeBytes * 4);

/** What retouching asks of a worker. */
export const retouchTasks = {
  /** Puts a place right. @returns where it takes from, shares of the picture */
  repair(
    { heap }: StepContext,
    a: { rows: PlacedRows; repair: Repair; size: { width: number; height: number } },
  ) {
    reachInto(heap, a.rows);
    return applyRepair(heap, a.rows, a.repair, a.size);
  },

  /** Copies a region of a picture that two windows of it have in common, all four planes. */
  copyRegion(
    { heap }: StepContext,
    { from, to, region }: { from: PlacedRows; to: PlacedRows; region: Rectangle },
  ) {
    for (const rows of [from, to]) reachInto(heap, rows);
    for (let c = 0; c < 4; c++)
      for (let y = region.y; y < region.y + region.height; y++) {
        const at = ({ ptr, planeBytes, width, x, y: top }: PlacedRows): number =>
          ptr + c * planeBytes + ((y - top) * width + region.x - x) * 4;
        heap.f32(at(to), region.width).set(heap.f32(at(from), region.width));
      }
  },
};

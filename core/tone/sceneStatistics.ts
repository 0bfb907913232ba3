import type { Heap } from "../../kernels/heap";
import { quantiles } from "./quantiles";
import type { ToneGrid } from "./toneGrid";

export interface SceneStatistics {
  /** counts per bin of 1/4 EV, the first bin starting at `fromEv` (0 EV = the reference frame's saturation) */
  fromEv: number; binEv: number; counts: number[];
  /** EV between the 0.1 % darkest and 0.1 % brightest parts */
  rangeEv: number; lowEv: number; highEv: number;
  /** light below it is noise or nothing */
  floorEv: number;
}

/** How the scene's luminance is spread, in EV against the reference frame's saturation. */
export function sceneStatistics(heap: Heap, grid: ToneGrid): SceneStatistics {
  const n = grid.width * grid.height, fromEv = -14, binEv = 0.25, bins = 96, mark = heap.mark(), at = heap.alloc(bins * 4);
  heap.i32(at, bins).fill(0);
  heap.k.histogram(grid.ptr, n, fromEv, 1 / binEv, bins, at);
  const counts = [...heap.i32(at, bins)], [lowEv, highEv] = quantiles(heap, grid.ptr, n, [0.001, 0.999]) as [number, number];
  heap.release(mark);
  return { fromEv, binEv, counts, lowEv, highEv, rangeEv: highEv - lowEv, floorEv: grid.floorEv };
}

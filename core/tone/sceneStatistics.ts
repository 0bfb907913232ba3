import type { Heap } from "../../kernels/heap";
import { quantiles } from "../math/quantiles";
import type { ToneGrid } from "./toneGrid";
import { clamp } from "../math/clamp";

export interface SceneStatistics {
  /**
   * counts per bin of 1/4 EV, the first bin starting at `fromEv` (0 EV = the reference frame's
   * saturation); what is black or uncovered is in none
   */
  fromEv: number;
  binEv: number;
  counts: number[];
  /** EV between the 0.1 % darkest and 0.1 % brightest parts */
  rangeEv: number;
  lowEv: number;
  highEv: number;
  /** light below it is noise or nothing */
  floorEv: number;
}

const FROM_EV = -14;
const BIN_EV = 0.25;
const BINS = 96;

/** How the scene's luminance is spread, in EV against the reference frame's saturation. */
export function sceneStatistics(heap: Heap, grid: ToneGrid): SceneStatistics {
  const n = grid.width * grid.height;
  const { floorEv } = grid;
  const mark = heap.mark();
  const at = heap.alloc(BINS * 4);
  heap.i32(at, BINS).fill(0);
  heap.k.histogram(grid.ptr, n, FROM_EV, 1 / BIN_EV, BINS, at);
  const counts = [...heap.i32(at, BINS)];
  const black = heap.f32(grid.ptr, n).reduce((sum, ev) => sum + (ev <= floorEv ? 1 : 0), 0);
  counts[clamp(Math.floor((floorEv - FROM_EV) / BIN_EV), 0, BINS - 1)]! -= black;
  const [lowEv, highEv] = quantiles(heap, grid.ptr, n, [0.001, 0.999]) as [number, number];
  heap.release(mark);
  return {
    fromEv: FROM_EV,
    binEv: BIN_EV,
    counts,
    lowEv,
    highEv,
    rangeEv: highEv - lowEv,
    floorEv,
  };
}

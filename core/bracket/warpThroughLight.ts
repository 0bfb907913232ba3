import type { Heap } from "../../kernels/heap";
import { renderStrip, type RenderSettings } from "../tone/renderStrip";
import { TILE_ROWS } from "../raster/sampleTile";
import { foldFrame, foldScratch, type FoldInput } from "./foldFrame";
import { planeBytesOf } from "../raster/accumulator";

/** Neither balanced nor toned. */
const AS_IT_IS: RenderSettings = {
  gains: [1, 1, 1],
  exposure: 0,
  space: "srgb",
  linear: false,
};

/**
 * Lays rows y0 to y1 of a frame in the reference frame's place as an sRGB picture of 16 bit by way
 * of its light, as frames whose primaries are others need it.
 *
 * @param matrix  the frame's linear RGB to the working space
 * @param gain    factor on light
 * @param to      the picture that is laid out at `dst`
 */
export function warpThroughLight(
  heap: Heap,
  input: FoldInput,
  matrix: readonly number[],
  gain: number,
  to: { width: number; height: number },
  dst: number,
  y0: number,
  y1: number,
): void {
  const mark = heap.mark();
  const { width } = to;
  const planeBytes = planeBytesOf(width, TILE_ROWS);
  const block = heap.alloc(planeBytes * 4);
  const m = heap.put(matrix.map((v) => v * gain));
  const flat = heap.put(new Float32Array(16));
  for (let top = y0; top < y1; top += TILE_ROWS) {
    const end = Math.min(y1, top + TILE_ROWS);
    const rows = { ptr: block - top * width * 4, planeBytes, ...to };
    heap.k.zero(block, planeBytes * 4);
    foldFrame(heap, rows, input, top, end);
    heap.k.finaliseRadiance(block, planeBytes, (end - top) * width, m);
    renderStrip(
      heap,
      rows,
      { width: 2, height: 2, slopes: flat, offsets: flat, shoulderStart: 2, white: 1, floor: 0 },
      AS_IT_IS,
      { x: 0, y: 0, ...to },
      "rgb16",
      dst,
      top,
      end,
    );
  }
  heap.release(mark);
}
/** Bytes of scratch for a frame so many px wide. */
export const warpScratch = (width: number, type: FoldInput["type"]): number =>
  foldScratch(width, type) + planeBytesOf(width, TILE_ROWS) * 4 + width * 64 + (1 << 18);

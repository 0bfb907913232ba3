import { SAMPLE_BYTES, SAMPLE_KIND, type Heap } from "../../kernels/heap";
import { encode, fromWorking, SPACES } from "../colour/spaces";
import { isIdentity, multiply } from "../math/matrix3";
import { TILE, TILE_ROWS, tileColumns, tileRows } from "../raster/sampleTile";
import type { FoldInput } from "./foldFrame";
import { clamp } from "../math/clamp";

export type EncodedInput = Pick<
  FoldInput,
  "samples" | "type" | "width" | "height" | "lut" | "fromReference" | "sampling" | "beyond"
>;

/**
 * Whether a frame's own primaries are sRGB's, so that its samples are an sRGB picture but for their
 * curve.
 */
export function isPlainSrgb(matrix: readonly number[], type: FoldInput["type"]): boolean {
  return (
    type !== "f32" &&
    isIdentity(multiply(fromWorking("srgb"), matrix).map((v) => Math.round(v * 500) / 500))
  );
}

/**
 * Table values are halved while they are sampled: so the brightest is no clipped one, for which the
 * nearest would do.
 */
const TABLE_SCALE = 0.5;

/** Tables from a sample to sRGB as the screen shows it, with a factor on light, halved. */
export function encodedTables(lut: Float32Array, gain: number): Float32Array {
  return lut.map((v) => TABLE_SCALE * encode(SPACES.srgb.curve, clamp(v * gain, 0, 1)));
}

/**
 * Lays rows y0 to y1 of a frame in the reference frame's place as an sRGB picture of 16 bit,
 * sampled as it is encoded: what fusion weighs and blends is the picture, not its light.
 *
 * @param input   with `lut` from encodedTables
 * @param width   of the picture at `dst`
 */
export function warpEncoded(
  heap: Heap,
  input: EncodedInput,
  width: number,
  dst: number,
  y0: number,
  y1: number,
): void {
  const outer = heap.mark();
  const lut = heap.putTables(input.lut, input.type);
  const h = heap.put(input.fromReference, "f64");
  if (isIdentity(input.fromReference)) {
    const row = heap.alloc(width * 16 + 64);
    for (let y = y0; y < y1; y++) {
      heap.k.linearise(
        input.samples + y * input.width * SAMPLE_BYTES[input.type] * 3,
        SAMPLE_KIND[input.type],
        width,
        lut,
        row,
      );
      heap.k.packRow(row, width, 1 / TABLE_SCALE, dst + y * width * 6);
    }
  } else {
    const row = heap.alloc(TILE * 16 + 64);
    const columns = tileColumns(input.fromReference, { width, height: y1 });
    for (let b0 = y0; b0 < y1; b0 += TILE_ROWS)
      for (let x0 = 0; x0 < width; x0 += columns) {
        const b1 = Math.min(y1, b0 + TILE_ROWS);
        const x1 = Math.min(width, x0 + columns);
        const inner = heap.mark();
        const sample = tileRows(heap, input, lut, h, { x0, y0: b0, x1, y1: b1 }, true);
        for (let y = b0; y < b1; y++) {
          if (!sample) {
            heap.k.zero(dst + (y * width + x0) * 6, (x1 - x0) * 6);
            continue;
          }
          sample(y, x0, x1 - x0, row);
          heap.k.packRow(row, x1 - x0, 1 / TABLE_SCALE, dst + (y * width + x0) * 6);
        }
        heap.release(inner);
      }
  }
  heap.release(outer);
}

import type { Heap } from "../../kernels/heap";
import { clamp } from "../math/clamp";
import type { ToneField } from "../tone/toneField";

/**
 * EV from the scene to the display at each cell of a grid, as the tone field has it.
 *
 * @param light  log2 luminance of the cells
 * @param moved  EV by which the picture lies higher than the field says
 */
export function shownEvOf(
  heap: Heap,
  light: Float32Array,
  { width, height }: { width: number; height: number },
  field: ToneField,
  moved: number,
): Float32Array {
  const n = field.width * field.height;
  const [slopes, offsets] = [heap.f32(field.slopes, n), heap.f32(field.offsets, n)];
  const out = new Float32Array(width * height);
  for (let y = 0, i = 0; y < height; y++) {
    const fy = clamp(Math.round(((y + 0.5) * field.height) / height - 0.5), 0, field.height - 1);
    for (let x = 0; x < width; x++, i++) {
      const fx = clamp(Math.round(((x + 0.5) * field.width) / width - 0.5), 0, field.width - 1);
      const at = fy * field.width + fx;
      out[i] = slopes[at]! * light[i]! + offsets[at]! + moved;
    }
  }
  return out;
}

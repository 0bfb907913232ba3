import type { Matrix3 } from "../math/matrix3";
import { clamp } from "../math/clamp";

/** From here on a sample is on its way to being clipped, and keeps more and more of what it was. */
const NEARLY_CLIPPED = 0.9;
const CLIPPED = 0.985;

/**
 * Gives a frame a white of its own: its light through a matrix, as square roots in 16 bit. A
 * clipped sample stays clipped, so that the merge does not take it for a measured one.
 *
 * @param from  RGB samples, with tables R, G, B after each other to light (none for floats)
 * @param i0  first sample, @param i1  the one behind the last
 */
export function whiten(
  from: ArrayLike<number>,
  lut: Float32Array,
  m: Matrix3,
  out: Uint16Array,
  i0: number,
  i1: number,
): void {
  const size = lut.length / 3;
  const light = size
    ? (c: number, v: number): number => lut[c * size + v]!
    : (_: number, v: number): number => v;
  for (let i = i0; i < i1; i += 3) {
    const rgb = [light(0, from[i]!), light(1, from[i + 1]!), light(2, from[i + 2]!)] as const;
    for (let c = 0; c < 3; c++) {
      const was = rgb[c]!;
      const turned = m[c * 3]! * rgb[0] + m[c * 3 + 1]! * rgb[1] + m[c * 3 + 2]! * rgb[2];
      const kept = clamp((was - NEARLY_CLIPPED) / (CLIPPED - NEARLY_CLIPPED), 0, 1);
      out[i + c] = Math.min(
        65535,
        Math.round(
          Math.sqrt(Math.max(0, turned + (was - turned) * kept * kept * (3 - 2 * kept))) * 65535,
        ),
      );
    }
  }
}

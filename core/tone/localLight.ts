import { lightMask, type LocalGains } from "../colour/localWhite";
import type { Heap } from "../../kernels/heap";

/** Px of the masks' longer edge: as fine as moving things are marked. */
const MASK_EDGE = 800;
/** Masks made before, by their shape: a slider renders the same ones again and again. */
const masks = new Map<string, Float32Array>();
const KEPT = 24;

interface Mask {
  mask: Float32Array;
  width: number;
  height: number;
  gains: LocalGains["gains"];
}

/** The masks of parts in a picture of these proportions. */
export function localMasks(parts: readonly LocalGains[], aspect: number): Mask[] {
  const width = Math.max(2, Math.round(aspect >= 1 ? MASK_EDGE : MASK_EDGE * aspect));
  const height = Math.max(2, Math.round(width / aspect));
  return parts.map(({ gains, ...part }) => {
    const key = JSON.stringify([part, width, height]);
    const mask = masks.get(key) ?? lightMask(part, { width, height });
    masks.delete(key);
    masks.set(key, mask);
    if (masks.size > KEPT) masks.delete(masks.keys().next().value!);
    return { mask, width, height, gains };
  });
}

/**
 * Lays parts' factors on a row of n pixels: planes R, G, B at `row`, `planeBytes` apart. The light
 * of a border is a mix of that on either side, so the factors are mixed and not their logarithms.
 *
 * @param x, step  where the first pixel's centre lies across the picture, and how far the next;
 *   @param y  how far down; shares
 */
export function lightRow(
  heap: Heap,
  parts: readonly Mask[],
  row: number,
  planeBytes: number,
  n: number,
  x: number,
  step: number,
  y: number,
): void {
  const planes = [0, 1, 2].map((c) => heap.f32(row + c * planeBytes, n)) as [
    Float32Array,
    Float32Array,
    Float32Array,
  ];
  for (const { mask, width, height, gains } of parts) {
    const gy = Math.max(0, Math.min(height - 1, y * height - 0.5));
    const y0 = Math.floor(gy);
    const fy = gy - y0;
    const a = y0 * width;
    const b = Math.min(height - 1, y0 + 1) * width;
    for (let i = 0; i < n; i++) {
      const gx = Math.max(0, Math.min(width - 1, (x + i * step) * width - 0.5));
      const x0 = Math.floor(gx);
      const fx = gx - x0;
      const x1 = Math.min(width - 1, x0 + 1);
      const top = mask[a + x0]! + (mask[a + x1]! - mask[a + x0]!) * fx;
      const m = top + (mask[b + x0]! + (mask[b + x1]! - mask[b + x0]!) * fx - top) * fy;
      if (m > 0) for (let c = 0; c < 3; c++) planes[c]![i]! *= 1 + m * (gains[c]! - 1);
    }
  }
}

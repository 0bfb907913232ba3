import type { Level } from "./sphereLevels";
import { type Affine, place, valueAt } from "./fitAffine";

/**
 * Parts of a frame across and down; EV of variance and samples from which on one has texture;
 * correlation at which it fits; parts that tell.
 */
const PARTS_ACROSS = 6;
const MIN_TEXTURE = 0.1 ** 2;
const MIN_SAMPLES = 24;
const MIN_PART_CORRELATION = 0.4;
const MIN_TEXTURED_PARTS = 6;

/**
 * Of the parts that have texture in both, the share that correlates; undefined where too few tell.
 */
export function alikeParts(a: Level, b: Level, map: Affine): number | undefined {
  const sums = Array.from({ length: PARTS_ACROSS * PARTS_ACROSS }, () => ({
    n: 0,
    a: 0,
    b: 0,
    aa: 0,
    bb: 0,
    ab: 0,
  }));
  for (let y = 0; y < a.h; y++)
    for (let x = 0; x < a.w; x++) {
      if (!place(a, b, map, x, y)) continue;
      const p = a.value[y * a.w + x]!;
      const q = valueAt(b);
      const s =
        sums[
          Math.floor((y * PARTS_ACROSS) / a.h) * PARTS_ACROSS + Math.floor((x * PARTS_ACROSS) / a.w)
        ]!;
      s.n++;
      s.a += p;
      s.b += q;
      s.aa += p * p;
      s.bb += q * q;
      s.ab += p * q;
    }
  let informative = 0;
  let fits = 0;
  for (const s of sums) {
    const va = s.aa - (s.a * s.a) / s.n;
    const vb = s.bb - (s.b * s.b) / s.n;
    if (s.n < MIN_SAMPLES || Math.min(va, vb) < MIN_TEXTURE * s.n) continue;
    informative++;
    if (s.ab - (s.a * s.b) / s.n > MIN_PART_CORRELATION * Math.sqrt(va * vb)) fits++;
  }
  return informative < MIN_TEXTURED_PARTS ? undefined : fits / informative;
}

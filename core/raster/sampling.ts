import { FILTERS } from "./resize";

/** How a frame that moved is sampled: by the cubic of Keys (1981), more softly, or more sharply. */
export const SAMPLINGS = ["bicubic", "bilinear", "lanczos3"] as const;
export type Sampling = (typeof SAMPLINGS)[number];

/** Fractions of a pixel that the kernel tells apart, and floats a fraction. */
const FRACTIONS = 1024;
const STRIDE = 8;
const made = new Map<Sampling, Float32Array>();

/**
 * The six taps' weights for each fraction of a pixel, as the kernel takes them. The cubic's are
 * built into its own.
 */
export function tapWeights(sampling: Exclude<Sampling, "bicubic">): Float32Array {
  let table = made.get(sampling);
  if (!table) {
    const { at } = FILTERS[sampling === "bilinear" ? "triangle" : sampling];
    made.set(sampling, (table = new Float32Array((FRACTIONS + 1) * STRIDE)));
    for (let k = 0; k <= FRACTIONS; k++) {
      const w = Array.from({ length: 6 }, (_, i) => at(i - 2 - k / FRACTIONS));
      const sum = w.reduce((s, v) => s + v, 0);
      table.set(
        w.map((v) => v / sum),
        k * STRIDE,
      );
    }
  }
  return table;
}

import type { Samples } from "../../kernels/heap";

/**
 * An interleaved RGB picture as decoded: samples, and three tables from sample to linear (empty for
 * linear floats).
 */
export interface LinearSamples {
  samples: Samples;
  lut: Float32Array;
  width: number;
  height: number;
}

/** The linear value of sample `i`. */
export function sampleAt({ samples, lut }: LinearSamples, i: number): number {
  const s = samples[i]!;
  return lut.length ? lut[(i % 3) * (lut.length / 3) + s]! : s;
}

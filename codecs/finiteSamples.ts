/** Beyond it sums of products of samples would leave what a float holds. */
const MAX_LIGHT = 1e9;

/** The brightest sample that can be trusted; 0 if none is brighter than black. */
export function brightestOf(samples: Float32Array): number {
  let brightest = 0;
  for (const v of samples) if (v > brightest && v <= MAX_LIGHT) brightest = v;
  return brightest;
}

/** Whether a sample is infinite, or as good as that. */
export const hasInfinite = (samples: Float32Array): boolean => samples.some((v) => v > MAX_LIGHT);

/**
 * Makes the samples of a float file finite, in place: what is infinite becomes the brightest that
 * the file holds, so that it stays the brightest and no filter rings round it; what is missing
 * (NaN) becomes black. Negative samples stay: they are colours outside the primaries.
 *
 * @param brightest  of the whole file, where these are only a part of its samples
 */
export function makeFinite(
  samples: Float32Array,
  brightest: number = brightestOf(samples),
): Float32Array {
  for (let i = 0; i < samples.length; i++) {
    const v = samples[i]!;
    if (v > MAX_LIGHT) samples[i] = brightest || 1;
    else if (!(v >= -MAX_LIGHT)) samples[i] = 0;
  }
  return samples;
}

/** Beyond it sums of products of samples would leave what a float holds. */
const MAX_LIGHT = 1e9;

/**
 * Makes the samples of a float file finite, in place: what is infinite becomes the brightest that
 * the file holds, so that it stays the brightest and no filter rings round it; what is missing
 * (NaN) becomes black. Negative samples stay: they are colours outside the primaries.
 */
export function makeFinite(samples: Float32Array): Float32Array {
  let brightest = 0;
  for (const v of samples) if (v > brightest && v <= MAX_LIGHT) brightest = v;
  for (let i = 0; i < samples.length; i++) {
    const v = samples[i]!;
    if (v > brightest) samples[i] = brightest || 1;
    else if (!(v >= -MAX_LIGHT)) samples[i] = 0;
  }
  return samples;
}

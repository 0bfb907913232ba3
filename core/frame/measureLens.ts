import { measureBending, type Measured } from "./measureBending";
import { measureFringe } from "./measureFringe";
import type { RootPlanes } from "./roots";

/**
 * What a frame tells of its lens, in the terms of `Preparation`; missing where it tells nothing for
 * sure.
 */
export interface LensFit {
  distortion?: Measured;
  /** from exposures between which the camera moved */
  vignetting?: Measured;
  fringeRed?: Measured;
  fringeBlue?: Measured;
}

/** Edges are looked at this long, px: finer shows the sensor's noise, coarser loses the bend. */
const EDGE = 1400;

/**
 * Measures a lens by one frame taken with it: how it bends what is straight, and how much larger it
 * draws red and blue than green.
 *
 * @param frame  at full size
 */
export function measureLens(frame: RootPlanes): Omit<LensFit, "vignetting"> {
  const { width, height, r, g, b } = frame;
  const by = Math.max(1, Math.round(Math.max(width, height) / EDGE));
  const w = Math.floor(width / by);
  const h = Math.floor(height / by);
  const grey = new Float32Array(w * h);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      let sum = 0;
      for (let v = y * by; v < (y + 1) * by; v++)
        for (let u = x * by, i = v * width + u; u < (x + 1) * by; u++, i++)
          sum += 0.3 * r[i]! + 0.6 * g[i]! + 0.1 * b[i]!;
      grey[y * w + x] = sum / (by * by * 255);
    }
  const distortion = measureBending(w, h, grey);
  const fringeRed = measureFringe(frame, r);
  const fringeBlue = measureFringe(frame, b);
  return {
    ...(distortion ? { distortion } : {}),
    ...(fringeRed ? { fringeRed } : {}),
    ...(fringeBlue ? { fringeBlue } : {}),
  };
}

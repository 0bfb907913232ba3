import type { Heap } from "../../kernels/heap";
import type { Adjustments } from "./adjustments";

/** Where a row lies in the picture. */
export interface RowPlace {
  /** shares: of the first pixel's centre, to the next, and down */
  x: number;
  step: number;
  y: number;
}

/** Adds light that rises across the picture, from minus half to plus half of its EV. */
export function addSlope(
  heap: Heap,
  { slope, slopeDirection }: Adjustments,
  { x, step, y }: RowPlace,
  mask: number,
  n: number,
  ev: number,
): void {
  const angle = (slopeDirection * Math.PI) / 180;
  const [right, up] = [Math.cos(angle), Math.sin(angle)];
  heap.k.addRamp(mask, n, slope * ((x - 0.5) * right - (y - 0.5) * up), slope * step * right, ev);
}

/** Adds the light of a vignette, which goes out from a centre. */
export function addVignette(
  heap: Heap,
  set: Adjustments,
  { x, step, y }: RowPlace,
  aspect: number,
  mask: number,
  n: number,
  ev: number,
): void {
  // half the sides in units of the width; a circle through the corners has their diagonal for both
  const [halfWidth, halfHeight] = [0.5, 0.5 / aspect];
  const diagonal = Math.hypot(halfWidth, halfHeight);
  const roundness = set.vignetteRoundness;
  const across = halfWidth * Math.SQRT2 * (1 - roundness) + diagonal * roundness;
  const down = halfHeight * Math.SQRT2 * (1 - roundness) + diagonal * roundness;
  const outer = set.vignetteSize;
  const width = Math.max(0.02, outer * set.vignetteFeather);
  heap.k.addRadial(
    mask,
    n,
    set.vignette,
    (x - set.vignetteX) / across,
    step / across,
    (y - set.vignetteY) / aspect / down,
    outer - width,
    width,
    ev,
  );
}

import { spanMembrane } from "./membrane";

/** EV by which light on both sides of a border may differ: more is another thing, and stays. */
const MOST_STEP = 0.4;
/** Cells from the border at which light is compared, inside and outside, where both are whole. */
const INSIDE_CELLS = 1;
const OUTSIDE_CELLS = 2.5;
const LEAST_BAND = 3;
/** Fewer px on a side say nothing. */
const LEAST_COUNT = 6;

/** Sums over squares of a plane in one look-up each. */
function summedArea(
  of: (i: number) => number,
  width: number,
  height: number,
): (x: number, y: number, radius: number) => number {
  const row = width + 1;
  const sums = new Float64Array(row * (height + 1));
  for (let y = 0, i = 0; y < height; y++) {
    let line = 0;
    for (let x = 0; x < width; x++, i++) {
      line += of(i);
      sums[(y + 1) * row + x + 1] = sums[y * row + x + 1]! + line;
    }
  }
  return (x, y, radius) => {
    const x0 = Math.max(0, x - radius);
    const y0 = Math.max(0, y - radius);
    const x1 = Math.min(width, x + radius + 1);
    const y1 = Math.min(height, y + radius + 1);
    return (
      sums[y1 * row + x1]! - sums[y0 * row + x1]! - sums[y1 * row + x0]! + sums[y0 * row + x0]!
    );
  };
}

/**
 * What has to be added to what was filled so that its light goes over into the light round it: the
 * small steps along its border, spanned over it. Large steps are things that end there, and are
 * spanned over as well.
 *
 * @param value  EV of each px
 * @param depth  px inside the filled shape, negative outside
 * @param cell   px that a cell of the patchwork takes
 * @returns      EV for each px
 */
export function borderLight(
  value: Float32Array,
  depth: Float32Array,
  width: number,
  height: number,
  cell: number,
): Float32Array {
  const band = Math.max(LEAST_BAND, 2 * cell);
  const isInside = (i: number): boolean =>
    depth[i]! >= INSIDE_CELLS * cell && depth[i]! <= INSIDE_CELLS * cell + band;
  const isOutside = (i: number): boolean =>
    depth[i]! <= -OUTSIDE_CELLS * cell && depth[i]! >= -OUTSIDE_CELLS * cell - band;
  const radius = Math.ceil(OUTSIDE_CELLS * cell + 2 * band);
  const inside = summedArea((i) => (isInside(i) ? value[i]! : 0), width, height);
  const insideCount = summedArea((i) => (isInside(i) ? 1 : 0), width, height);
  const outside = summedArea((i) => (isOutside(i) ? value[i]! : 0), width, height);
  const outsideCount = summedArea((i) => (isOutside(i) ? 1 : 0), width, height);
  const steps = new Float32Array(width * height);
  const known = new Uint8Array(width * height);
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) {
      if (Math.abs(depth[i]!) > 1) continue;
      const [n, m] = [insideCount(x, y, radius), outsideCount(x, y, radius)];
      if (n < LEAST_COUNT || m < LEAST_COUNT) continue;
      const step = outside(x, y, radius) / m - inside(x, y, radius) / n;
      if (Math.abs(step) > MOST_STEP) continue;
      steps[i] = step;
      known[i] = 1;
    }
  spanMembrane(steps, known, width, height);
  return steps;
}

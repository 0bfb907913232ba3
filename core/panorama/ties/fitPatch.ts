import type { LogValues } from "./tiePlane";
import { LEAST_CONFIDENCE, PATCH_REACH_PX, type TiePatch } from "./tiePatch";
import type { NormalMatrix } from "./tieInformation";

/** Steps of the fit; below the first of these px a step ends it, above the second it has failed. */
const ROUNDS = 8;
const SETTLED_PX = 0.01;
const UNSETTLED_PX = 0.1;
/** The longest step, and how far a patch may move from where it was looked for, px. */
const LONGEST_STEP_PX = 1.5;
const FARTHEST_PX = 4;
/** The least sum of weights that a patch is compared by. */
const ENOUGH_SAMPLES = 40;
/**
 * The least structure of a patch: how much of a corner and not an edge it is (determinant over the
 * squared trace), and how much there is of it at all.
 */
const LEAST_CORNER = 0.02;
const LEAST_STRUCTURE = 0.02;
/** Residual that a patch may keep: a share of its contrast, and what noise leaves. */
const RESIDUAL_SHARE = 0.2;
const RESIDUAL_NOISE = 4e-4;

/** A patch's place in the second frame: its shift in px of the planes, and how well it fits. */
export interface PatchFit {
  dx: number;
  dy: number;
  normal: NormalMatrix;
  /** mean square of what is left, brightness taken out */
  residual: number;
}

/** Weighted sums over a patch: of slopes x and y, difference e, and the first frame's light a. */
interface PatchSums {
  n: number;
  x: number;
  y: number;
  e: number;
  a: number;
  xx: number;
  xy: number;
  yy: number;
  xe: number;
  ye: number;
  ee: number;
  aa: number;
}

/** One step of the fit, px; undefined where the patch has nothing to hold on to. */
const stepOf = (sums: PatchSums): { normal: NormalMatrix; mx: number; my: number } | undefined => {
  const { n, x, y, e, xx, xy, yy, xe, ye } = sums;
  // brightness is taken out by centring
  const normal = { xx: xx - (x * x) / n, xy: xy - (x * y) / n, yy: yy - (y * y) / n };
  const right = xe - (x * e) / n;
  const down = ye - (y * e) / n;
  const determinant = normal.xx * normal.yy - normal.xy * normal.xy;
  const trace = normal.xx + normal.yy;
  if (!(determinant > LEAST_CORNER * trace ** 2) || trace < LEAST_STRUCTURE) return undefined;
  const mx = -(normal.yy * right - normal.xy * down) / determinant;
  const my = -(normal.xx * down - normal.xy * right) / determinant;
  return { normal, mx, my };
};

const limited = (step: number): number =>
  Math.max(-LONGEST_STEP_PX, Math.min(LONGEST_STEP_PX, step));

/**
 * Shifts a patch of the first frame over the second until it fits best, brightness left free.
 *
 * @param start  where it is looked for: px of the planes from where the cameras have it
 * @returns undefined when it does not fit, has nothing to hold on to, or runs away
 * @see Lucas and Kanade, "An iterative image registration technique", IJCAI 1981
 */
export function fitPatch(
  first: LogValues,
  second: LogValues,
  patch: TiePatch,
  start: readonly [number, number],
): PatchFit | undefined {
  const { column, row } = patch;
  const margin = PATCH_REACH_PX + 1;
  if (column < margin || column >= first.w - margin) return undefined;
  if (row < margin || row >= first.h - margin) return undefined;
  let [dx, dy] = start;
  for (let k = 0; k < ROUNDS; k++) {
    const sums = sumPatch(first, second, patch, dx, dy);
    if (sums.n < ENOUGH_SAMPLES) return undefined;
    const step = stepOf(sums);
    if (!step) return undefined;
    const { normal, mx, my } = step;
    dx += limited(mx);
    dy += limited(my);
    if (Math.hypot(dx - start[0], dy - start[1]) > FARTHEST_PX) return undefined;
    const moved = Math.hypot(mx, my);
    if (moved >= SETTLED_PX && k < ROUNDS - 1) continue;
    const residual = sums.ee / sums.n - (sums.e / sums.n) ** 2;
    const contrast = sums.aa / sums.n - (sums.a / sums.n) ** 2;
    const fits = residual <= RESIDUAL_SHARE * contrast + RESIDUAL_NOISE;
    return fits && moved <= UNSETTLED_PX ? { dx, dy, normal, residual } : undefined;
  }
  return undefined;
}

/** The sums over a patch that lies so many px beside where the cameras have it. */
function sumPatch(
  first: LogValues,
  second: LogValues,
  { column, row, centre, jacobian }: TiePatch,
  dx: number,
  dy: number,
): PatchSums {
  const [LA, VA, LB, VB] = [first.log, first.confidence, second.log, second.confidence];
  const width = second.w;
  const sums = { n: 0, x: 0, y: 0, e: 0, a: 0, xx: 0, xy: 0, yy: 0, xe: 0, ye: 0, ee: 0, aa: 0 };
  for (let j = -PATCH_REACH_PX; j <= PATCH_REACH_PX; j++)
    for (let i = -PATCH_REACH_PX; i <= PATCH_REACH_PX; i++) {
      const k = (row + j) * first.w + column + i;
      const px = centre[0] + jacobian[0] * i + jacobian[1] * j + dx;
      const py = centre[1] + jacobian[2] * i + jacobian[3] * j + dy;
      const X = Math.floor(px);
      const Y = Math.floor(py);
      if (X < 1 || Y < 1 || X >= width - 2 || Y >= second.h - 2) continue;
      const q = Y * width + X;
      const fx = px - X;
      const fy = py - Y;
      const w = Math.min(VA[k]!, VB[q]!);
      if (w < LEAST_CONFIDENCE) continue;
      const top = LB[q]! * (1 - fx) + LB[q + 1]! * fx;
      const low = LB[q + width]! * (1 - fx) + LB[q + width + 1]! * fx;
      const value = top * (1 - fy) + low * fy;
      const gx = (LB[q + 1]! - LB[q]!) * (1 - fy) + (LB[q + width + 1]! - LB[q + width]!) * fy;
      const gy = low - top;
      const e = value - LA[k]!;
      sums.xx += w * gx * gx;
      sums.xy += w * gx * gy;
      sums.yy += w * gy * gy;
      sums.x += w * gx;
      sums.y += w * gy;
      sums.n += w;
      sums.xe += w * gx * e;
      sums.ye += w * gy * e;
      sums.e += w * e;
      sums.ee += w * e * e;
      sums.aa += w * LA[k]! * LA[k]!;
      sums.a += w * LA[k]!;
    }
  return sums;
}

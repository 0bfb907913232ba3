import type { Heap } from "../../../kernels/heap";
import type { Camera } from "../camera";
import { refineTie } from "./refineTies";
import {
  LEAST_CONFIDENCE,
  patchOf,
  PATCH_REACH_PX,
  toFrame,
  toPlane,
  type TiePatch,
} from "./tiePatch";
import { valuesOf, type LogPlane, type LogValues } from "./tiePlane";
import type { Tie } from "./verifyPair";

/** How far round a place pointed at its counterpart is looked for, px of the planes. */
const SEARCH_PX = 24;
/** Every second sample is compared; so many of them are enough, of those that count. */
const SAMPLE_STEP = 2;
const ENOUGH_SAMPLES = 30;
/** Variance of log luminance below which a patch shows nothing. */
const LEAST_VARIANCE = 1e-4;
/** Correlation from which on a place is the one that was meant. */
const MIN_CORRELATION = 0.7;
/** How far off somebody points, px of the planes: what resembles it farther away is less likely. */
const POINTING_PX = 8;
/** Samples of a patch that are independent of each other; the plane is smoothed. */
const INDEPENDENT_SAMPLES = 8;

/**
 * The exact place in the second frame of what was pointed at in the first: where the surroundings
 * correlate best within some px of the place pointed at, then refined as other ties are.
 *
 * @param cameras  undefined if the frames have no places yet: they are taken to be upright and of
 *   one scale
 * @param scale    full-size px a px of the planes
 * @returns undefined when nothing there fits clearly
 */
export function findTie(
  heap: Heap,
  A: LogPlane,
  B: LogPlane,
  cameras: readonly [Camera, Camera] | undefined,
  scale: number,
  point: Tie,
): Tie | undefined {
  const pointed = [toPlane(point[2], scale), toPlane(point[3], scale)] as const;
  const known = agreeing(cameras, scale, point, pointed);
  const patch = patchOf(known, scale, point);
  if (!patch) return undefined;
  const first = valuesOf(heap, A);
  const second = valuesOf(heap, B);
  const best = bestShift(first, second, patch, pointed);
  if (!best || best.correlation < MIN_CORRELATION) return undefined;
  const to = [toFrame(pointed[0] + best.dx, scale), toFrame(pointed[1] + best.dy, scale)] as const;
  return refineTie(first, second, known, scale, [point[0], point[1], ...to]);
}

/**
 * The cameras, unless they have the place far from where was pointed: held by two or three ties,
 * they are too rough to say how the frames are rotated and scaled.
 */
function agreeing(
  cameras: readonly [Camera, Camera] | undefined,
  scale: number,
  point: Tie,
  [x, y]: readonly [number, number],
): readonly [Camera, Camera] | undefined {
  const centre = cameras && patchOf(cameras, scale, point)?.centre;
  return centre && Math.hypot(centre[0] - x, centre[1] - y) <= SEARCH_PX ? cameras : undefined;
}

interface Shift {
  correlation: number;
  dx: number;
  dy: number;
}

/**
 * Log of how likely it is that a place with such a correlation is the one that was pointed at from
 * so far away, but for a constant.
 */
function likelihood({ correlation, dx, dy }: Shift): number {
  const resemblance =
    correlation > 0 ? -0.5 * INDEPENDENT_SAMPLES * Math.log(1 - correlation ** 2) : 0;
  return resemblance - (dx * dx + dy * dy) / (2 * POINTING_PX ** 2);
}

function bestShift(
  first: LogValues,
  second: LogValues,
  patch: TiePatch,
  [x, y]: readonly [number, number],
): Shift | undefined {
  let best: Shift | undefined;
  let most = -Infinity;
  for (let dy = -SEARCH_PX; dy <= SEARCH_PX; dy++)
    for (let dx = -SEARCH_PX; dx <= SEARCH_PX; dx++) {
      const correlation = correlationAt(first, second, patch, x + dx, y + dy);
      if (correlation === undefined) continue;
      const shift = { correlation, dx, dy };
      const own = likelihood(shift);
      if (own <= most) continue;
      most = own;
      best = shift;
    }
  return best;
}

/** Correlation of a patch with the second frame round a place of it; undefined where too little counts. */
function correlationAt(
  first: LogValues,
  second: LogValues,
  { column, row, jacobian }: TiePatch,
  centreX: number,
  centreY: number,
): number | undefined {
  let n = 0;
  let a = 0;
  let b = 0;
  let aa = 0;
  let bb = 0;
  let ab = 0;
  for (let j = -PATCH_REACH_PX; j <= PATCH_REACH_PX; j += SAMPLE_STEP)
    for (let i = -PATCH_REACH_PX; i <= PATCH_REACH_PX; i += SAMPLE_STEP) {
      const x = column + i;
      const y = row + j;
      const X = Math.round(centreX + jacobian[0] * i + jacobian[1] * j);
      const Y = Math.round(centreY + jacobian[2] * i + jacobian[3] * j);
      if (x < 0 || y < 0 || x >= first.w || y >= first.h) continue;
      if (X < 0 || Y < 0 || X >= second.w || Y >= second.h) continue;
      const k = y * first.w + x;
      const q = Y * second.w + X;
      if (Math.min(first.confidence[k]!, second.confidence[q]!) < LEAST_CONFIDENCE) continue;
      const own = first.log[k]!;
      const other = second.log[q]!;
      n++;
      a += own;
      b += other;
      aa += own * own;
      bb += other * other;
      ab += own * other;
    }
  if (n < ENOUGH_SAMPLES) return undefined;
  const ownVariance = aa - (a * a) / n;
  const otherVariance = bb - (b * b) / n;
  const least = LEAST_VARIANCE * n;
  if (!(ownVariance > least && otherVariance > least)) return -1;
  return (ab - (a * b) / n) / Math.sqrt(ownVariance * otherVariance);
}

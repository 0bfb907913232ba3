import type { Heap } from "../../../kernels/heap";
import { reduceLevels } from "../../align/logPyramid";
import { findFeatures, type Features } from "../../features/features";
import { matchFeatures } from "../../features/matchFeatures";
import { inFrame, seen, shownAlong, type Camera } from "../camera";
import { unit, type Vector } from "../../math/vector";
import type { LogPlane } from "../ties/tiePlane";

/**
 * A place of the floor that two frames show: its direction from the others' place, the one frame's
 * px, and the other's.
 */
export interface FloorMatch {
  d: Vector;
  x: number;
  y: number;
  of: number;
  ox: number;
  oy: number;
}

/**
 * Half the side of what is drawn of the floor below the others, and of what a single frame shows;
 * heights from its axis to below the others at most; px at most a height above the floor.
 */
const FLOOR_HALF_SIDE = 2;
const FRAME_HALF_SIDE = 1.4;
const MAX_AXIS_DISTANCE = 1.6;
const MAX_PX_A_HEIGHT = 240;
/** Share of it that has to be shown. */
const MIN_SHOWN_SHARE = 0.05;
const NONE: Features = { points: new Float32Array(0), descriptors: new Float32Array(0), count: 0 };
/** Px off a frame's border, and confidences below which it shows nothing. */
const BORDER_PX = 2;
const MIN_CONFIDENCE = 0.2;

/**
 * The floor seen straight from above: its corners, which frame (counted from one) shows each px,
 * and where those lie: from (x0, z0) in heights on.
 */
export interface Floor {
  features: Features;
  from: Uint16Array;
  w: number;
  x0: number;
  z0: number;
  perHeight: number;
  /** share of it that is shown */
  shown: number;
}

/** Scratch bytes. */
export const FLOOR_BYTES = 60 * (2 * FLOOR_HALF_SIDE * MAX_PX_A_HEIGHT + 2) ** 2 + (1 << 22);

/**
 * The floor below cameras that stand upright in one place, as far as they show it.
 *
 * @param perHeight  px a height above the floor, at most
 * @param scale      full-size px a px of the planes
 */
export const floorBelow = (
  heap: Heap,
  planes: readonly LogPlane[],
  cameras: readonly (Camera | undefined)[],
  perHeight: number,
  scale: number,
): Floor =>
  seenFromAbove(
    heap,
    planes,
    cameras.map((c) => (c?.offset ? undefined : c)),
    scale,
    [-FLOOR_HALF_SIDE, -FLOOR_HALF_SIDE, FLOOR_HALF_SIDE, FLOOR_HALF_SIDE],
    Math.min(MAX_PX_A_HEIGHT, perHeight),
  );

/**
 * Matches of a frame that shows the floor from beside with those that are placed, each seen
 * straight from above first: seen from another place a floor is foreshortened otherwise, more than
 * the description of a corner bears.
 *
 * @param camera  of the frame `i`, as it may have been held: over the others' place, or beside it
 *   if it has an offset
 * @see Morel and Yu, "ASIFT: a new framework for fully affine invariant image comparison", 2009
 *   (the views simulated)
 */
export function floorMatches(
  heap: Heap,
  planes: readonly LogPlane[],
  floor: Floor,
  cameras: readonly (Camera | undefined)[],
  i: number,
  camera: Camera,
  scale: number,
): FloorMatch[] {
  const ahead = shownAlong(camera, [0, 0, 1]);
  if (floor.shown < MIN_SHOWN_SHARE || ahead[1] < 0.2) return [];
  const [X, Z] = [ahead[0] / ahead[1], ahead[2] / ahead[1]];
  const by = Math.min(1, MAX_AXIS_DISTANCE / Math.max(1e-6, Math.hypot(X, Z)));
  const [cx, cz] = [X * by, Z * by];
  const own = seenFromAbove(
    heap,
    planes,
    cameras.map((_, k) => (k === i ? camera : undefined)),
    scale,
    [cx - FRAME_HALF_SIDE, cz - FRAME_HALF_SIDE, cx + FRAME_HALF_SIDE, cz + FRAME_HALF_SIDE],
    floor.perHeight,
  );
  const found =
    own.shown < MIN_SHOWN_SHARE ? [] : matchFeatures(heap, floor.features, own.features);
  return Array.from({ length: found.length / 2 }, (_, k): FloorMatch | undefined => {
    const there = placeOf(floor, found[k * 2]!);
    const here = placeOf(own, found[k * 2 + 1]!);
    const of = there && there.from - 1;
    const a = there && cameras[of!] && seen(cameras[of!]!, there.d);
    const b = here && seen(camera, here.d);
    return a && b ? { d: unit(there.d), x: b[0], y: b[1], of: of!, ox: a[0], oy: a[1] } : undefined;
  }).filter((m) => m !== undefined);
}

/** Where on the floor a corner lies, and which frame shows it. */
function placeOf(
  { features: { points }, from, w, x0, z0, perHeight }: Floor,
  k: number,
): { d: Vector; from: number } | undefined {
  const x = points[k * 2]!;
  const y = points[k * 2 + 1]!;
  const by = from[Math.floor(y) * w + Math.floor(x)]!;
  return by ? { d: [x0 + x / perHeight, 1, z0 + y / perHeight], from: by } : undefined;
}

/** Draws the floor from what each place's most direct frame shows of it. */
function seenFromAbove(
  heap: Heap,
  planes: readonly LogPlane[],
  cameras: readonly (Camera | undefined)[],
  scale: number,
  [x0, z0, x1, z1]: readonly [number, number, number, number],
  perHeight: number,
): Floor {
  const mark = heap.mark();
  const w = Math.ceil((x1 - x0) * perHeight);
  const h = Math.ceil((z1 - z0) * perHeight);
  const n = w * h;
  const log = heap.alloc(n * 4 + 16);
  const confidence = heap.alloc(n * 4 + 16);
  const L = heap.f32(log, n).fill(0);
  const V = heap.f32(confidence, n).fill(0);
  const from = new Uint16Array(n);
  const direct = new Float32Array(n).fill(0.05);
  cameras.forEach((camera, k) => {
    if (!camera) return;
    const [ax, ay, az] = [camera.rotation[2]!, camera.rotation[5]!, camera.rotation[8]!];
    const p = planes[k]!;
    const PL = heap.f32(p.log, p.w * p.h);
    const PV = heap.f32(p.confidence, p.w * p.h);
    for (let v = 0, at = 0; v < h; v++)
      for (let u = 0; u < w; u++, at++) {
        const X = x0 + (u + 0.5) / perHeight;
        const Z = z0 + (v + 0.5) / perHeight;
        const facing = (ax * X + ay + az * Z) / Math.sqrt(X * X + 1 + Z * Z);
        if (facing <= direct[at]!) continue;
        const place = seen(camera, [X, 1, Z]);
        if (!place || !inFrame(camera, place, BORDER_PX * scale)) continue;
        const x = place[0] / scale - 0.5;
        const y = place[1] / scale - 0.5;
        const ix = Math.floor(x);
        const iy = Math.floor(y);
        const fx = x - ix;
        const fy = y - iy;
        const i = iy * p.w + ix;
        if (ix < 0 || iy < 0 || ix + 1 >= p.w || iy + 1 >= p.h || PV[i]! < MIN_CONFIDENCE) continue;
        direct[at] = facing;
        from[at] = k + 1;
        L[at] =
          (PL[i]! * (1 - fx) + PL[i + 1]! * fx) * (1 - fy) +
          (PL[i + p.w]! * (1 - fx) + PL[i + p.w + 1]! * fx) * fy;
        V[at] = PV[i]!;
      }
  });
  const shown = from.reduce((s, f) => s + (f ? 1 : 0), 0) / n;
  const features =
    shown < MIN_SHOWN_SHARE
      ? NONE
      : findFeatures(heap, reduceLevels(heap, { w, h, log, confidence }));
  heap.release(mark);
  return { features, from, w, x0, z0, perHeight, shown };
}

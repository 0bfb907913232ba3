import type { Heap } from "../../kernels/heap";
import type { LogPyramid } from "../align/logPyramid";
import { enlargement, type LensKind } from "../panorama/camera";
import { clamp } from "../math/clamp";

/** Corners of a frame with a description of what lies round each. */
export interface Features {
  /** x, y in px of the given frame, pixel centres at halves */
  points: Float32Array;
  /** SIZE values a corner, mean 0, length 1 */
  descriptors: Float32Array;
  count: number;
}
export const DESCRIPTOR_SIZE = 64;

/** Corners kept a frame. */
const MAX_CORNERS = 900;
/** Samples of a corner's own level that its patch reaches: eight values a side, 2.5 px apart. */
const PATCH_REACH = 12;
/** What makes less of a corner is noise. */
const MIN_CORNER_STRENGTH = 1e-5;

/**
 * Corners at several scales, spread evenly over the picture, each with an orientation and a small
 * patch of log luminance without its mean and contrast: so neither exposure nor a roll of the
 * camera changes it much.
 *
 * @param focalPx  in px of the first level, if it is known: then patches are squares on the sphere,
 *   not on the frame, whose corners a wide lens draws larger than its middle
 * @param circle   radius of the image circle in px of the first level, where the frame has one:
 *   nothing is looked for outside
 * @param centre   where the lens's axis meets the first level, px; its middle if not said
 * @see Brown, Szeliski, Winder, "Multi-image matching using multi-scale oriented patches", CVPR
 *   2005; Harris and Stephens 1988
 */
export function findFeatures(
  heap: Heap,
  { levels }: LogPyramid,
  focalPx?: number,
  lens: LensKind = "rectilinear",
  circle?: number,
  centre?: readonly [number, number],
): Features {
  const mark = heap.mark();
  const frame = { width: levels[0]!.w, height: levels[0]!.h };
  const [cx, cy] = centre ?? [frame.width / 2, frame.height / 2];
  const found: Corner[] = [];
  levels.slice(0, 4).forEach(({ w, h, log, confidence }, level) => {
    if (Math.min(w, h) < 40) return;
    const inner = heap.mark();
    const plane = heap.alloc(w * h * 4 + 16);
    const strength = heap.f32(plane, w * h);
    const scale = frame.width / w;
    const at = heap.alloc(w * h + 64);
    heap.k.cornerStrength(log, confidence, w, h, heap.alloc(heap.k.cornerRoom(w)), plane);
    for (const i of heap.i32(at, heap.k.peaks(plane, w, h, PATCH_REACH, MIN_CORNER_STRENGTH, at))) {
      const x = i % w;
      const y = Math.floor(i / w);
      const s = strength[i]!;
      // the peak of a parabola through the neighbours
      const peak = (a: number, b: number, c: number): number => {
        const d = a - 2 * b + c;
        return d < 0 ? clamp((0.5 * (a - c)) / d, -0.5, 0.5) : 0;
      };
      found.push({
        x: (x + 0.5 + peak(strength[i - 1]!, s, strength[i + 1]!)) * scale,
        y: (y + 0.5 + peak(strength[i - w]!, s, strength[i + w]!)) * scale,
        strength: s * 1.6 ** level,
        level,
        scale,
      });
    }
    heap.release(inner);
  });
  const chosen = spread(
    heap,
    circle === undefined
      ? found
      : found.filter((f) => Math.hypot(f.x - cx, f.y - cy) < 0.95 * circle - PATCH_REACH * f.scale),
    MAX_CORNERS,
    frame.width,
    frame.height,
  );
  const points = new Float32Array(chosen.length * 2);
  const described = heap.alloc(chosen.length * DESCRIPTOR_SIZE * 4 + 64);
  const room = heap.alloc(heap.k.descriptionRoom());
  let count = 0;
  for (const f of chosen) {
    const { w, h, log } = levels[f.level]!;
    const stretch = focalPx === undefined ? UPRIGHT : stretchAt(f.x - cx, f.y - cy, focalPx, lens);
    if (
      !heap.k.describeCorner(
        log,
        w,
        h,
        f.x / f.scale - 0.5,
        f.y / f.scale - 0.5,
        ...stretch,
        room,
        described + count * DESCRIPTOR_SIZE * 4,
      )
    )
      continue;
    points[count * 2] = f.x;
    points[count * 2 + 1] = f.y;
    count++;
  }
  const descriptors = heap.f32(described, count * DESCRIPTOR_SIZE).slice();
  heap.release(mark);
  return { points: points.slice(0, count * 2), descriptors, count };
}

/** Place in px of the first level, and its own level, which is `scale` times as coarse. */
interface Corner {
  x: number;
  y: number;
  strength: number;
  level: number;
  scale: number;
}

/** The corners that dominate the widest neighbourhoods (adaptive non-maximal suppression). */
function spread(heap: Heap, all: Corner[], most: number, w: number, h: number): Corner[] {
  if (all.length <= most) return all;
  const sorted = all.sort((a, b) => b.strength - a.strength).slice(0, most * 8);
  const n = sorted.length;
  const size = Math.sqrt((w * h) / 600);
  const away = heap.alloc(n * 4);
  heap.k.distancesToStronger(
    heap.put(sorted.flatMap((f) => [f.x, f.y, f.strength])),
    n,
    w,
    h,
    size,
    heap.alloc((n + (w / size + 1) * (h / size + 1)) * 4),
    away,
  );
  const distance = heap.f32(away, n);
  return sorted
    .map((f, i) => ({ f, r: distance[i]! }))
    .sort((a, b) => b.r - a.r)
    .slice(0, most)
    .map(({ f }) => f);
}

/** A symmetric matrix: how a small way on the sphere is drawn on the frame. */
type Stretch = readonly [xx: number, xy: number, yy: number];
const UPRIGHT: Stretch = [1, 0, 1];
function stretchAt(dx: number, dy: number, focalPx: number, lens: LensKind): Stretch {
  const r2 = dx * dx + dy * dy;
  const { outwards, across } = enlargement(lens, Math.sqrt(r2) / focalPx);
  if (r2 < 1) return UPRIGHT;
  const more = (outwards - across) / r2;
  return [across + more * dx * dx, more * dx * dy, across + more * dy * dy];
}

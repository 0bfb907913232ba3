// What of a picture stands still, and so tells how the camera moved.
import { project } from "../math/matrix3";
import { boxMean } from "../raster/boxMean";
import type { GhostConfidence } from "../bracket/findGhosts";
import type { Heap } from "../../kernels/heap";
import { TRUSTED, type LogPyramid } from "./logPyramid";
import type { Template } from "./template";
import type { TiledLight } from "./unevenLight";
import { agreementOfParts, type Registration } from "./registerPair";

/**
 * Radius in ghost samples within which a thing's unmoving looking middle belongs to it, and the
 * share of it that has to have moved.
 */
const CORE_RADIUS = 16;
const MIN_MOVED_SHARE = 0.25;

/**
 * A level of which some parts have no weight.
 *
 * @param confidences  0 to 255 on a grid of half the size
 */
export function withConfidences(
  heap: Heap,
  level: LogPyramid["levels"][number],
  confidences: Uint8Array,
): LogPyramid["levels"][number] {
  const { w, h } = level;
  const confidence = heap.alloc(w * h * 4 + 16);
  const from = heap.f32(level.confidence, w * h);
  const to = heap.f32(confidence, w * h);
  const gw = w >> 1;
  const gh = h >> 1;
  for (let y = 0; y < h; y++)
    for (let x = 0, row = Math.min(gh - 1, y >> 1) * gw; x < w; x++)
      to[y * w + x] = (from[y * w + x]! * confidences[row + Math.min(gw - 1, x >> 1)]!) / 255;
  return { w, h, log: level.log, confidence };
}

/**
 * Confidences in which what lies amid moving samples has none either: the even middle of a cloud
 * moves with its rim.
 */
export function wholeThings(
  heap: Heap,
  { confidences, width: w, height: h }: GhostConfidence,
): Uint8Array {
  const mark = heap.mark();
  const plane = heap.alloc(w * h * 4);
  const moved = heap.f32(plane, w * h);
  const out = confidences.slice();
  for (let i = 0; i < moved.length; i++) moved[i] = 1 - confidences[i]! / 255;
  const around = heap.f32(boxMean(heap, plane, w, h, CORE_RADIUS), w * h);
  for (let i = 0; i < out.length; i++) if (around[i]! > MIN_MOVED_SHARE) out[i] = 0;
  heap.release(mark);
  return out;
}

/**
 * A tile's light has changed if it differs by this much, EV, and by so many deviations of what its
 * confidences tell; about a changed tile so many tiles and such a share of them.
 */
const CHANGED_EV = 0.02;
const STATIONARY_SIGMA = 4;
const TILES_AROUND = 3;
const TILES_CHANGED = 0.25;
/**
 * Where more than this share of a picture changed, it is the exposure's tones that differ, and not
 * the light on things.
 */
const MAX_CHANGED_SHARE = 0.6;

/**
 * Confidences, 255 or 0 on a grid of half of w x h, of where the light stayed as it was but for one
 * offset; undefined where it did everywhere, or nearly nowhere.
 */
export function evenlyLit(
  { side, across, down, ev, confidences }: TiledLight,
  w: number,
  h: number,
): Uint8Array | undefined {
  const changed = ev.map((v, k) =>
    confidences[k]! > 0 &&
    Math.abs(v) > CHANGED_EV + STATIONARY_SIGMA * Math.sqrt(TRUSTED / confidences[k]!)
      ? 1
      : 0,
  );
  const stationary = new Uint8Array(across * down);
  let known = 0;
  let lost = 0;
  for (let y = 0; y < down; y++)
    for (let x = 0; x < across; x++) {
      let near = 0;
      let all = 0;
      for (let v = Math.max(0, y - TILES_AROUND); v <= Math.min(down - 1, y + TILES_AROUND); v++)
        for (
          let u = Math.max(0, x - TILES_AROUND);
          u <= Math.min(across - 1, x + TILES_AROUND);
          u++
        ) {
          const k = v * across + u;
          if (confidences[k]! > 0) {
            all++;
            near += changed[k]!;
          }
        }
      const k = y * across + x;
      if (!(confidences[k]! > 0)) continue;
      known++;
      if (near > TILES_CHANGED * all) {
        stationary[k] = 1;
        lost++;
      }
    }
  if (!lost || lost > MAX_CHANGED_SHARE * known) return undefined;
  const gw = w >> 1;
  const gh = h >> 1;
  const out = new Uint8Array(gw * gh);
  for (let y = 0; y < gh; y++)
    for (let x = 0; x < gw; x++)
      out[y * gw + x] = stationary[
        Math.floor((2 * y) / side) * across + Math.floor((2 * x) / side)
      ]!
        ? 0
        : 255;
  return out;
}

/**
 * About so many samples tell the light, those of at least this confidence; how far, in EV, those
 * that agree may be apart.
 */
const LIGHT_SAMPLES = 60000;
const MIN_LIGHT_CONFIDENCE = 0.6;
const ALIKE_EV = 0.2;

/**
 * The difference in EV between a template and an image by what stands still alone: glints and
 * shadows that moved between the two have no say in how they were exposed.
 *
 * @param still  0 to 255 on a grid of half the size, 255 where nothing moved
 */
export function stillOffset(
  heap: Heap,
  { w, h, log, confidence }: LogPyramid["levels"][number],
  image: LogPyramid["levels"][number],
  { transform, offset }: Pick<Registration, "transform" | "offset">,
  still: Uint8Array,
): number {
  const n = w * h;
  const gw = w >> 1;
  const gh = h >> 1;
  const [c, cv, l, lv] = [
    heap.f32(log, n),
    heap.f32(confidence, n),
    heap.f32(image.log, n),
    heap.f32(image.confidence, n),
  ];
  const stride = Math.max(1, Math.floor(Math.sqrt((gw * gh) / LIGHT_SAMPLES)));
  const apart: number[] = [];
  for (let y = 0; y < gh; y += stride)
    for (let x = 0; x < gw; x += stride) {
      const i = 2 * y * w + 2 * x;
      if (still[y * gw + x] !== 255 || cv[i]! < MIN_LIGHT_CONFIDENCE) continue;
      const [u, v] = project(transform, 2 * x + 0.5, 2 * y + 0.5);
      const k = Math.floor(v) * w + Math.floor(u);
      if (u >= 0 && v >= 0 && u < w && v < h && lv[k]! >= MIN_LIGHT_CONFIDENCE)
        apart.push(c[i]! - l[k]! - offset);
    }
  if (apart.length < 500) return offset;
  const middle = apart.sort((a, b) => a - b)[apart.length >> 1]!;
  const alike = apart.filter((d) => Math.abs(d - middle) < ALIKE_EV);
  return offset + alike.reduce((s, d) => s + d, 0) / alike.length;
}

/** In how many more parts of the picture the first motion fits better than the second. */
export function majority(
  heap: Heap,
  template: Template,
  image: LogPyramid,
  one: Registration,
  other: Registration,
): number {
  const [a, b] = [one, other].map((r) => agreementOfParts(heap, template, image, r)) as [
    (number | undefined)[],
    (number | undefined)[],
  ];
  return a.reduce<number>((n, share, k) => {
    const gain = (share ?? 0) - (b[k] ?? 0);
    if (gain > 0.02) return n + 1;
    return gain < -0.02 ? n - 1 : n;
  }, 0);
}

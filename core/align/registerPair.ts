import type { Heap } from "../../kernels/heap";
import { IDENTITY, project, rescale, type Matrix3 } from "../math/matrix3";
import { TRUSTED, type LogPyramid } from "./logPyramid";
import { equations, inEight, stepped, SUMS_BYTES, type MotionModel } from "./motionModels";
import { solveSymmetric } from "../math/solveSymmetric";
import { chosen, type Template } from "./template";
import { refineInUnevenLight, type TiledLight } from "./unevenLight";
import { clamp } from "../math/clamp";

/** The robust loss is never narrower than this, EV: about the noise of a well exposed sample. */
const FINEST_EV = 0.04;
/**
 * How wide the robust loss is: so many times what is left, and never narrower than `finest`, EV.
 */
export interface Loss {
  finest: number;
  times: number;
}
const USUAL: Loss = { finest: FINEST_EV, times: 2.5 };

export interface Registration {
  /** template to image, in px of the finest level */
  transform: number[];
  /** EV to add to the image so that it matches the template */
  offset: number;
  /** robust RMS difference in EV at the end */
  residualEv: number;
  /** share of pixels that could confidence */
  overlap: number;
}

/**
 * Registers an image to a template of log radiance, coarse to fine.
 *
 * A full search over shift and roll at the coarsest level, then Gauss-Newton steps on every level
 * with the inverse compositional update (Baker and Matthews, IJCV 2004) under a Geman-McClure loss.
 *
 * @param start  a first guess, close: only the two finest levels are walked then; without one the
 *   coarse search finds it
 */
export function registerPair(
  heap: Heap,
  template: Template,
  image: LogPyramid,
  model: MotionModel,
  start?: Matrix3,
  { finest, times }: Loss = USUAL,
): Registration {
  const mark = heap.mark();
  const top = start ? Math.min(1, template.levels.length - 1) : template.levels.length - 1;
  let H: Matrix3 = start
    ? rescale(start, template.levels[top]!.w / template.levels[0]!.w)
    : coarseSearch(heap, template, image, model);
  let offset = 0;
  let residual = 0.5;
  let overlap = 0;
  const m = heap.put(IDENTITY, "f64");
  const out = heap.alloc(SUMS_BYTES);
  for (let level = top; level >= 0; level--) {
    const t = template.levels[level]!;
    const im = image.levels[level]!;
    if (level < top) H = rescale(H, t.w / template.levels[level + 1]!.w);
    const { cell, samples } = t;
    const selected = chosen(heap, t);
    let scale = clamp(residual * times, 0.12, 1);
    for (let i = 0; i < 14; i++) {
      heap.f64(m, 9).set(H);
      const e = equations(heap, model, samples, selected, im, t.w, t.h, m, offset, scale, out);
      overlap = (e.count * cell * cell) / (t.w * t.h);
      if (!(e.confidences > 1)) break;
      residual = Math.sqrt(e.square / e.confidences);
      scale = clamp(residual * times, finest, 1);
      const q = solveSymmetric(e.A, e.b);
      const p = q && inEight(model, q);
      if (!p) break;
      offset -= p[8]!;
      const next = stepped(H, p, t.w, t.h);
      H = next.H;
      if (
        next.moved < (level === 0 ? 0.006 : 0.03) ||
        !Number.isFinite(next.moved) ||
        next.moved > t.w
      )
        break;
    }
    // where little is left of the picture a soft change of light may lead the search astray; finer
    // levels hold a motion best by all that their samples say
    if (model !== "none" && level > 1)
      ({ H } = refineInUnevenLight(heap, t, im, model, H, offset, cell, FINEST_EV));
  }
  heap.release(mark);
  return { transform: [...H], offset, residualEv: residual, overlap };
}

/**
 * A motion refined at the finest level where the light may have changed between the frames, and how
 * it did.
 */
export function inUnevenLight(
  heap: Heap,
  template: Template,
  image: LogPyramid,
  model: MotionModel,
  { transform, offset }: Registration,
): { transform: number[]; light: TiledLight } {
  const t = template.levels[0]!;
  const { H, light } = refineInUnevenLight(
    heap,
    t,
    image.levels[0]!,
    model,
    transform,
    offset,
    t.cell,
    FINEST_EV,
  );
  return { transform: [...H], light };
}

/**
 * How much of the picture holds a registration, in parts: of each part's information about shift
 * (squared slopes times confidences) the share in samples that agree within noise. Edges that fit
 * count, smooth places agree with anything; and no part counts for more than another because its
 * light is stronger.
 *
 * @returns 0 to 1
 */
export function agreement(
  heap: Heap,
  template: Template,
  image: LogPyramid,
  found: Registration,
): number {
  let kept = known.get(found);
  if (kept?.template !== template) {
    const shares = agreementOfParts(heap, template, image, found).filter((s) => s !== undefined);
    known.set(
      found,
      (kept = {
        template,
        share: shares.length ? shares.reduce((p, q) => p + q, 0) / shares.length : 0,
      }),
    );
  }
  return kept.share;
}
/** A motion of one image is asked several times while others are held against it. */
const known = new WeakMap<Registration, { template: Template; share: number }>();

/**
 * The share that agrees of each of 8 x 8 parts of the picture; undefined where a part has nothing
 * to go by.
 */
export function agreementOfParts(
  heap: Heap,
  template: Template,
  image: LogPyramid,
  { transform: m, offset }: Registration,
): (number | undefined)[] {
  const first = template.levels[0]!;
  const { w, h } = first;
  const im = image.levels[0]!;
  const count = chosen(heap, first);
  const s = heap.f32(first.samples, count * 8);
  const L = heap.f32(im.log, w * h);
  const V = heap.f32(im.confidence, w * h);
  const all = new Float64Array(PARTS * PARTS);
  const agreed = new Float64Array(PARTS * PARTS);
  for (let i = 0; i < s.length; i += 8) {
    const [u, v] = project(m, s[i]! + 0.5, s[i + 1]! + 0.5);
    const x = Math.floor(u - 0.5);
    const y = Math.floor(v - 0.5);
    const fx = u - 0.5 - x;
    const fy = v - 0.5 - y;
    if (x < 0 || y < 0 || x >= w - 1 || y >= h - 1) continue;
    const k = y * w + x;
    const theirs = Math.min(V[k]!, V[k + 1]!, V[k + w]!, V[k + w + 1]!);
    if (theirs < 0.01) continue;
    const r =
      (L[k]! * (1 - fx) + L[k + 1]! * fx) * (1 - fy) +
      (L[k + w]! * (1 - fx) + L[k + w + 1]! * fx) * fy +
      offset -
      s[i + 2]!;
    const mine = s[i + 3]!;
    const information = ((mine * theirs) / (mine + theirs)) * (s[i + 4]! ** 2 + s[i + 5]! ** 2);
    const part = Math.floor((s[i + 1]! * PARTS) / h) * PARTS + Math.floor((s[i]! * PARTS) / w);
    all[part]! += information;
    // confidences are trusted / (trusted + variance); and a slope may be blurred by the resampling
    const slope = s[i + 4]! ** 2 + s[i + 5]! ** 2;
    const variance =
      FINEST_EV ** 2 + TRUSTED * (1 / mine + 1 / theirs - 2) + RESAMPLING_BLUR_PX ** 2 * slope;
    agreed[part]! += information / (1 + r ** 2 / variance) ** 2;
  }
  // a part needs something to go by; a hundredth of the mean is enough
  const least = all.reduce((p, q) => p + q, 0) / all.length / 100;
  return Array.from(all, (total, i) => (total > least ? agreed[i]! / total : undefined));
}
const PARTS = 8;
/** Px by which resampling blurs a slope. */
const RESAMPLING_BLUR_PX = 0.1;

/** Tries shifts up to 7 % of the width and rolls up to 3 degrees at the coarsest level. */
function coarseSearch(
  heap: Heap,
  template: Template,
  image: LogPyramid,
  model: MotionModel,
): number[] {
  const t = template.levels.at(-1)!;
  const im = image.levels.at(-1)!;
  const { w, h } = t;
  if (model === "none") return [...IDENTITY];
  const mark = heap.mark();
  const CV = heap.f32(t.confidence, w * h);
  const seen: number[] = [];
  // every fourth sample, those that have a confidence
  for (let y = 2; y < h - 2; y += 2)
    for (let x = 2 + ((y >> 1) & 1); x < w - 2; x += 2)
      if (CV[y * w + x]! >= 0.05) seen.push(y * w + x);
  const n = seen.length;
  const places = heap.alloc(n * 4);
  const turnedX = heap.alloc(n * 4);
  const turnedY = heap.alloc(n * 4);
  const best = heap.put([Infinity, 0, 0], "f64");
  heap.i32(places, n).set(seen);
  let m: number[] = [...IDENTITY];
  for (const roll of model === "shift" ? [0] : [0, -1, 1, -2, 2, -3, 3]) {
    const c = Math.cos((roll * Math.PI) / 180);
    const s = Math.sin((roll * Math.PI) / 180);
    const X = heap.i32(turnedX, n);
    const Y = heap.i32(turnedY, n);
    seen.forEach((i, k) => {
      const rx = (i % w) - w / 2;
      const ry = Math.floor(i / w) - h / 2;
      X[k] = Math.round(c * rx - s * ry + w / 2);
      Y[k] = Math.round(s * rx + c * ry + h / 2);
    });
    if (
      !heap.k.bestShift(
        places,
        turnedX,
        turnedY,
        n,
        t.log,
        t.confidence,
        im.log,
        im.confidence,
        w,
        h,
        Math.ceil(w * 0.07),
        Math.abs(roll),
        best,
      )
    )
      continue;
    const [, dx, dy] = heap.f64(best, 3) as unknown as [number, number, number];
    m = [
      c,
      -s,
      w / 2 - (c * w) / 2 + (s * h) / 2 + dx,
      s,
      c,
      h / 2 - (s * w) / 2 - (c * h) / 2 + dy,
      0,
      0,
      1,
    ];
  }
  heap.release(mark);
  return m;
}

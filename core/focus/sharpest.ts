import type { Heap } from "../../kernels/heap";
import { ghostConfidence } from "../bracket/foldFrame";
import { type Accumulator } from "../raster/accumulator";
import type { WarpedFrame } from "../bracket/mertens";
import { spanAt, type CoveredPart } from "../raster/coveredRectangle";
import { boxRows } from "../raster/boxMean";
import { coarserShape, differences, reduceAll, type PyramidShape } from "../raster/pyramid";

/** Levels from which the sharpest frame is taken; what is coarser is averaged by sharpness. */
export const FOCUS_LEVELS = 6;
/**
 * Share of the next coarser level's sharpness that counts on a level: what is sharp is so on
 * several scales, noise is not.
 */
const FROM_BELOW = 0.3;
/** Samples round a frame's own border that are not believed, on every level. */
const BORDER_SAMPLES = 4;
/** Px within which a frame's border is the picture's. */
const AT_BORDER = 0.01;
/** Radius of the window over which sharpness is measured. */
const WINDOW = 1;
/**
 * Rows worked on at once; as every strip begins at a multiple of it, bytes do not depend on how
 * rows are spread over threads.
 */
const BLOCK = 16;

/**
 * What fusing a focus run holds beside the finest level, which lies in the scene's planes (the best
 * frame's sharpness in the fourth): blocks of pyramids from the second level on, and the greys of a
 * frame's second level.
 */
export interface FocusSums {
  /** a frame's channels */
  own: readonly number[];
  greys: number;
  /** a frame's sharpness, and the best so far */
  energy: number;
  best: number;
  /** the coefficients taken so far */
  taken: readonly number[];
  /** of the frames' samples at each px, as widenRange keeps it */
  range: FrameRange;
}
/**
 * The range of the frames' samples, RGB of 16 bit each: addresses of the highest, and of 65535 less
 * the lowest.
 */
export interface FrameRange {
  above: number;
  below: number;
}
/** Levels and size of the pyramids that focus stacking works on, from the second level on. */
export const focusShape = (w: number, h: number): PyramidShape => coarserShape(w, h, FOCUS_LEVELS);
/**
 * On one level, 0 being the finest: which frame is the sharpest at each sample (its place plus 1),
 * the sum of all frames' sharpness, that of the frame before this one along the travel, and of
 * those on either side of the sharpest.
 */
export interface Won {
  sources: number;
  total: number;
  last: number;
  lower: number;
  upper: number;
  level: number;
  frame: number;
}

/** Makes the second level of rows y0 to y1 of a frame's channels, and its greys. */
export function halveFrame(
  heap: Heap,
  { ptr, width: w, height: h }: WarpedFrame,
  { own, greys }: Pick<FocusSums, "own" | "greys">,
  y0: number,
  y1: number,
): void {
  const mark = heap.mark();
  const W = (w + 1) >> 1;
  const channel = heap.alloc((BLOCK + 4) * w * 4 + 64);
  const row = heap.alloc(w * 4 + 64);
  for (let top = y0; top < y1; top += BLOCK) {
    const end = Math.min(y1, top + BLOCK);
    const a = Math.max(0, top - 2);
    const b = Math.min(h, end + 2);
    const first = top >> 1;
    const last = (end + 1) >> 1;
    const at = first * W * 4;
    for (let c = 0; c < 3; c++) {
      heap.k.channelOf(ptr + a * w * 6, (b - a) * w, c, channel);
      heap.k.pyrDown(channel - a * w * 4, w, h, own[c]!, row, first, last);
    }
    heap.k.sumOfThree(
      0.25,
      own[0]! + at,
      0.5,
      own[1]! + at,
      0.25,
      own[2]! + at,
      (last - first) * W,
      greys + at,
    );
  }
  heap.release(mark);
}
/** Bytes of scratch for a block and all that is made of it. */
export const focusBlockScratch = (w: number): number => w * 4 * (7 * BLOCK + 48) + (1 << 14);

/**
 * How sharp a frame is everywhere and on every scale: root of the mean square of its Laplacian
 * pyramid's coefficients over a small window, with the coarser levels' word added, so that the
 * choice is one and the same over space and scale. From the second level on; the finest follows in
 * takeFinest.
 *
 * @see Burt and Kolczynski, "Enhanced image capture through fusion", ICCV 1993
 */
export function coarseSharpness(
  heap: Heap,
  frame: WarpedFrame,
  { greys, energy }: Pick<FocusSums, "greys" | "energy">,
): void {
  const mark = heap.mark();
  const shape = focusShape(frame.width, frame.height);
  const { levels } = shape;
  const own = heap.alloc(shape.bytes);
  const row = heap.alloc(frame.width * 4 + 64);
  heap
    .u8(own, levels[0]!.w * levels[0]!.h * 4)
    .set(heap.u8(greys, levels[0]!.w * levels[0]!.h * 4));
  // so small a picture has no scale of its own to be sharp on
  if (levels.length === 1) heap.f32(energy, levels[0]!.w * levels[0]!.h).fill(1e-16);
  reduceAll(heap, own, shape);
  differences(heap, own, shape);
  for (let i = levels.length - 2; i >= 0; i--) {
    const l = levels[i]!;
    const to = energy + l.at;
    const below = levels[i + 1]!;
    rootMeanSquares(heap, own + l.at, l.w, l.h, 0, l.h, to);
    if (i < levels.length - 2)
      heap.k.pyrUp(energy + below.at, l.w, l.h, to, to, FROM_BELOW, row, 0, l.h);
    judge(heap, frame, to, l.w, 0, l.h);
    if (i === levels.length - 2) {
      // the coarsest level has no frame of its own: a blurred frame's light is not where it belongs
      // either
      heap.k.pyrDown(to, l.w, l.h, energy + below.at, row, 0, below.h);
      const e = heap.f32(energy + below.at, below.w * below.h);
      for (let k = 0; k < e.length; k++) e[k] = Math.max(0, e[k]!) ** 4 + 1e-16;
    }
  }
  heap.release(mark);
}
/** Bytes of scratch for `coarseSharpness`. */
export const coarseScratch = (w: number, h: number): number =>
  focusShape(w, h).bytes + ((w + 1) >> 1) * ((h + 1) >> 1) * 8 + w * 32 + (1 << 14);

/**
 * Roots of the means over the window of the squares of rows y0 to y1 of a plane, whose rows round
 * them are there too.
 */
function rootMeanSquares(
  heap: Heap,
  plane: number,
  w: number,
  h: number,
  y0: number,
  y1: number,
  to: number,
): void {
  const mark = heap.mark();
  const a = Math.max(0, y0 - WINDOW);
  const b = Math.min(h, y1 + WINDOW);
  const n = (b - a) * w;
  const square = heap.alloc(n * 4 + 64);
  heap.k.squares(plane + a * w * 4, n, square);
  heap.k.boxMean(square - a * w * 4, w, h, WINDOW, heap.alloc(boxRows(w)), to, y0, y1);
  heap.k.roots(to + y0 * w * 4, (y1 - y0) * w);
  heap.release(mark);
}

/**
 * Rows y0 to y1 of a level's sharpness: none beyond the frame's own border, nor where a part
 * belongs to another frame manually.
 */
function judge(
  heap: Heap,
  { covered, ghosts, width }: WarpedFrame,
  energy: number,
  w: number,
  y0: number,
  y1: number,
): void {
  const scale = width / w;
  if (covered) forgetOutside(heap, energy, w, covered, 2 ** Math.round(Math.log2(scale)), y0, y1);
  if (!ghosts) return;
  const mark = heap.mark();
  const at = heap.alloc(w * 4 + 64);
  const confidencesOf = { ...ghosts, scale: ghosts.scale / scale };
  for (let y = y0; y < y1; y++)
    if (ghostConfidence(heap, confidencesOf, y, 0, w, at)) {
      const e = heap.f32(energy + y * w * 4, w);
      const confidences = heap.f32(at, w);
      for (let x = 0; x < w; x++) e[x]! *= confidences[x]! ** 4;
    }
  heap.release(mark);
}
/** From where to where a frame covers all rows from `from` to `to` that are the picture's. */
function spanOver({ outline, y0, y1 }: CoveredPart, from: number, to: number): [number, number] {
  const upper = spanAt(outline, Math.max(y0 + AT_BORDER, from));
  const lower = spanAt(outline, Math.min(y1 - AT_BORDER, to));
  return [Math.max(upper[0], lower[0]), Math.min(upper[1], lower[1])];
}

/** Beyond the frame's own border there is nothing to be sharp, and the border itself is no edge. */
function forgetOutside(
  heap: Heap,
  energy: number,
  w: number,
  covered: CoveredPart,
  scale: number,
  from: number,
  to: number,
): void {
  for (let y = from; y < to; y++) {
    const e = heap.f32(energy + y * w * 4, w);
    const [x0, x1] = spanOver(
      covered,
      (y - BORDER_SAMPLES) * scale,
      (y + 1 + BORDER_SAMPLES) * scale,
    );
    if (!(x1 > x0)) {
      e.fill(0);
      continue;
    }
    const left = x0 > AT_BORDER ? Math.min(w, Math.ceil(x0 / scale) + BORDER_SAMPLES) : 0;
    const right = x1 < w * scale - AT_BORDER ? Math.floor(x1 / scale) - BORDER_SAMPLES : w;
    e.fill(0, 0, left);
    e.fill(0, Math.max(left, right));
  }
}

/**
 * Takes the finest coefficients of rows y0 to y1 where this frame is the sharpest so far, and makes
 * its sharpness the one to be beaten.
 */
export function chooseFinest(
  heap: Heap,
  frame: WarpedFrame,
  acc: Accumulator,
  { own, greys, energy, range }: Pick<FocusSums, "own" | "greys" | "energy" | "range">,
  won: Won,
  y0: number,
  y1: number,
): void {
  const mark = heap.mark();
  const { width: w, height: h, ptr } = frame;
  const grey = heap.alloc((BLOCK + 4) * w * 4 + 64);
  const channel = [0, 1, 2].map(() => heap.alloc((BLOCK + 4) * w * 4 + 64)) as [
    number,
    number,
    number,
  ];
  const sharp = heap.alloc(BLOCK * w * 4 + 64);
  const row = heap.alloc(w * 4 + 64);
  for (let top = y0; top < y1; top += BLOCK) {
    const end = Math.min(y1, top + BLOCK);
    const a = Math.max(0, top - WINDOW);
    const b = Math.min(h, end + WINDOW);
    const n = (end - top) * w;
    const at = top * w * 4;
    const best = acc.ptr + 3 * acc.planeBytes + at;
    const from = a * w * 4;
    widen(heap, frame, range, top, end);
    for (let c = 0; c < 3; c++) heap.k.channelOf(ptr + a * w * 6, (b - a) * w, c, channel[c]!);
    heap.k.sumOfThree(0.25, channel[0], 0.5, channel[1], 0.25, channel[2], (b - a) * w, grey);
    heap.k.pyrUp(greys, w, h, grey - from, grey - from, -1, row, a, b);
    rootMeanSquares(heap, grey - from, w, h, top, end, sharp - at);
    heap.k.pyrUp(energy, w, h, sharp - at, sharp - at, FROM_BELOW, row, top, end);
    judge(heap, frame, sharp - at, w, top, end);
    for (let c = 0; c < 3; c++) {
      heap.k.pyrUp(own[c]!, w, h, channel[c]! - from, channel[c]! - from, -1, row, top, end);
      heap.k.takeWhere(sharp, best, channel[c]! - from + at, n, acc.ptr + c * acc.planeBytes + at);
    }
    if (won.level === 0) note(heap, sharp, best, won, top * w, n);
    heap.k.maxPlane(sharp, n, best);
  }
  heap.release(mark);
}

/** Widens the range of rows y0 to y1 by what a frame shows of them. */
function widen(
  heap: Heap,
  { ptr, width: w, height: h, covered }: WarpedFrame,
  { above, below }: FrameRange,
  y0: number,
  y1: number,
): void {
  for (let y = y0; y < Math.min(y1, h); y++) {
    const [x0, x1] = covered ? spanOver(covered, y, y + 1) : [0, w];
    const left = Math.max(0, Math.ceil(x0 - AT_BORDER));
    const right = Math.min(w, Math.floor(x1 + AT_BORDER));
    const at = (y * w + left) * 6;
    if (right > left) heap.k.widenRange(ptr + at, (right - left) * 3, above + at, below + at);
  }
}

/**
 * Draws rows y0 to y1 of the fused picture into the range of what the frames show there:
 * coefficients of several frames add up to more than any of them beside edges before something far
 * behind, which is seen as a halo.
 */
export function holdInRange(
  heap: Heap,
  { ptr, planeBytes, width }: Accumulator,
  { above, below }: FrameRange,
  y0: number,
  y1: number,
): void {
  const first = y0 * width;
  const n = (y1 - y0) * width;
  for (let c = 0; c < 3; c++)
    heap.k.holdInRange(
      ptr + c * planeBytes + first * 4,
      n,
      c,
      above + first * 6,
      below + first * 6,
    );
}

/**
 * Notes where a level's sharpness beats the best, what it is beside that, and sums it; n samples,
 * the first of them at `at`. Frames come along the travel.
 */
function note(heap: Heap, energy: number, best: number, won: Won, at: number, n: number): void {
  const e = heap.f32(energy, n);
  const b = heap.f32(best, n);
  const s = heap.u8(won.sources + at, n);
  for (let k = 0; k < n; k++) if (e[k]! > b[k]!) s[k] = won.frame + 1;
  heap.k.notePeak(energy, best, n, won.last + at * 4, won.lower + at * 4, won.upper + at * 4);
  heap.k.addPlane(energy, n, won.total + at * 4);
}

/**
 * Takes one channel's coarser coefficients where this frame is the sharpest so far; the coarsest
 * level is summed by sharpness.
 */
export function chooseCoarser(
  heap: Heap,
  w: number,
  h: number,
  channel: number,
  { own, energy, best, taken }: FocusSums,
): void {
  const shape = focusShape(w, h);
  const at = own[channel]!;
  const to = taken[channel]!;
  reduceAll(heap, at, shape);
  differences(heap, at, shape);
  shape.levels.forEach((l, i) => {
    if (i === shape.levels.length - 1)
      heap.k.addProduct(at + l.at, energy + l.at, l.w * l.h, to + l.at);
    else heap.k.takeWhere(energy + l.at, best + l.at, at + l.at, l.w * l.h, to + l.at);
  });
}

/** Makes this frame's coarser sharpness the one to be beaten, and notes where it won. */
export function keepBest(
  heap: Heap,
  w: number,
  h: number,
  { energy, best }: Pick<FocusSums, "energy" | "best">,
  won: Won,
): void {
  const { levels } = focusShape(w, h);
  levels.forEach((l, i) => {
    const n = l.w * l.h;
    if (i === levels.length - 1) {
      heap.k.addPlane(energy + l.at, n, best + l.at);
      return;
    }
    if (i + 1 === won.level) note(heap, energy + l.at, best + l.at, won, 0, n);
    heap.k.maxPlane(energy + l.at, n, best + l.at);
  });
}

/** Divides the summed coarsest level by its weights, which lie with the best. */
export function averageCoarsest(heap: Heap, w: number, h: number, sum: number, best: number): void {
  const l = focusShape(w, h).levels.at(-1)!;
  heap.k.divideBy(sum + l.at, best + l.at, l.w * l.h);
}

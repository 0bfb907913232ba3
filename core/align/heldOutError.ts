import type { Heap } from "../../kernels/heap";
import { project, type Matrix3 } from "../math/matrix3";
import type { LogPyramid } from "./logPyramid";
import {
  equations,
  inEight,
  stepped,
  SUMS_BYTES,
  type Equations,
  type MotionModel,
} from "./motionModels";
import { solveSymmetric } from "../math/solveSymmetric";
import type { Template, TemplateLevel } from "./template";

/** Blocks of the picture across and down that are held out in turn. */
const BLOCKS_ACROSS = 6;
/** Blocks that have to say something, or nothing is known of the error. */
const MIN_BLOCKS = 4;
/** Width of the robust loss, EV: as in the last rounds of registering. */
const LOSS_EV = 0.12;
/**
 * Px of the reduced frame by which all blocks err together, as what packing a file does to the
 * reference is in all of them: measured on photographs.
 */
const COMMON_PX = 0.035;
/**
 * Neighbouring blocks err alike, so that holding out one shows too little of it: measured on
 * photographs.
 */
const CORRELATED_BLOCKS_FACTOR = 2.5;
/** Px of the reduced frame beyond which the estimate itself is not to be relied on. */
const BEYOND_PX = 0.5;

/**
 * How far a registration may lie from the truth, by blocks that it did not use: each block of the
 * picture is held out in turn, the motion is found from the others, and what the motions differ by
 * tells the error of all (the jackknife). It sees what the residual of the fit does not: blocks
 * that agree among themselves but not with others, and how far a motion that is held by one corner
 * swings over the rest.
 *
 * @param transform  template to image, px of the finest level
 * @returns RMS over the frame in px of the finest level; undefined where too few blocks tell for it
 *   to be known
 * @see Efron, "The jackknife, the bootstrap and other resampling plans", SIAM 1982
 */
export function heldOutError(
  heap: Heap,
  template: Template,
  image: LogPyramid,
  model: MotionModel,
  transform: Matrix3,
  offset: number,
): number | undefined {
  const finest = template.levels[0]!;
  const blocks = equationsOfBlocks(heap, finest, image.levels[0]!, model, transform, offset);
  if (blocks.length < MIN_BLOCKS) return undefined;
  const size = blocks[0]!.b.length;
  const all: Pick<Equations, "A" | "b"> = {
    A: Array.from({ length: size }, (_, r) =>
      Array.from({ length: size }, (_c, c) => sum(blocks, (e) => e.A[r]![c]!)),
    ),
    b: Array.from({ length: size }, (_, r) => sum(blocks, (e) => e.b[r]!)),
  };
  const moves: number[][] = [];
  for (const own of blocks) {
    const step = solveSymmetric(
      all.A.map((row, r) => row.map((v, c) => v - own.A[r]![c]!)),
      all.b.map((v, r) => v - own.b[r]!),
    );
    if (!step) return undefined;
    moves.push(
      displacements(
        finest,
        stepped(transform, inEight(model, step), finest.w, finest.h).H,
        transform,
      ),
    );
  }
  const n = moves.length;
  const variance = moves[0]!.map((_, k) => {
    const mean = sum(moves, (m) => m[k]!) / n;
    return ((n - 1) / n) * sum(moves, (m) => (m[k]! - mean) ** 2);
  });
  // x and y of each place
  const error = Math.hypot(
    CORRELATED_BLOCKS_FACTOR * Math.sqrt((2 * sum(variance, (v) => v)) / variance.length),
    COMMON_PX,
  );
  return Number.isFinite(error) && error < BEYOND_PX ? error : undefined;
}

const sum = <T>(list: readonly T[], of: (item: T) => number): number =>
  list.reduce((total, item) => total + of(item), 0);

/** What the samples of each block say of the motion, of those that say something. */
function equationsOfBlocks(
  heap: Heap,
  t: TemplateLevel,
  im: { log: number; confidence: number },
  model: MotionModel,
  transform: Matrix3,
  offset: number,
): Equations[] {
  const mark = heap.mark();
  const m = heap.put(transform, "f64");
  const out = heap.alloc(SUMS_BYTES);
  const found: Equations[] = [];
  const room = heap.alloc(
    (Math.ceil(t.w / BLOCKS_ACROSS / t.cell) + 1) *
      (Math.ceil(t.h / BLOCKS_ACROSS / t.cell) + 1) *
      32,
  );
  for (let by = 0; by < BLOCKS_ACROSS; by++)
    for (let bx = 0; bx < BLOCKS_ACROSS; bx++) {
      const [x0, x1] = [bx, bx + 1].map((b) => Math.floor((b * t.w) / BLOCKS_ACROSS)) as [
        number,
        number,
      ];
      const [y0, y1] = [by, by + 1].map((b) => Math.floor((b * t.h) / BLOCKS_ACROSS)) as [
        number,
        number,
      ];
      const count = heap.k.selectSamples(
        t.log,
        t.confidence,
        t.w,
        t.h,
        x0,
        y0,
        x1,
        y1,
        t.cell,
        0,
        t.block,
        room,
      );
      const own = count
        ? equations(heap, model, room, count, im, t.w, t.h, m, offset, LOSS_EV, out)
        : undefined;
      if (own && own.confidences > 1) found.push(own);
    }
  heap.release(mark);
  return found;
}

/**
 * How far a motion takes places all over the frame from where another one does: x and y of each, px
 * of the image.
 */
function displacements({ w, h }: { w: number; h: number }, one: Matrix3, other: Matrix3): number[] {
  const out: number[] = [];
  for (let y = 0; y <= 4; y++)
    for (let x = 0; x <= 4; x++) {
      const [u, v] = project(one, (x * w) / 4, (y * h) / 4);
      const [p, q] = project(other, (x * w) / 4, (y * h) / 4);
      out.push(u - p, v - q);
    }
  return out;
}

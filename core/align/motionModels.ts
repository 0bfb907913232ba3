// What a motion may be, and its Gauss-Newton steps.
import type { Heap } from "../../kernels/heap";
import { invert, multiply, type Matrix3 } from "../math/matrix3";

export type MotionModel = "none" | "shift" | "similarity" | "homography";

/**
 * Each model's parameters as directions in the eight of a homography plus the brightness offset.
 */
const DIRECTIONS: Record<MotionModel, readonly (readonly number[])[]> = {
  none: [unit(8)],
  shift: [unit(2), unit(5), unit(8)],
  similarity: [
    [1, 0, 0, 0, 1, 0, 0, 0, 0],
    [0, -1, 0, 1, 0, 0, 0, 0, 0],
    unit(2),
    unit(5),
    unit(8),
  ],
  homography: [0, 1, 2, 3, 4, 5, 6, 7, 8].map(unit),
};
function unit(i: number): number[] {
  return Array.from({ length: 9 }, (_, k) => (k === i ? 1 : 0));
}

/**
 * Sums over samples of the template at one motion: A symmetric and b of A p = b, the offset last;
 * then what the samples say of it.
 */
export interface Equations {
  A: number[][];
  b: number[];
  confidences: number;
  square: number;
  count: number;
}

/** Bytes of the kernels' sums. */
export const SUMS_BYTES = 80 * 8;

/**
 * The equations of a model for samples at an address.
 *
 * @param m  nine doubles
 * @param scale  width of the robust loss, EV
 * @param out  room for `SUMS_BYTES`
 */
export function equations(
  heap: Heap,
  model: MotionModel,
  samples: number,
  count: number,
  im: { log: number; confidence: number },
  w: number,
  h: number,
  m: number,
  offset: number,
  scale: number,
  out: number,
): Equations {
  // the usual model has sums of its own, which cost a third
  const small = model === "similarity";
  const size = small ? 5 : 9;
  const sums = (size * (size + 1)) / 2;
  heap.k[small ? "similarityEquations" : "normalEquations"](
    samples,
    count,
    im.log,
    im.confidence,
    w,
    h,
    m,
    offset,
    scale,
    out,
  );
  const s = heap.f64(out, sums + size + 4);
  const full: number[][] = Array.from({ length: size }, () => new Array<number>(size).fill(0));
  const b = [...s.subarray(sums, sums + size)];
  let k = 0;
  for (let i = 0; i < size; i++) for (let j = i; j < size; j++) full[i]![j] = full[j]![i] = s[k++]!;
  const statistics = {
    confidences: s[sums + size]!,
    square: s[sums + size + 2]!,
    count: s[sums + size + 3]!,
  };
  if (small || model === "homography") return { A: full, b, ...statistics };
  const dirs = DIRECTIONS[model];
  const along = (a: readonly number[], row: readonly number[]): number =>
    a.reduce((sum, v, i) => sum + (v ? v * row[i]! : 0), 0);
  return {
    A: dirs.map((a) =>
      dirs.map((c) =>
        along(
          a,
          full.map((row) => along(c, row)),
        ),
      ),
    ),
    b: dirs.map((a) => along(a, b)),
    ...statistics,
  };
}

/** A model's parameters as those of a homography plus the offset. */
export function inEight(model: MotionModel, q: readonly number[]): number[] {
  const dirs = DIRECTIONS[model];
  return Array.from({ length: 9 }, (_, i) => dirs.reduce((sum, d, n) => sum + d[i]! * q[n]!, 0));
}

/**
 * A motion after a step, inverse compositional (Baker and Matthews, IJCV 2004), and about how far
 * the step moved, px.
 */
export function stepped(
  H: Matrix3,
  p: readonly number[],
  w: number,
  h: number,
): { H: Matrix3; moved: number } {
  const k = 2 / w;
  const toUnit = [k, 0, -0.5 * w * k, 0, k, -0.5 * h * k, 0, 0, 1];
  const d = [
    1 + p[0]! * k,
    p[1]! * k,
    p[2]! * k,
    p[3]! * k,
    1 + p[4]! * k,
    p[5]! * k,
    p[6]! * k,
    p[7]! * k,
    1,
  ];
  const after = multiply(H, invert(multiply(invert(toUnit), multiply(d, toUnit))));
  const h8 = after[8]!;
  return {
    H: after.map((v) => v / h8),
    moved:
      Math.hypot(p[2]!, p[5]!) +
      (Math.abs(p[0]!) + Math.abs(p[1]!) + Math.abs(p[3]!) + Math.abs(p[4]!)) * 0.7,
  };
}

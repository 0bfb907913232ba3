import type { Heap } from "../../kernels/heap";

/**
 * Levels of a Gaussian or Laplacian pyramid (Burt and Adelson 1983), each half of the one before,
 * in one block.
 */
export interface PyramidShape {
  levels: { w: number; h: number; /** bytes from the block's start */ at: number }[];
  bytes: number;
}

/**
 * As many levels as the shorter side has halves, so that the last is one or two px high or wide; or
 * fewer.
 */
export function pyramidShape(width: number, height: number, most = Infinity): PyramidShape {
  const count = Math.min(most, Math.floor(Math.log2(Math.max(1, Math.min(width, height)))));
  const levels: PyramidShape["levels"] = [];
  let w = width;
  let h = height;
  let at = 0;
  for (;;) {
    levels.push({ w, h, at });
    at += Math.ceil((w * h * 4 + 64) / 64) * 64;
    if (levels.length > count) return { levels, bytes: at };
    w = (w + 1) >> 1;
    h = (h + 1) >> 1;
  }
}

/** The same levels without the first, in a block of their own. */
export const coarserShape = (width: number, height: number, most = Infinity): PyramidShape =>
  pyramidShape(
    (width + 1) >> 1,
    (height + 1) >> 1,
    Math.max(0, pyramidShape(width, height, most).levels.length - 2),
  );

/** Fills the levels below the first, which is there. */
export function reduceAll(heap: Heap, block: number, { levels }: PyramidShape): void {
  const mark = heap.mark();
  const row = heap.alloc(levels[0]!.w * 4 + 64);
  for (let i = 1; i < levels.length; i++)
    heap.k.pyrDown(
      block + levels[i - 1]!.at,
      levels[i - 1]!.w,
      levels[i - 1]!.h,
      block + levels[i]!.at,
      row,
      0,
      levels[i]!.h,
    );
  heap.release(mark);
}

/** Turns a Gaussian pyramid into a Laplacian one, in place; the last level stays. */
export function differences(heap: Heap, block: number, { levels }: PyramidShape): void {
  const mark = heap.mark();
  const row = heap.alloc(levels[0]!.w * 4 + 64);
  for (let i = 0; i < levels.length - 1; i++) {
    const l = levels[i]!;
    heap.k.pyrUp(block + levels[i + 1]!.at, l.w, l.h, block + l.at, block + l.at, -1, row, 0, l.h);
  }
  heap.release(mark);
}

/** Adds a Laplacian pyramid up, in place: its first level becomes the picture. */
export function collapse(heap: Heap, block: number, { levels }: PyramidShape): void {
  const mark = heap.mark();
  const row = heap.alloc(levels[0]!.w * 4 + 64);
  for (let i = levels.length - 2; i >= 0; i--) {
    const l = levels[i]!;
    heap.k.pyrUp(block + levels[i + 1]!.at, l.w, l.h, block + l.at, block + l.at, 1, row, 0, l.h);
  }
  heap.release(mark);
}

// A picture that others are registered to: which of its samples say most of motion is asked once
// for all of them.
import type { Heap } from "../../kernels/heap";
import type { LogPyramid } from "./logPyramid";

/**
 * A level with room for its samples, floats as `selectSamples` puts them, one of each cell of
 * `cell` px; `count` once they were chosen.
 */
export interface TemplateLevel {
  w: number;
  h: number;
  log: number;
  confidence: number;
  cell: number;
  samples: number;
  /** px of the file's blocks, 0 for none */
  block: number;
  count?: number;
}
export interface Template {
  levels: TemplateLevel[];
}

/**
 * Side of the cells of which one sample each is looked at: some forty thousand samples hold a
 * motion as well as millions do.
 */
const cellOf = ({ w, h }: { w: number; h: number }): number =>
  Math.max(1, Math.round(Math.sqrt((w * h) / 4e4)));
const SAMPLE_BYTES = 32;
/**
 * Room that a template's samples take at most: some forty thousand a level, twice as many on one
 * whose cells are a px or two.
 */
export const TEMPLATE_BYTES = 14e6;

/**
 * A pyramid as a template, which lives in the heap as long as what is allocated now.
 *
 * @param block  px of the blocks in which its file packs brightness
 */
export function templateOf(heap: Heap, { levels }: LogPyramid, block = 0): Template {
  return {
    levels: levels.map((l, k) => {
      const cell = cellOf(l);
      const { w, h, log, confidence } = l;
      return {
        w,
        h,
        log,
        confidence,
        cell,
        block: k === 0 ? block : 0,
        samples: heap.alloc(Math.ceil(l.w / cell) * Math.ceil(l.h / cell) * SAMPLE_BYTES),
      };
    }),
  };
}

/** How many samples a level has at its `samples`. */
export function chosen(heap: Heap, level: TemplateLevel): number {
  const { w, h, log, confidence, cell, samples, block } = level;
  return (level.count ??= heap.k.selectSamples(
    log,
    confidence,
    w,
    h,
    0,
    0,
    w,
    h,
    cell,
    0,
    block,
    samples,
  ));
}

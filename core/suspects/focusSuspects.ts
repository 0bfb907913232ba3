import type { DisplacedEdges } from "../focus/displacedEdges";
import type { MovedPart } from "../focus/movedParts";
import { sharpGrid, type RunSharpness } from "../focus/sharpMap";
import { areasOf } from "./areas";
import { ranked, type Suspect } from "./suspect";

/**
 * Parts that moved while the run was taken: the picture shows them where they were sharp, and their
 * haze where they were not.
 */
export const movedSuspects = (moved: readonly MovedPart[]): Suspect[] =>
  ranked(
    moved.map(({ times, ...box }): Suspect => ({
      kind: "moved part",
      ...box,
      score: Math.round(Math.min(1, times / 12) * 1000) / 1000,
    })),
  );

/** Shares of a cell's pixels: from both frames beside the step, and from the rarer of them. */
const MIN_BOTH_SHARE = 0.6;
const MIN_RARER_SHARE = 0.15;

/**
 * Parts of a focus stack that are nowhere quite sharp: their focus lies within a step that was too
 * wide, and the picture passes there from the frame before to the frame behind.
 *
 * @param sources  which frame, counted from one, was sharpest, w x h at 1/downscale of full size
 * @param run      of the frames' alignment: places along the travel, those after which a step was
 *   too wide, telling cells
 */
export function softBands(
  sources: Uint8Array,
  w: number,
  h: number,
  downscale: number,
  {
    order,
    gaps,
    sharp,
  }: { order: readonly number[]; gaps: readonly number[]; sharp: Pick<RunSharpness, "cells"> },
): Suspect[] {
  const { width, height } = sharpGrid(w, h);
  const telling = new Set(sharp.cells);
  const counts = Array.from({ length: width * height }, () => new Map<number, number>());
  const all = new Int32Array(width * height);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const c = Math.floor((y * height) / h) * width + Math.floor((x * width) / w);
      const s = sources[y * w + x]! - 1;
      counts[c]!.set(s, (counts[c]!.get(s) ?? 0) + 1);
      all[c]!++;
    }
  return ranked(
    gaps.flatMap((k) => {
      const [a, b] = [order[k]!, order[k + 1]!];
      const within = (c: number): boolean => {
        const p = (counts[c]!.get(a) ?? 0) / all[c]!;
        const q = (counts[c]!.get(b) ?? 0) / all[c]!;
        return telling.has(c) && p + q > MIN_BOTH_SHARE && Math.min(p, q) > MIN_RARER_SHARE;
      };
      return areasOf(width, height, within, 2).map((r): Suspect => ({
        kind: "soft band",
        x: (r.x0 * w * downscale) / width,
        y: (r.y0 * h * downscale) / height,
        width: ((r.x1 - r.x0) * w * downscale) / width,
        height: ((r.y1 - r.y0) * h * downscale) / height,
        score: Math.min(1, (3 + r.cells) / 10),
      }));
    }),
  );
}

/**
 * Shares of a box's pixels: from both frames in which its edges lie differently, and from the rarer
 * of them; px at which a doubled edge is as bad as can be.
 */
const MIN_MIXED_SHARE = 0.4;
const MIN_SECOND_SHARE = 0.08;
const WORST_DOUBLING_PX = 8;

/**
 * Edges that a focus stack may show twice: they lie elsewhere in one of two neighbours along the
 * travel, and the picture is made of both there. What is reported as a moved part anyway is not reported
 * again.
 *
 * @param sources  which frame, counted from one, was sharpest, w x h at 1/downscale of full size
 */
export function doubledEdges(
  sources: Uint8Array,
  w: number,
  h: number,
  downscale: number,
  displaced: readonly DisplacedEdges[],
  moved: readonly MovedPart[],
): Suspect[] {
  const inside = (d: Omit<MovedPart, "times">, m: Omit<MovedPart, "times">): number =>
    Math.max(0, Math.min(d.x + d.width, m.x + m.width) - Math.max(d.x, m.x)) *
    Math.max(0, Math.min(d.y + d.height, m.y + m.height) - Math.max(d.y, m.y));
  return ranked(
    displaced.flatMap(({ frames: [a, b], px, ...box }): Suspect[] => {
      if (moved.some((m) => inside(box, m) > 0.5 * box.width * box.height)) return [];
      let first = 0;
      let second = 0;
      let all = 0;
      for (
        let y = Math.floor(box.y / downscale);
        y < Math.min(h, (box.y + box.height) / downscale);
        y++
      )
        for (
          let x = Math.floor(box.x / downscale);
          x < Math.min(w, (box.x + box.width) / downscale);
          x++
        ) {
          const s = sources[y * w + x]! - 1;
          all++;
          if (s === a) first++;
          else if (s === b) second++;
        }
      return first + second > MIN_MIXED_SHARE * all &&
        Math.min(first, second) > MIN_SECOND_SHARE * all
        ? [
            {
              kind: "double edge",
              ...box,
              score: Math.round(Math.min(1, px / WORST_DOUBLING_PX) * 1000) / 1000,
            },
          ]
        : [];
    }),
    12,
  );
}

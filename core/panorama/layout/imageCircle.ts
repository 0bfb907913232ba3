import type { Heap } from "../../../kernels/heap";
import { solveSymmetric } from "../../math/solveSymmetric";
import type { ReducedFrame } from "../../align/logPyramid";
import { makeSmallFrame, type SmallFrame } from "../seams/smallFrame";

/**
 * Light below which nothing is seen; side of the corners that have to be that dark, of the frame's
 * shorter side.
 */
const DARK_LIGHT = 0.004;
const CORNER_SHARE = 0.05;
/**
 * Directions in which the rim is looked for, how many have to show it, and how far they may differ,
 * of the radius.
 */
const DIRECTIONS = 72;
const MIN_DIRECTIONS = 16;
const MAX_ROUNDNESS_MISS = 0.02;
/** How far from the frame's middle the circle's may lie, of the shorter side. */
const MAX_CENTRE_SHIFT = 0.06;

/** A circle in a frame, px of the full-size frame. */
export interface ImageCircle {
  x: number;
  y: number;
  radius: number;
}

/**
 * The circle that a fisheye lens draws on a larger sensor.
 *
 * @param scale  full-size px a px of the frame
 * @returns undefined where the corners are not dark, or what is lit is no circle about the middle
 */
export function findImageCircle(
  heap: Heap,
  frame: ReducedFrame,
  scale: number,
): ImageCircle | undefined {
  return darkCorners(heap, frame) ? circleOf(makeSmallFrame(heap, frame, scale)) : undefined;
}

function darkCorners(heap: Heap, { ptr, type, width: w, height: h, lut }: ReducedFrame): boolean {
  const samples = heap.samples(ptr, type, w * h * 3);
  const size = lut.length / 3;
  const side = Math.max(2, Math.round(Math.min(w, h) * CORNER_SHARE));
  return [
    [0, 0],
    [w - side, 0],
    [0, h - side],
    [w - side, h - side],
  ].every(([x0, y0]) => {
    let sum = 0;
    for (let y = y0!; y < y0! + side; y++)
      for (let x = x0!; x < x0! + side; x++) {
        const v = samples[(y * w + x) * 3 + 1]!;
        sum += size ? lut[size + v]! : v;
      }
    return sum / (side * side) < DARK_LIGHT;
  });
}

function circleOf({ width: w, height: h, rgb, scale }: SmallFrame): ImageCircle | undefined {
  const rim: [number, number][] = [];
  const lit = (x: number, y: number): boolean => {
    const k = (Math.floor(y) * w + Math.floor(x)) * 3;
    return Math.max(rgb[k]!, rgb[k + 1]!, rgb[k + 2]!) > DARK_LIGHT;
  };
  for (let i = 0; i < DIRECTIONS; i++) {
    const c = Math.cos((i / DIRECTIONS) * 2 * Math.PI);
    const s = Math.sin((i / DIRECTIONS) * 2 * Math.PI);
    const border = Math.min((w / 2 - 1) / Math.abs(c), (h / 2 - 1) / Math.abs(s));
    let r = border;
    while (r > 0 && !lit(w / 2 + c * r, h / 2 + s * r)) r -= 0.5;
    // lit up to the frame's border: the circle goes on beyond it
    if (r < border - 2) rim.push([w / 2 + c * r, h / 2 + s * r]);
  }
  const { x, y, radius } = fittedTo(rim, w / 2, h / 2);
  const away = rim.map(([u, v]) => Math.abs(Math.hypot(u - x, v - y) - radius));
  if (
    rim.length < MIN_DIRECTIONS ||
    radius < 0.25 * Math.min(w, h) ||
    away.filter((d) => d < MAX_ROUNDNESS_MISS * radius + 1).length < 0.6 * rim.length ||
    Math.hypot(x - w / 2, y - h / 2) > MAX_CENTRE_SHIFT * Math.min(w, h)
  )
    return undefined;
  return { x: x * scale, y: y * scale, radius: radius * scale };
}

/**
 * The circle nearest to places about x, y: least squares over distances from it (Gauss and Newton),
 * those that fit worst, where something dark lies at the rim, hardly counted.
 */
function fittedTo(rim: readonly (readonly [number, number])[], x: number, y: number): ImageCircle {
  const sorted = rim.map(([u, v]) => Math.hypot(u - x, v - y)).sort((a, b) => a - b);
  let radius = sorted[Math.floor(sorted.length * 0.7)] ?? 0;
  for (let round = 0; round < 20 && radius > 0; round++) {
    const A = [0, 1, 2].map(() => [0, 0, 0]);
    const b = [0, 0, 0];
    const loose = (round < 8 ? 0.04 : 0.01) * radius;
    for (const [u, v] of rim) {
      const d = Math.hypot(u - x, v - y);
      const J = [-(u - x) / d, -(v - y) / d, -1];
      const e = d - radius;
      const weight = 1 / (1 + (e / loose) ** 2) ** 2;
      J.forEach((p, i) => {
        b[i]! -= weight * p * e;
        J.forEach((q, j) => {
          A[i]![j]! += weight * p * q;
        });
      });
    }
    const step = solveSymmetric(A, b);
    if (!step) break;
    x += step[0]!;
    y += step[1]!;
    radius += step[2]!;
  }
  return { x, y, radius };
}

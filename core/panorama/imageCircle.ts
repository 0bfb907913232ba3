import type { Heap } from "../../kernels/heap";
import type { ReducedFrame } from "../align/logPyramid";
import { lookImage, type LookImage } from "./lookImage";

/** Light below which nothing is seen; side of the corners that have to be that dark, of the frame's shorter side. */
const DARK = 0.004, CORNER = 0.05;
/** Directions in which the rim is looked for, how many have to show it, and how far they may differ, of the radius. */
const DIRECTIONS = 72, LEAST = 16, ROUND = 0.02;

/**
 * The radius of the circle that a fisheye lens draws on a larger sensor, px of the full-size frame.
 *
 * @param scale  full-size px a px of the frame
 * @returns undefined where the corners are not dark, or what is lit is no circle about the middle
 */
export function findImageCircle(heap: Heap, frame: ReducedFrame, scale: number): number | undefined {
  return darkCorners(heap, frame) ? circleOf(lookImage(heap, frame, scale)) : undefined;
}

function darkCorners(heap: Heap, { ptr, type, width: w, height: h, lut }: ReducedFrame): boolean {
  const samples = heap.samples(ptr, type, w * h * 3), size = lut.length / 3, side = Math.max(2, Math.round(Math.min(w, h) * CORNER));
  return [[0, 0], [w - side, 0], [0, h - side], [w - side, h - side]].every(([x0, y0]) => {
    let sum = 0;
    for (let y = y0!; y < y0! + side; y++) for (let x = x0!; x < x0! + side; x++) { const v = samples[(y * w + x) * 3 + 1]!; sum += size ? lut[size + v]! : v; }
    return sum / (side * side) < DARK;
  });
}

function circleOf({ width: w, height: h, rgb, scale }: LookImage): number | undefined {
  const found: number[] = [], lit = (x: number, y: number): boolean => { const k = (Math.floor(y) * w + Math.floor(x)) * 3; return Math.max(rgb[k]!, rgb[k + 1]!, rgb[k + 2]!) > DARK; };
  for (let i = 0; i < DIRECTIONS; i++) {
    const c = Math.cos((i / DIRECTIONS) * 2 * Math.PI), s = Math.sin((i / DIRECTIONS) * 2 * Math.PI), border = Math.min((w / 2 - 1) / Math.abs(c), (h / 2 - 1) / Math.abs(s));
    let r = border;
    while (r > 0 && !lit(w / 2 + c * r, h / 2 + s * r)) r -= 0.5;
    // lit up to the frame's border: the circle goes on beyond it
    if (r < border - 2) found.push(r);
  }
  // something dark at the rim shortens some
  const radii = found.sort((a, b) => a - b), middle = radii[Math.floor(radii.length * 0.7)] ?? 0;
  if (radii.length < LEAST || middle < 0.25 * Math.min(w, h) || radii.filter((r) => Math.abs(r - middle) < ROUND * middle + 1).length < 0.6 * radii.length) return undefined;
  return middle * scale;
}

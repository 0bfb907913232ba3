import type { Preparation } from "./preparation";

/** What of a lens is undone. */
export type Lens = Pick<Preparation, "distortion" | "vignetting" | "fringeRed" | "fringeBlue">;
export interface Size {
  width: number;
  height: number;
}

/** How much the straightened picture is drawn together so that no border is empty. */
function fitting({ distortion: k }: Lens, { width, height }: Size): number {
  const half = Math.hypot(width, height) / 2;
  const along = (x: number, y: number): number => {
    const r2 = (x * x + y * y) / half ** 2;
    return 1 / straightened(k, r2);
  };
  // the frame's own border, as far in as it may lie after straightening: the nearest place of it
  // decides
  return Math.min(
    1 / along(width / 2, 0),
    1 / along(0, height / 2),
    1 / along(width / 2, height / 2),
  );
}
const straightened = (k: number, r2: number): number => 1 + k * r2;

/**
 * Where a pixel of the straightened frame is taken from in the frame as it is, px (Newton's method
 * on the radius).
 */
export function sourceOf(
  lens: Lens,
  size: Size,
  x: number,
  y: number,
): { x: number; y: number; /** radius squared there, 1 = half the diagonal */ r2: number } {
  const half = Math.hypot(size.width, size.height) / 2;
  const fit = fitting(lens, size);
  const a = ((x - size.width / 2) * fit) / half;
  const b = ((y - size.height / 2) * fit) / half;
  const ideal = Math.hypot(a, b);
  let r = ideal;
  for (let i = 0; i < 8 && lens.distortion && ideal > 0; i++)
    r -=
      (r * straightened(lens.distortion, r * r) - ideal) /
      Math.max(0.2, 1 + 3 * lens.distortion * r * r);
  const by = ideal > 1e-12 ? (r / ideal) * half : half;
  return { x: size.width / 2 + a * by, y: size.height / 2 + b * by, r2: r * r };
}

/** Where a place of the frame as it is comes to lie in the straightened one, px: undoes `sourceOf`. */
export function straightenedPlace(
  lens: Lens,
  size: Size,
  x: number,
  y: number,
): { x: number; y: number } {
  const half = Math.hypot(size.width, size.height) / 2;
  const a = (x - size.width / 2) / half;
  const b = (y - size.height / 2) / half;
  const by = (straightened(lens.distortion, a * a + b * b) / fitting(lens, size)) * half;
  return { x: size.width / 2 + a * by, y: size.height / 2 + b * by };
}

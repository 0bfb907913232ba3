import type { Rectangle } from "../../../core/raster/largestRectangle";
import type { Size } from "./viewport";

/**
 * Which sides of a frame are taken: -1 the left or upper one, 1 the right or lower one; none moves
 * it whole.
 */
export interface Grip {
  h: -1 | 0 | 1;
  v: -1 | 0 | 1;
}
export const GRIPS: readonly Grip[] = ([-1, 0, 1] as const)
  .flatMap((v) => ([-1, 0, 1] as const).map((h) => ({ h, v })))
  .filter(({ h, v }) => h || v);

/** Least side of what is kept, px. */
const LEAST = 16;
const within = (v: number, lo: number, hi: number): number =>
  Math.min(Math.max(v, lo), Math.max(lo, hi));

/**
 * A frame within a picture whose grip is dragged by so many px. Sides that are not taken stay where
 * they are; with a ratio, what is not taken gives way evenly to both sides.
 *
 * @param ratio  width over height that it keeps, if any
 */
export function dragged(
  was: Rectangle,
  { h, v }: Grip,
  dx: number,
  dy: number,
  picture: Size,
  ratio?: number,
): Rectangle {
  const { x, y, width, height } = was;
  if (!h && !v)
    return {
      ...was,
      x: within(x + dx, 0, picture.width - width),
      y: within(y + dy, 0, picture.height - height),
    };
  const right = x + width;
  const below = y + height;
  const midX = x + width / 2;
  const midY = y + height / 2;
  /** How long a side may be where its fixed end, or its middle, stays. */
  const room = (grip: number, from: number, to: number, middle: number, all: number): number => {
    if (grip < 0) return to;
    if (grip > 0) return all - from;
    return 2 * Math.min(middle, all - middle);
  };
  const roomX = room(h, x, right, midX, picture.width);
  const roomY = room(v, y, below, midY, picture.height);
  let w = h ? within(width + h * dx, LEAST, roomX) : width;
  let t = v ? within(height + v * dy, LEAST, roomY) : height;
  if (ratio !== undefined) {
    // the side that was dragged farther leads
    w = within(
      !h || (v && Math.abs(t - height) * ratio > Math.abs(w - width)) ? t * ratio : w,
      Math.max(LEAST, LEAST * ratio),
      Math.min(roomX, roomY * ratio),
    );
    t = w / ratio;
  }
  return {
    x: [right - w, midX - w / 2, x][Math.sign(h) + 1]!,
    y: [below - t, midY - t / 2, y][Math.sign(v) + 1]!,
    width: w,
    height: t,
  };
}

/** A frame of this size about the middle of another, as large as the picture allows. */
export function resized(was: Rectangle, width: number, height: number, picture: Size): Rectangle {
  const by = Math.min(1, picture.width / width, picture.height / height);
  const w = width * by;
  const h = height * by;
  return {
    x: within(was.x + (was.width - w) / 2, 0, picture.width - w),
    y: within(was.y + (was.height - h) / 2, 0, picture.height - h),
    width: w,
    height: h,
  };
}

/** In shares of the picture, as recipes have it. */
export const sharesOf = (
  { x, y, width, height }: Rectangle,
  picture: Size,
): [number, number, number, number] => {
  const left = within(x / picture.width, 0, 1);
  const top = within(y / picture.height, 0, 1);
  return [
    left,
    top,
    within(width / picture.width, 0.005, 1 - left),
    within(height / picture.height, 0.005, 1 - top),
  ];
};

/** Lines that help to compose, each from end to end in shares of the frame. */
export const OVERLAYS = {
  none: "None",
  thirds: "Thirds",
  golden: "Golden",
  diagonals: "Diagonals",
  centre: "Centre",
} as const;
export type Overlay = keyof typeof OVERLAYS;

/** The golden section of 1. */
const GOLDEN = (Math.sqrt(5) - 1) / 2;

/** @param aspect  width over height of the frame */
export function overlayLines(
  overlay: Overlay,
  aspect: number,
): [x0: number, y0: number, x1: number, y1: number][] {
  const crossed = (at: readonly number[]): [number, number, number, number][] =>
    at.flatMap((s): [number, number, number, number][] => [
      [s, 0, s, 1],
      [0, s, 1, s],
    ]);
  if (overlay === "thirds") return crossed([1 / 3, 2 / 3]);
  if (overlay === "golden") return crossed([1 - GOLDEN, GOLDEN]);
  if (overlay === "centre") return crossed([0.5]);
  if (overlay === "none") return [];
  // lines at 45 degrees from the corners, as far as the shorter side goes
  const [u, t] = aspect > 1 ? [1 / aspect, 1] : [1, aspect];
  return [
    [0, 0, u, t],
    [1, 0, 1 - u, t],
    [0, 1, u, 1 - t],
    [1, 1, 1 - u, 1 - t],
  ];
}

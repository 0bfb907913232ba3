import { seen, shownBy, type Camera } from "../camera";
import type { Tie } from "./verifyPair";

/** Half the side of the patches that are compared, px of the reduced frames. */
export const PATCH_REACH_PX = 8;
/** Samples that count less than this are not compared. */
export const LEAST_CONFIDENCE = 0.05;

/** How steps across and down in the first frame go in the second, by rows. */
export type Jacobian = readonly [xx: number, xy: number, yx: number, yy: number];

/** The patch round a place of the first frame, and where it lies in the second; px of the planes. */
export interface TiePatch {
  /** its middle in the first frame, whole px */
  column: number;
  row: number;
  /** its middle in the second frame, as far as the cameras say */
  centre: readonly [number, number];
  jacobian: Jacobian;
}

/** From px of the full-size frame, pixel centres at halves, to px of a plane, centres at wholes. */
export const toPlane = (px: number, scale: number): number => px / scale - 0.5;
/** And back. */
export const toFrame = (px: number, scale: number): number => (px + 0.5) * scale;

/**
 * The patch round a tie's place in the first frame, warped into the second by the cameras. Without
 * cameras the frames are taken to be upright and of one scale, and the tie to be right.
 *
 * @param scale  full-size px a px of the planes
 * @returns undefined where the second camera does not see it
 */
export function patchOf(
  cameras: readonly [Camera, Camera] | undefined,
  scale: number,
  [ax, ay, bx, by]: Tie,
): TiePatch | undefined {
  const column = Math.round(toPlane(ax, scale));
  const row = Math.round(toPlane(ay, scale));
  if (!cameras) {
    const right = toPlane(ax, scale) - column;
    const down = toPlane(ay, scale) - row;
    const centre = [toPlane(bx, scale) - right, toPlane(by, scale) - down] as const;
    return { column, row, centre, jacobian: [1, 0, 0, 1] };
  }
  const [first, second] = cameras;
  const warp = (x: number, y: number): [number, number] | undefined => {
    const p = seen(second, shownBy(first, toFrame(x, scale), toFrame(y, scale)));
    return p && [toPlane(p[0], scale), toPlane(p[1], scale)];
  };
  const centre = warp(column, row);
  const across = warp(column + PATCH_REACH_PX, row);
  const below = warp(column, row + PATCH_REACH_PX);
  if (!centre || !across || !below) return undefined;
  return {
    column,
    row,
    centre,
    jacobian: [
      (across[0] - centre[0]) / PATCH_REACH_PX,
      (below[0] - centre[0]) / PATCH_REACH_PX,
      (across[1] - centre[1]) / PATCH_REACH_PX,
      (below[1] - centre[1]) / PATCH_REACH_PX,
    ],
  };
}

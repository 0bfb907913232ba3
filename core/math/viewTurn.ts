import { multiply } from "./matrix3";
import { rotationFromVector } from "./rotation";

const RADIANS = Math.PI / 180;

/** Degrees by which a view is turned manually: to the right, up, and clockwise. */
export interface ViewTurn {
  yaw: number;
  pitch: number;
  roll: number;
}

/** Yaw first, then pitch, then roll. @returns 3 x 3, row-major */
export const turnByHand = ({ yaw, pitch, roll }: ViewTurn): number[] =>
  multiply(
    rotationFromVector([0, 0, roll * RADIANS]),
    multiply(
      rotationFromVector([pitch * RADIANS, 0, 0]),
      rotationFromVector([0, yaw * RADIANS, 0]),
    ),
  );

import { lookingAt } from "../../../simulate/sweep";
import type { Camera } from "../camera";
import { rowOf } from "./row";

test("frames that look equally high are a row, whatever their roll; a frame without a place is in none", () => {
  const cameras = [
    [0, 20, 1],
    [40, 22, -2],
    [80, 17, 0],
    [0, -20, 0],
    [40, -24, 3],
  ].map(([yaw, pitch, roll]): Camera => ({
    rotation: lookingAt(yaw!, pitch!, roll!),
    focalPx: 1000,
    distortion: [0, 0, 0],
    width: 900,
    height: 600,
  }));
  expect(rowOf([...cameras, undefined], 1)).toEqual([0, 1, 2]);
  expect(rowOf([...cameras, undefined], 4)).toEqual([3, 4]);
  expect(rowOf([...cameras, undefined], 5)).toEqual([]);
});

import { canvasFor, pixelOf } from "../../core/panorama/projection";
import { worldRay, type Camera } from "../../core/panorama/camera";
import { lookingAt } from "../../core/simulate/sweep";
import type { Placing } from "../../core/steps/panorama/placing";
import { outlineIn } from "./MaskChoice";

const cameras: Camera[] = [-20, 20, 150].map((yaw) => ({ rotation: lookingAt(yaw, 0, 0), focalPx: 600, distortion: [-0.03, 0, 0], width: 500, height: 400 }));
const placing = { canvas: canvasFor(cameras.slice(0, 2), { projection: "cylindrical", most: 1e9 }) } as Placing;
/** A line on the picture, in shares of it, round what a camera shows between two of its corners. */
const round = (c: Camera, x0: number, y0: number, x1: number, y1: number): [number, number][] => [[x0, y0], [x1, y0], [x1, y1], [x0, y1]].map(([x, y]) => { const p = pixelOf(placing.canvas, worldRay(c, x! * c.width, y! * c.height))!; return [p[0] / placing.canvas.width, p[1] / placing.canvas.height]; });

test("a line round a part of the picture is found in the frame where it was drawn", () => {
  const line = outlineIn(cameras[0]!, placing, round(cameras[0]!, 0.7, 0.4, 0.9, 0.6))!;
  [[0.7, 0.4], [0.9, 0.4], [0.9, 0.6], [0.7, 0.6]].forEach(([x, y], i) => { expect(line[i]![0]).toBeCloseTo(x!, 3); expect(line[i]![1]).toBeCloseTo(y!, 3); });
});

test("a frame that does not show the place has no such line", () => {
  expect(outlineIn(cameras[1]!, placing, round(cameras[0]!, 0.05, 0.4, 0.2, 0.6))).toBeUndefined();
  expect(outlineIn(cameras[2]!, placing, round(cameras[0]!, 0.7, 0.4, 0.9, 0.6))).toBeUndefined();
  expect(outlineIn(cameras[1]!, placing, round(cameras[0]!, 0.85, 0.4, 0.99, 0.6))).toBeDefined();
});

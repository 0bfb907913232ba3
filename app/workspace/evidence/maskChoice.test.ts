import { canvasFor, pixelOf } from "../../../core/panorama/canvas/projection";
import { worldRay, type Camera } from "../../../core/panorama/camera";
import { lookingAt } from "../../../simulate/sweep";
import { hiding } from "../../../core/panorama/seams/masks";
import type { Area } from "../picture/area";
import type { Layout } from "../../../pipeline/panorama/layout";
import { partIn } from "./MaskChoice";

const cameras: Camera[] = [-20, 20, 150].map((yaw) => ({
  rotation: lookingAt(yaw, 0, 0),
  focalPx: 600,
  distortion: [-0.03, 0, 0],
  width: 500,
  height: 400,
}));
const layout = {
  canvas: canvasFor(cameras.slice(0, 2), { projection: "cylindrical", most: 1e9 }),
} as Layout;
/** A line on the picture, in shares of it, round what a camera shows between two of its corners. */
const round = (c: Camera, x0: number, y0: number, x1: number, y1: number): [number, number][] =>
  [
    [x0, y0],
    [x1, y0],
    [x1, y1],
    [x0, y1],
  ].map(([x, y]) => {
    const p = pixelOf(layout.canvas, worldRay(c, x! * c.width, y! * c.height))!;
    return [p[0] / layout.canvas.width, p[1] / layout.canvas.height];
  });
const outlined = (...of: Parameters<typeof round>): Area => ({
  shape: "outline",
  points: round(...of),
  radius: 0,
});

test("a line round a part of the picture is found in the frame where it was drawn", () => {
  const line = partIn(cameras[0]!, layout, outlined(cameras[0]!, 0.7, 0.4, 0.9, 0.6))!.points;
  [
    [0.7, 0.4],
    [0.9, 0.4],
    [0.9, 0.6],
    [0.7, 0.6],
  ].forEach(([x, y], i) => {
    expect(line[i]![0]).toBeCloseTo(x!, 3);
    expect(line[i]![1]).toBeCloseTo(y!, 3);
  });
});

test("a frame that does not show the place has no such line", () => {
  expect(partIn(cameras[1]!, layout, outlined(cameras[0]!, 0.05, 0.4, 0.2, 0.6))).toBeUndefined();
  expect(partIn(cameras[2]!, layout, outlined(cameras[0]!, 0.7, 0.4, 0.9, 0.6))).toBeUndefined();
  expect(partIn(cameras[1]!, layout, outlined(cameras[0]!, 0.85, 0.4, 0.99, 0.6))).toBeDefined();
});

test("what a brush covered on the picture is covered in the frame, and no more", () => {
  const [c] = cameras as [Camera];
  const { canvas } = layout;
  const radius = 0.03;
  const line = Array.from({ length: 200 }, (_, i): [number, number] => {
    const p = pixelOf(
      canvas,
      worldRay(c, (0.3 + 0.002 * i) * c.width, (0.5 + 0.1 * Math.sin(i / 30)) * c.height),
    )!;
    return [p[0] / canvas.width, p[1] / canvas.height];
  });
  const part = partIn(c, layout, { shape: "brush", points: line, radius })!;
  const hides = hiding([part], c);
  expect(part.points.length).toBeLessThan(120);
  let wrong = 0;
  let all = 0;
  for (let y = 0.2; y < 0.8; y += 0.02)
    for (let x = 0.1; x < 0.9; x += 0.02) {
      const p = pixelOf(canvas, worldRay(c, x * c.width, y * c.height))!;
      const away =
        Math.min(
          ...line.map(([u, v]) => Math.hypot(u * canvas.width - p[0], v * canvas.height - p[1])),
        ) /
        (radius * canvas.width);
      if (Math.abs(away - 1) < 0.1) continue;
      all++;
      if (hides(x * c.width, y * c.height) !== away < 1) wrong++;
    }
  expect(all).toBeGreaterThan(500);
  expect(wrong).toBe(0);
  expect(partIn(cameras[2]!, layout, { shape: "brush", points: line, radius })).toBeUndefined();
});

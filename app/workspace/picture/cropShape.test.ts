import { dragged, GRIPS, overlayLines, resized, sharesOf } from "./cropShape";
import { random } from "../../../core/math/random";

const picture = { width: 600, height: 400 };
const frame = { x: 100, y: 100, width: 300, height: 200 };

test("whatever is dragged however far, the frame stays within the picture, keeps its ratio and the sides that were not taken", () => {
  const rnd = random(4);
  for (let i = 0; i < 4000; i++) {
    const { h, v } = GRIPS[i % GRIPS.length]!;
    const ratio = i % 3 ? undefined : 0.3 + 3 * rnd();
    const was = ratio === undefined ? frame : resized(frame, 150 * ratio, 150, picture);
    const r = dragged(was, { h, v }, 1600 * (rnd() - 0.5), 1600 * (rnd() - 0.5), picture, ratio);
    expect(
      Math.min(r.x, r.y, picture.width - r.x - r.width, picture.height - r.y - r.height),
    ).toBeGreaterThan(-1e-6);
    if (ratio !== undefined) expect(r.width / r.height).toBeCloseTo(ratio, 6);
    if (h < 0) expect(r.x + r.width).toBeCloseTo(was.x + was.width, 6);
    if (h > 0) expect(r.x).toBeCloseTo(was.x, 6);
    if (v < 0) expect(r.y + r.height).toBeCloseTo(was.y + was.height, 6);
    if (v > 0) expect(r.y).toBeCloseTo(was.y, 6);
  }
});

test("a side follows the pointer, and the whole stops at the picture's border", () => {
  expect(dragged(frame, { h: 1, v: 0 }, 40, 90, picture)).toEqual({ ...frame, width: 340 });
  expect(dragged(frame, { h: 1, v: 1 }, 60, 10, picture, 1.5)).toEqual({
    ...frame,
    width: 360,
    height: 240,
  });
  expect(dragged(frame, { h: 0, v: 0 }, 500, -30, picture)).toEqual({ ...frame, x: 300, y: 70 });
});

test("a typed size keeps the middle, and no more than the picture", () => {
  expect(resized(frame, 200, 100, picture)).toEqual({ x: 150, y: 150, width: 200, height: 100 });
  expect(resized(frame, 1200, 800, picture)).toEqual({ x: 0, y: 0, width: 600, height: 400 });
  expect(sharesOf({ x: 0, y: 0, width: 600, height: 400 }, picture)).toEqual([0, 0, 1, 1]);
});

test("diagonals leave the corners at 45 degrees in frames of any shape", () => {
  for (const aspect of [0.5, 1, 2.4])
    for (const [x0, y0, x1, y1] of overlayLines("diagonals", aspect))
      expect(Math.abs((x1 - x0) * aspect)).toBeCloseTo(Math.abs(y1 - y0), 9);
});

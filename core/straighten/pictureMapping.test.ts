import { apply, invert, project } from "../math/matrix3";
import { turnByHand } from "../math/viewTurn";
import { intrinsics, pictureMapping } from "./pictureMapping";

const size = { width: 6000, height: 4000 };
const FOCAL = 4000;
const turns = [
  { yaw: 0, pitch: 8, roll: 0 },
  { yaw: 0, pitch: -12, roll: 4 },
  { yaw: 18, pitch: 0, roll: 0 },
  { yaw: -10, pitch: 6, roll: -9 },
];

/** How much larger an area comes out in the picture than it was in the frame at a place of it. */
function enlarged(fromPicture: readonly number[], x: number, y: number): number {
  const [[u, v], [ux, vx], [uy, vy]] = [
    project(fromPicture, x, y),
    project(fromPicture, x + 1, y),
    project(fromPicture, x, y + 1),
  ] as const;
  return 1 / Math.abs((ux - u) * (vy - v) - (vx - v) * (uy - u));
}

test("a picture that is not turned is the frame", () => {
  const mapping = pictureMapping(turnByHand({ yaw: 0, pitch: 0, roll: 0 }), FOCAL, size, "filled");
  mapping.forEach((v, i) => expect(v).toBeCloseTo(i % 4 === 0 ? 1 : 0, 12));
});

test.each(turns)("turned by %j it shows what a turned camera would see", (by) => {
  const turn = turnByHand(by);
  const fromPicture = pictureMapping(turn, FOCAL, size, "filled");
  // what is straight up in space is a column of the picture, and what lies across it a row
  const toPicture = invert(fromPicture);
  const seen = (ray: readonly number[]): [number, number] => {
    const [x, y, z] = apply(intrinsics(FOCAL, size), apply(invert(turn), ray));
    return project(toPicture, x / z, y / z);
  };
  for (const x of [-0.3, 0.2]) {
    const [top, bottom] = [seen([x, -0.3, 1]), seen([x, 0.3, 1])];
    expect(top[0]).toBeCloseTo(bottom[0], 6);
  }
  const [left, right] = [seen([-0.3, 0.1, 1]), seen([0.3, 0.1, 1])];
  expect(left[1]).toBeCloseTo(right[1], 6);
  // a square before the turned camera stays one
  const [a, b, c] = [seen([0, 0, 1]), seen([0.1, 0, 1]), seen([0, 0.1, 1])];
  expect(b[0] - a[0]).toBeCloseTo(c[1] - a[1], 6);
});

test.each(turns)("turned by %j its middle is as large as it was taken", (by) => {
  const fromPicture = pictureMapping(turnByHand(by), FOCAL, size, "filled");
  const middle = project(invert(fromPicture), size.width / 2, size.height / 2);
  expect(enlarged(fromPicture, ...middle)).toBeLessThan(1.0001);
  expect(enlarged(fromPicture, ...middle)).toBeGreaterThan(0.8);
});

test.each(turns)(
  "turned by %j all of the frame is in the picture where that is asked for",
  (by) => {
    const toPicture = invert(pictureMapping(turnByHand(by), FOCAL, size, "whole"));
    const corners = [
      [0, 0],
      [size.width, 0],
      [0, size.height],
      [size.width, size.height],
    ].map(([x, y]) => project(toPicture, x!, y!));
    for (const [x, y] of corners) {
      expect(x).toBeGreaterThan(-1e-6);
      expect(y).toBeGreaterThan(-1e-6);
      expect(x).toBeLessThan(size.width + 1e-6);
      expect(y).toBeLessThan(size.height + 1e-6);
    }
  },
);

test("a slider moves the picture smoothly", () => {
  let before = [3000, 2000];
  for (let roll = 0.05; roll < 20; roll += 0.05) {
    const mapping = pictureMapping(turnByHand({ yaw: 0, pitch: 5, roll }), FOCAL, size, "filled");
    const now = project(mapping, 3000, 2000);
    if (roll > 0.06) expect(Math.hypot(now[0] - before[0]!, now[1] - before[1]!)).toBeLessThan(12);
    before = now;
  }
});

import { apply } from "../../../core/math/matrix3";
import type { Camera } from "../../../core/panorama/camera";
import { canvasFor, directionAt, pixelOf } from "../../../core/panorama/canvas/projection";
import { worldTurn } from "../../../core/panorama/level/straighten";
import { lookingAt } from "../../../simulate/sweep";
import { betweenTurns, directionIn, fitted, meshOver, outlineIn } from "./reproject";

const camera = (yaw: number): Camera => ({
  rotation: lookingAt(yaw, 0, 0),
  focalPx: 1000,
  distortion: [0, 0, 0],
  width: 1000,
  height: 1500,
});
const box = { width: 760, height: 690 };
const row = canvasFor([-30, 0, 30].map(camera), { projection: "cylindrical", most: 1e9 });
const round = canvasFor(
  Array.from({ length: 10 }, (_, i) => camera(i * 36)),
  { projection: "equirectangular", most: 1e9 },
);
const still = betweenTurns(
  worldTurn({ guides: [], yaw: 3, pitch: 1, roll: 2 }),
  worldTurn({ guides: [], yaw: 3, pitch: 1, roll: 2 }),
);
const turnedBy = (yaw: number): number[] =>
  betweenTurns(
    worldTurn({ guides: [], yaw: 0, pitch: 0, roll: 0 }),
    worldTurn({ guides: [], yaw, pitch: 0, roll: 0 }),
  );
const corners = ({
  places,
  shares,
}: ReturnType<typeof meshOver>): { x: number; y: number; u: number; v: number }[] =>
  Array.from({ length: places.length / 2 }, (_, i) => ({
    x: places[2 * i]!,
    y: places[2 * i + 1]!,
    u: shares[2 * i]!,
    v: shares[2 * i + 1]!,
  }));

test("a view that stays is drawn where the picture lies; one that turns shows what lies there then, in any projection", () => {
  const seen = fitted(row, box);
  for (const { x, y, u, v } of corners(meshOver(seen, box, row, still)).filter(
    (_, i) => i % 17 === 0,
  )) {
    expect(u).toBeCloseTo((x - seen.x) / seen.scale / row.width, 3);
    expect(v).toBeCloseTo((y - seen.y) / seen.scale / row.height, 3);
  }
  for (const projection of ["rectilinear", "stereographic", "panini"] as const) {
    const by = turnedBy(12);
    const other = fitted(canvasFor([-30, 0, 30].map(camera), { projection, most: 1e9 }), box);
    const mesh = corners(meshOver(other, box, row, by));
    expect(mesh.length).toBeGreaterThan(1000);
    for (const { x, y, u, v } of mesh.filter(
      (c, i) => i % 17 === 0 && c.u > 0 && c.u < 1 && c.v > 0 && c.v < 1,
    )) {
      const now = pixelOf(
        other.canvas,
        apply(by, directionAt(row, u * row.width, v * row.height)!),
      )!;
      expect(now[0] * other.scale + other.x).toBeCloseTo(x, 0);
      expect(now[1] * other.scale + other.y).toBeCloseTo(y, 0);
    }
  }
});

test("over the poles and over the ends of a full turn no triangle is drawn across the whole picture", () => {
  const mesh = corners(meshOver(fitted(round, box), box, round, turnedBy(100)));
  expect(mesh.length).toBeGreaterThan(3000);
  for (let i = 0; i < mesh.length; i += 3) {
    const u = mesh.slice(i, i + 3).map((c) => c.u);
    expect(Math.max(...u) - Math.min(...u)).toBeLessThan(0.41);
  }
  // and it reaches to the picture's own border
  const seen = fitted(round, box);
  const at = corners(meshOver(seen, box, round, still));
  expect([Math.min(...at.map((c) => c.x)), Math.max(...at.map((c) => c.x))]).toEqual([
    expect.closeTo(seen.x, 0),
    expect.closeTo(seen.x + round.width * seen.scale, 0),
  ]);
});

test("a canvas is fitted into the box, and another one of its projection is outlined where it lies in it", () => {
  const seen = fitted(row, box);
  const wide = canvasFor([-30, 0, 30, 60].map(camera), { projection: "cylindrical", most: 1e9 });
  const o = outlineIn(seen, row);
  const p = outlineIn(seen, wide);
  expect(o).toEqual({
    x: expect.closeTo(seen.x, 6),
    y: expect.closeTo(seen.y, 6),
    width: expect.closeTo(row.width * seen.scale, 6),
    height: expect.closeTo(row.height * seen.scale, 6),
  });
  expect(o.width).toBeLessThan(box.width);
  expect([p.x, p.width > o.width * 1.2]).toEqual([expect.closeTo(o.x, 6), true]);
  // beyond its border the view goes on
  expect(directionIn(seen, seen.x - 10, box.height / 2)).toBeDefined();
});

import { lookingAt } from "../../../simulate/sweep";
import { seen, rayOf, worldRay, type Camera } from "../camera";
import {
  canvasFor,
  directionAt,
  extentOf,
  fromPlane,
  pixelOf,
  PROJECTIONS,
  shrunk,
  toPlane,
} from "./projection";

const camera = (yaw: number, pitch = 0): Camera => ({
  rotation: lookingAt(yaw, pitch, 0),
  focalPx: 1000,
  distortion: [-0.05, 0.01, 0],
  width: 1000,
  height: 1500,
});

test.each(PROJECTIONS)("%s leads from direction to plane and back", (p) => {
  for (const yaw of [-50, -10, 0, 33])
    for (const pitch of [-40, 0, 25]) {
      const d = worldRay({ ...camera(yaw, pitch), distortion: [0, 0, 0] }, 500, 750);
      const at = toPlane(p, d)!;
      const back = fromPlane(p, ...at)!;
      back.forEach((v, i) => expect(v).toBeCloseTo(d[i]!, 6));
    }
});

test("a pixel's ray is seen where it came from, through the lens's distortion", () => {
  const c = camera(0);
  for (const [x, y] of [
    [0, 0],
    [999, 1499],
    [500, 750],
    [20, 1400],
  ] as const)
    seen({ ...c, rotation: [1, 0, 0, 0, 1, 0, 0, 0, 1] }, rayOf(c, x, y))!.forEach((v, i) =>
      expect(v).toBeCloseTo([x, y][i]!, 4),
    );
});

test("the canvas holds all that is covered, at the frames' own scale, and its projection follows the field of view", () => {
  const row = [-60, -30, 0, 30, 60].map((y) => camera(y));
  const c = canvasFor(row, { projection: "auto", most: 1e9 });
  expect(c.projection).toBe("cylindrical");
  expect(c.pxPerRadian).toBe(1000);
  expect(c.closed).toBe(false);
  // 120 degrees and a frame's own width
  expect(c.width).toBeGreaterThan(((120 + 52) * Math.PI * 1000) / 180 - 30);
  expect(
    canvasFor(
      [-8, 8].map((y) => ({ ...camera(y), focalPx: 2000 })),
      { projection: "auto", most: 1e9 },
    ).projection,
  ).toBe("rectilinear");
  const round = canvasFor(
    Array.from({ length: 10 }, (_, i) => camera(i * 36)),
    { projection: "equirectangular", most: 1e9 },
  );
  expect(round.closed).toBe(true);
  expect(round.width).toBe(Math.round(2 * Math.PI * 1000));
  expect(
    canvasFor(row, { projection: "auto", most: 1e5 }).width *
      canvasFor(row, { projection: "auto", most: 1e5 }).height,
  ).toBeLessThan(1.02e5);
  const half = shrunk(c, 2);
  const d = directionAt(c, 400, 300)!;
  const e = directionAt(half, 200, 150)!;
  d.forEach((v, i) => expect(v).toBeCloseTo(e[i]!, 9));
});

test("a bent canvas shows a direction at one pixel, at every size", () => {
  const flat = canvasFor(
    [-20, 0, 20].map((y) => camera(y)),
    { projection: "cylindrical", most: 1e9 },
  );
  const columns = 8;
  const rows = 5;
  const x: number[] = [];
  const y: number[] = [];
  for (let j = 0; j <= rows; j++)
    for (let i = 0; i <= columns; i++) {
      x.push(i / columns + 0.02 * Math.sin((Math.PI * i) / columns) * (j / rows));
      y.push(j / rows + 0.03 * Math.sin((Math.PI * j) / rows) * Math.cos(i));
    }
  const bent = {
    ...flat,
    width: Math.round(flat.width * 0.97),
    height: Math.round(flat.height * 1.04),
    bend: { mesh: { columns, rows, x, y }, width: flat.width, height: flat.height },
  };
  const half = shrunk(bent, 2);
  for (const [u, v] of [
    [0.1, 0.2],
    [0.5, 0.5],
    [0.83, 0.9],
  ] as const) {
    const px = u * bent.width;
    const py = v * bent.height;
    const d = directionAt(bent, px, py)!;
    const back = pixelOf(bent, d)!;
    const small = directionAt(half, u * half.width, v * half.height)!;
    expect(back[0]).toBeCloseTo(px, 1);
    expect(back[1]).toBeCloseTo(py, 1);
    small.forEach((c, i) => expect(c).toBeCloseTo(d[i]!, 3));
    expect(Math.abs(pixelOf(flat, d)![0] - px)).toBeGreaterThan(1);
  }
});

test.each([0, 0.4, 1, 1.5])(
  "a Panini picture drawn from %s radii leads there and back, keeps vertical lines vertical, and lines through the middle straight",
  (distance) => {
    for (const lon of [-1.1, -0.4, 0.2, 0.9])
      for (const lat of [-0.6, 0, 0.5]) {
        const d = [Math.sin(lon) * Math.cos(lat), Math.sin(lat), Math.cos(lon) * Math.cos(lat)];
        const [u, v] = toPlane("panini", d, distance)!;
        fromPlane("panini", u, v, distance)!.forEach((k, i) => expect(k).toBeCloseTo(d[i]!, 6));
        expect(toPlane("panini", [Math.sin(lon), 0, Math.cos(lon)], distance)![0]).toBeCloseTo(
          u,
          6,
        );
        // what lies on a line to the vanishing point ahead: X : Y stays
        expect(v / u).toBeCloseTo(d[1]! / d[0]!, 6);
      }
    expect(toPlane("panini", [0.6, 0.2, 1], 0)).toEqual(toPlane("rectilinear", [0.6, 0.2, 1]));
  },
);

test("a canvas reaches as far to each side as it is asked to, and says how far it does", () => {
  const row = [-40, 0, 40].map((y) => camera(y));
  for (const projection of PROJECTIONS) {
    const extent = [50, 30, 20, 10] as const;
    const c = canvasFor(row, { projection, extent, most: 1e9 });
    extentOf(c).forEach((v, k) => expect(v).toBeCloseTo(extent[k]!, 0));
    expect(c.closed).toBe(false);
  }
  const all = Array.from({ length: 10 }, (_, i) => camera(i * 36));
  const round = canvasFor(all, {
    projection: "equirectangular",
    extent: [180, 180, 30, 20],
    most: 1e9,
  });
  const part = canvasFor(all, {
    projection: "equirectangular",
    extent: [90, 180, 30, 20],
    most: 1e9,
  });
  expect([round.closed, part.closed]).toEqual([true, false]);
  expect(part.width / round.width).toBeCloseTo(0.75, 2);
  // what no plane can show ends where it is still worth its pixels
  expect(
    canvasFor(row, { projection: "rectilinear", extent: [170, 170, 80, 80], most: 1e9 }).width,
  ).toBeLessThanOrEqual(5000);
  // a coarse look at what is covered says about the same
  const [fine, coarse] = [1, 4].map((step) =>
    canvasFor(row, { projection: "cylindrical", most: 1e9, step }),
  );
  expect(Math.abs(coarse!.width / fine!.width - 1)).toBeLessThan(0.06);
});

import { simulateAlong } from "../../../simulate/along";
import { placeSweep } from "../../../simulate/scorePanorama";
import { simulatedRoom } from "../../../simulate/room";
import type { SweepFrame } from "../../../simulate/sweep";
import { seen, shownBy, type Camera } from "../camera";
import { type Vector } from "../../math/vector";
import { canvasFor, coverageOf, likelyProjection } from "../canvas/projection";

/**
 * How far each placed pair of frames is from meeting, RMS px, and how far the plane is from its
 * shape, in shares of its width, once placed over the true one.
 */
function score(
  frames: readonly SweepFrame[],
  cameras: readonly (Camera | undefined)[],
): { meets: number; shape: number } {
  const points: { truth: [number, number]; found: [number, number] }[] = [];
  let sum = 0;
  let n = 0;
  frames.forEach((f, a) => {
    const own = cameras[a];
    if (!own) return;
    for (let y = 20; y < f.height; y += 60)
      for (let x = 20; x < f.width; x += 60) {
        const t = shownBy(f.camera, x, y);
        const d = shownBy(own, x, y);
        points.push({ truth: [t[0] / t[2], t[1] / t[2]], found: [d[0] / d[2], d[1] / d[2]] });
        frames.forEach((g, b) => {
          const other = cameras[b];
          const truth = seen(g.camera, t);
          const found = other && seen(other, d);
          if (
            b === a ||
            !truth ||
            !found ||
            truth[0] < 0 ||
            truth[1] < 0 ||
            truth[0] > g.width ||
            truth[1] > g.height
          )
            return;
          sum += (truth[0] - found[0]) ** 2 + (truth[1] - found[1]) ** 2;
          n++;
        });
      }
  });
  // the similarity between the two planes: as complex numbers, found = s * truth + o
  const m = points.length;
  const mean = (k: "truth" | "found", i: 0 | 1): number =>
    points.reduce((s, p) => s + p[k][i], 0) / m;
  const [tx, ty, fx, fy] = [mean("truth", 0), mean("truth", 1), mean("found", 0), mean("found", 1)];
  let re = 0;
  let im = 0;
  let size = 0;
  for (const { truth, found } of points) {
    const [a, b, c, d] = [truth[0] - tx, truth[1] - ty, found[0] - fx, found[1] - fy];
    re += a * c + b * d;
    im += a * d - b * c;
    size += a * a + b * b;
  }
  re /= size;
  im /= size;
  const width =
    (Math.max(...points.map((p) => p.truth[0])) - Math.min(...points.map((p) => p.truth[0]))) *
    Math.hypot(re, im);
  const off = points.reduce((s, { truth, found }) => {
    const [a, b] = [truth[0] - tx, truth[1] - ty];
    return s + (found[0] - fx - (re * a - im * b)) ** 2 + (found[1] - fy - (im * a + re * b)) ** 2;
  }, 0);
  return { meets: Math.sqrt(sum / n), shape: Math.sqrt(off / m) / width };
}

const wall = simulatedRoom(3200, 1600, 14);
const ROW: Vector[] = [-1, -0.55, -0.1, 0.35, 0.8].map((x, i) => [
  x,
  0.03 * (i % 2),
  0.05 * Math.sin(i),
]);
const GRID: Vector[] = [-0.3, 0.25].flatMap((y, j) =>
  [-0.6, -0.1, 0.4].map((x, i): Vector => [x + 0.05 * j, y, 0.06 * Math.cos(3 * i + j)]),
);

test.each([
  ["a row of five, leaning up to 1 degree", ROW, 1, [0, 0, 0], 500, 3],
  ["two rows of three, leaning up to 5 degrees, distorted", GRID, 5, [-0.04, 0, 0], 500, 4],
] as const)(
  "frames taken along a wall, %s, lie on one plane",
  (what, places, lean, distortion, focalPx, seed) => {
    const frames = simulateAlong(wall, 900, {
      places,
      width: 600,
      height: 450,
      focalPx,
      distortion: [...distortion],
      lean,
      drift: 0.5,
      seed,
    });
    const g = placeSweep(frames, focalPx, true);
    const { meets, shape } = score(frames, g.cameras);
    process.stdout.write(
      `${what}: ties ${Math.max(...g.rmsPx).toFixed(2)} px, pairs meet to ${meets.toFixed(2)} px, the plane's shape to ${(100 * shape).toFixed(2)} %\n`,
    );
    expect([g.flat, g.leftOut]).toEqual([true, []]);
    expect(meets).toBeLessThan(0.6);
    expect(shape).toBeLessThan(0.01);
    // drawn on one plane, at the frames' own size
    const cameras = g.cameras.filter((c): c is Camera => c !== undefined);
    const canvas = canvasFor(cameras, { projection: "rectilinear", most: 1e9 });
    expect(likelyProjection(coverageOf(cameras))).toBe("rectilinear");
    expect(canvas.width).toBeGreaterThan(1.5 * 600);
    expect(canvas.width).toBeLessThan(4 * 600);
  },
);

test("a frame of another wall is left out", () => {
  const own = simulateAlong(wall, 900, {
    places: ROW.slice(0, 3),
    width: 600,
    height: 450,
    focalPx: 500,
    lean: 1,
    seed: 6,
  });
  const other = simulateAlong(simulatedRoom(1600, 900, 91), 700, {
    places: [[0, 0, 0]],
    width: 600,
    height: 450,
    focalPx: 500,
    seed: 7,
  });
  expect(placeSweep([...own, ...other], 500, true).leftOut).toEqual([3]);
});

import { normal, random } from "../../math/random";
import { lookingAt } from "../../../simulate/sweep";
import { bundle } from "../layout/bundle";
import { between, inFrame, seen, worldRay, type Camera } from "../camera";
import { dot, unit, type Vector } from "../../math/vector";
import type { SmallFrame } from "../seams/smallFrame";
import { edgeAlong, offStraight, type StraightLine } from "./straightLines";

const camera = (yaw: number, k1: number, lens?: Camera["lens"]): Camera => ({
  rotation: lookingAt(yaw, 2, 1),
  focalPx: 2400,
  distortion: [k1, 0, 0],
  width: 3840,
  height: 2560,
  ...(lens ? { lens } : {}),
});
const SCALE = 8;
const W = 480;
const H = 320;
/**
 * A roof line: lighter on one side of a plane through the camera, with a second, fainter edge well
 * beside it.
 */
const normalOf = unit([0.12, 1, -0.34]);
const small = (c: Camera, noise = 0, seed = 1): SmallFrame => {
  const gauss = normal(random(seed));
  const rgb = new Float32Array(W * H * 3);
  for (let y = 0; y < H; y++)
    for (let x = 0; x < W; x++) {
      let s = 0;
      for (const [u, v] of [
        [0.25, 0.25],
        [0.75, 0.25],
        [0.25, 0.75],
        [0.75, 0.75],
      ] as const) {
        const d = unit(worldRay(c, (x + u) * SCALE, (y + v) * SCALE));
        const side = dot(d, normalOf);
        s += (side > 0 ? 0.5 : 0.12) + (side > 0.09 ? 0.05 : 0);
      }
      rgb.fill(Math.max(0, s / 4 + noise * gauss()), (y * W + x) * 3, (y * W + x) * 3 + 3);
    }
  return { width: W, height: H, rgb, scale: SCALE };
};
/** Directions of the ends of a line that a hand drew so many px beside the roof's edge. */
const drawn = (c: Camera, off: number): [Vector, Vector] =>
  [600, 3200].map((x) => {
    let y = 0;
    for (let step = 1280; step > 0.01; step /= 2)
      if (dot(unit(worldRay(c, x, y + step)), normalOf) < 0) y += step;
    return unit(worldRay(c, x, y + off));
  }) as [Vector, Vector];

test.each([
  [0, undefined],
  [-0.06, undefined],
  [0.08, undefined],
  [-0.03, "equisolid"],
] as const)(
  "the edge beside a drawn line is found to a part of a px of its small frame, lens bent by %s %s",
  (k1, lens) => {
    const c = camera(0, k1, lens);
    const ends = drawn(c, 20);
    const points = edgeAlong(c, small(c, 0.004), ...ends)!;
    expect(points.length).toBeGreaterThan(100);
    const rms = Math.sqrt(
      points.reduce(
        (s, [x, y]) => s + (dot(unit(worldRay(c, x, y)), normalOf) * c.focalPx) ** 2,
        0,
      ) / points.length,
    );
    expect(rms).toBeLessThan(0.2 * SCALE);
    expect(Math.max(...offStraight(c, points).map(Math.abs))).toBeLessThan(0.7 * SCALE);
  },
);

test("where nothing is, or the line leaves the frame, there is no edge", () => {
  const c = camera(0, 0);
  const plain: SmallFrame = { ...small(c), rgb: new Float32Array(W * H * 3).fill(0.3) };
  expect(edgeAlong(c, plain, ...drawn(c, 0))).toBeUndefined();
  expect(edgeAlong(c, small(c), unit([0, 0, -1]), unit([0.3, 0, -1]))).toBeUndefined();
});

test("points of what is straight lie on a plane under their own lens, and under no other", () => {
  const c = camera(0, -0.05);
  const [from, to] = drawn(c, 0);
  const points = between(from, to, 60).flatMap((d) => {
    const p = seen(c, d);
    return p && inFrame(c, p) ? [p] : [];
  });
  expect(Math.max(...offStraight(c, points).map(Math.abs))).toBeLessThan(1e-6);
  expect(
    Math.max(...offStraight({ ...c, distortion: [0, 0, 0] }, points).map(Math.abs)),
  ).toBeGreaterThan(5);
});

test("few and rough ties leave the lens open; edges that are straight say how it bends", () => {
  const truth = [camera(0, -0.05), camera(24, -0.05)];
  const gauss = normal(random(3));
  const rnd = random(5);
  const points: [number, number, number, number][] = [];
  while (points.length < 10) {
    const x = 2300 + 1300 * rnd();
    const y = 2560 * rnd();
    const p = seen(truth[1]!, worldRay(truth[0]!, x, y));
    if (p && inFrame(truth[1]!, p))
      points.push([x + 3 * gauss(), y + 3 * gauss(), p[0] + 3 * gauss(), p[1] + 3 * gauss()]);
  }
  const start = truth.map((c): Camera => ({ ...c, distortion: [0, 0, 0] }));
  const pairs = [{ a: 0, b: 1, points, leads: [1, 0, 0, 0, 1, 0, 0, 0, 1], rmsPx: 0 }];
  const of = { of: [0, 0], focalKnown: true };
  const lines = truth.flatMap((c, frame): StraightLine[] => {
    const found = edgeAlong(start[frame]!, small(c, 0.004, frame + 2), ...drawn(c, 0));
    return found ? [{ frame, points: found }] : [];
  });
  expect(lines.length).toBe(2);
  const without = bundle(start, pairs, of).cameras[0]!.distortion[0];
  const withLines = bundle(start, pairs, of, 30, lines).cameras[0]!;
  const bent = (c: Pick<Camera, "distortion">): number => {
    const [k1, k2] = c.distortion;
    const q = 0.35;
    return q * (k1 + q * k2);
  };
  process.stdout.write(
    `bending by ten rough ties ${without.toFixed(3)}, with two edges ${withLines.distortion[0].toFixed(3)} (true -0.05)\n`,
  );
  expect(Math.abs(bent(withLines) - bent(truth[0]!))).toBeLessThan(
    0.25 * Math.abs(bent(truth[0]!)),
  );
});

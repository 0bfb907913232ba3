import { seen, type Camera } from "../camera";
import { degreesBetween } from "../../math/rotation";
import { transpose, multiply, apply } from "../../math/matrix3";
import { type Vector } from "../../math/vector";
import { level } from "./level";
import type { Segment } from "../../features/lineSegments";
import { findLevel, straightEdges } from "./findLevel";
import { lookingAt } from "../../../simulate/sweep";
import { random } from "../../math/random";

const W = 1200;
const H = 900;
const yaws = [-40, 0, 40];
const tilt = lookingAt(0, 1.4, -2.1);
/** Cameras that stand upright, and the same with the whole world tilted. */
const upright = yaws.map((yaw): Camera => ({
  rotation: lookingAt(yaw, 4, 0.6),
  focalPx: 1000,
  distortion: [-0.02, 0, 0],
  width: W,
  height: H,
}));
const tilted = upright.map((c) => ({ ...c, rotation: multiply(tilt, c.rotation) }));

/** What a camera sees of lines in the world, each from one direction to another. */
const edgesOf = (c: Camera, lines: readonly (readonly [Vector, Vector])[]): Segment[] =>
  lines.flatMap(([from, to]) => {
    const a = seen(c, from);
    const b = seen(c, to);
    return a && b && [a, b].every(([x, y]) => x > 0 && y > 0 && x < W && y < H)
      ? [{ x0: a[0], y0: a[1], x1: b[0], y1: b[1] }]
      : [];
  });
const at = (lon: number, lat: number): Vector => {
  const [l, b] = [lon, lat].map((v) => (v * Math.PI) / 180) as [number, number];
  return [Math.sin(l) * Math.cos(b), Math.sin(b), Math.cos(l) * Math.cos(b)];
};
const rnd = random(8);
const walls = Array.from({ length: 60 }, (): [Vector, Vector] => {
  const lon = -60 + 120 * rnd();
  const lat = -14 + 12 * rnd();
  return [at(lon, lat), at(lon + 0.05 * (rnd() - 0.5), lat + 4 + 6 * rnd())];
});
const anyhow = Array.from({ length: 150 }, (): [Vector, Vector] => {
  const lon = -60 + 120 * rnd();
  const lat = -14 + 28 * rnd();
  return [at(lon, lat), at(lon + 10 * (rnd() - 0.5), lat + 10 * (rnd() - 0.5))];
});
const horizonOf = (cameras: readonly (Camera | undefined)[]): number =>
  Math.max(
    ...cameras.map(
      (c, i) =>
        (Math.acos(
          Math.min(
            1,
            apply(
              multiply(
                c!.rotation,
                [0, 3, 6, 1, 4, 7, 2, 5, 8].map((k) => upright[i]!.rotation[k]!),
              ),
              [0, 1, 0],
            )[1]!,
          ),
        ) *
          180) /
        Math.PI,
    ),
  );

test("walls set a tilted world upright, among edges that lie anyhow", () => {
  expect(horizonOf(tilted)).toBeGreaterThan(2);
  expect(
    horizonOf(
      findLevel(
        tilted,
        upright.map((c) => edgesOf(c, walls)),
      ).cameras,
    ),
  ).toBeLessThan(0.06);
  expect(
    horizonOf(
      findLevel(
        tilted,
        upright.map((c) => edgesOf(c, [...walls, ...anyhow])),
      ).cameras,
    ),
  ).toBeLessThan(0.15);
});

test("frames keep how they lie to each other, and where the middle looks is not turned aside", () => {
  const set = findLevel(
    tilted,
    upright.map((c) => edgesOf(c, walls)),
  ).cameras;
  const between = (a: Camera, b: Camera): number[] =>
    multiply(
      [0, 3, 6, 1, 4, 7, 2, 5, 8].map((k) => a.rotation[k]!),
      b.rotation,
    );
  expect(degreesBetween(between(set[0]!, set[2]!), between(tilted[0]!, tilted[2]!))).toBeLessThan(
    1e-4,
  );
  expect(
    Math.abs((Math.atan2(set[1]!.rotation[2]!, set[1]!.rotation[8]!) * 180) / Math.PI),
  ).toBeLessThan(0.5);
});

test("edges that agree on nothing, or are few, or all of one frame, do not outweigh how the cameras were held", () => {
  const moved = (lines: readonly (readonly [Vector, Vector])[], which = upright): number =>
    degreesBetween(
      findLevel(
        tilted,
        which.map((c) => edgesOf(c, lines)),
      ).cameras[1]!.rotation,
      findLevel(tilted, [[], [], []]).cameras[1]!.rotation,
    );
  for (const lines of [anyhow, walls.slice(0, 2)]) expect(moved(lines)).toBeLessThan(0.5);
  expect(findLevel([undefined, ...tilted.slice(1)], [[], [], []]).cameras[0]).toBeUndefined();
  expect(findLevel([undefined], [[]])).toEqual({ cameras: [undefined] });
});

/** A hand-held row: each frame rolled by chance, the whole found as its cameras have it. */
const row = (
  seed: number,
  yawsOf: readonly number[],
  roll: number,
): { true: Camera[]; found: Camera[] } => {
  const random1 = random(seed);
  const trueOnes = yawsOf.map((yaw): Camera => ({
    rotation: lookingAt(yaw, 2 * (random1() - 0.5), 2 * roll * (random1() - 0.5)),
    focalPx: 1000,
    distortion: [0, 0, 0],
    width: W,
    height: H,
  }));
  return { true: trueOnes, found: level(trueOnes).map((c) => c!) };
};
const off = (set: ReturnType<typeof row>, cameras: readonly (Camera | undefined)[]): number =>
  Math.max(
    ...cameras.map(
      (c, i) =>
        (Math.acos(
          Math.min(
            1,
            apply(multiply(c!.rotation, transpose(set.true[i]!.rotation)), [0, 1, 0])[1]!,
          ),
        ) *
          180) /
        Math.PI,
    ),
  );

test("over water, oblique edges in any number leave the row as its cameras have it; the horizon levels it further and is reported", () => {
  const errors: { boats: number; sea: number; camera: number }[] = [];
  for (let seed = 1; seed <= 30; seed++) {
    const set = row(seed, [-60, -40, -20, 0, 20, 40, 60], 1.2);
    const own = random(100 + seed);
    // hulls and ropes: edges at any angle, many of them, leaning one way more than the other
    const boats = Array.from({ length: 220 }, (): [Vector, Vector] => {
      const lon = -80 + 160 * own();
      const lat = -2 + 14 * own();
      const angle = 1.57 + (own() - 0.35) * 2.4;
      const far = 2 + 4 * own();
      return [at(lon, lat), at(lon + far * Math.cos(angle), lat + far * Math.sin(angle))];
    });
    const sea = Array.from({ length: 16 }, (_, k): [Vector, Vector] => [
      at(-80 + 10 * k, 0.3),
      at(-80 + 10 * k + 22, 0.3),
    ]);
    const edges = (lines: readonly (readonly [Vector, Vector])[]) =>
      set.true.map((c) => edgesOf(c, lines));
    const withBoats = findLevel(set.found, edges(boats));
    const withSea = findLevel(set.found, edges([...boats, ...sea]));
    errors.push({
      boats: off(set, withBoats.cameras),
      sea: off(set, withSea.cameras),
      camera: off(set, set.found),
    });
    expect(withSea.levelled!.by).toBe("horizon");
    expect(withSea.levelled!.degrees).toBeLessThan(withBoats.levelled!.degrees);
  }
  // oblique edges take no more than a little of what the cameras know
  for (const e of errors) expect(e.boats).toBeLessThan(e.camera + 0.3);
  expect(errors.filter((e) => e.sea < 0.3).length).toBeGreaterThanOrEqual(29);
});

test("the edges of a frame are reported in px of full size", () => {
  const w = 80;
  const h = 60;
  const rgb = Float32Array.from({ length: w * h * 3 }, (_, i) =>
    Math.floor(i / 3) % w < 40 ? 0.1 : 0.6,
  );
  const [edge, ...others] = straightEdges({ width: w, height: h, rgb, scale: 5 });
  expect(others).toEqual([]);
  for (const x of [edge!.x0, edge!.x1]) expect(x).toBeCloseTo(200, -1);
  expect(Math.abs(edge!.y1 - edge!.y0)).toBeGreaterThan(250);
});

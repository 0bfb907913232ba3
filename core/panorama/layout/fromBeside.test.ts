import { placeSweep, scorePanorama } from "../../../simulate/scorePanorama";
import { simulatedRoom } from "../../../simulate/room";
import { simulateSweep } from "../../../simulate/sweep";
import { seen, rotated, worldRay, type Camera } from "../camera";
import { degreesBetween } from "../../math/rotation";
import { transpose, multiply } from "../../math/matrix3";

const camera = (offset?: Camera["offset"]): Camera => ({
  rotation: [1, 0, 0, 0, 0, 1, 0, -1, 0],
  focalPx: 500,
  distortion: [-0.02, 0, 0],
  width: 600,
  height: 800,
  ...(offset ? { offset } : {}),
});

test("a camera beside the others sees the floor where a line from there meets it", () => {
  const by: [number, number, number] = [0.4, -0.1, 0.3];
  const c = camera({ by, normal: [0, 1, 0], reach: 0.2 });
  for (const [X, Z] of [
    [0, 0],
    [0.5, 0.2],
    [-0.3, 0.4],
  ] as const) {
    // the same from where it stands, manual
    const expected = seen(camera(), [X - by[0], 1 - by[1], Z - by[2]])!;
    const got = seen(c, [X, 1, Z])!;
    const back = worldRay(c, ...got);
    expect(Math.hypot(got[0] - expected[0], got[1] - expected[1])).toBeLessThan(1e-6);
    expect(Math.hypot(back[0] / back[1] - X, back[2] / back[1] - Z)).toBeLessThan(1e-6);
  }
  expect(seen(c, [0, -1, 0.2])).toBeUndefined();
  // and as well in a world that was turned
  const roll = [0.8, -0.6, 0, 0.6, 0.8, 0, 0, 0, 1];
  const there = rotated(c, roll);
  const at = seen(there, [0.8 * 0.2 - 0.6, 0.6 * 0.2 + 0.8, 0.3])!;
  const was = seen(c, [0.2, 1, 0.3])!;
  expect(Math.hypot(at[0] - was[0], at[1] - was[1])).toBeLessThan(1e-6);
});

const RING: [number, number][] = Array.from({ length: 8 }, (_, k) => [k * 45, -40]);
// the last stands so far off that the floor is foreshortened quite otherwise, and no corner of the
// frames themselves matches
test.each([
  [[0.45, 0.05, 0.3], [30, -78], 21],
  [[-0.2, -0.15, 0.7], [30, -78], 22],
  [[1.2, 0, 1], [230, -36], 23],
] as const)(
  "the floor under the tripod, taken from %p beside it, finds its place",
  (place, direction, seed) => {
    const frames = simulateSweep(simulatedRoom(4000, 2000, seed), {
      directions: [...RING, direction],
      width: 480,
      height: 640,
      focalPx: 400,
      roll: 0.8,
      drift: 0.4,
      vignetting: 0.2,
      seed,
      standing: [...RING.map(() => undefined), place],
    });
    const g = placeSweep(frames, 400);
    const floor = g.cameras[8];
    expect(g.leftOut).toEqual([]);
    expect(
      scorePanorama(
        frames,
        g,
        RING.map((_, i) => i),
      ).placed,
    ).toBe(8);
    const by = floor?.offset?.by ?? [0, 0, 0];
    // the world found may be turned round its axis: lengths and heights do not change, nor the turn
    // to the others
    process.stdout.write(
      `floor from ${place.join(", ")}: ${by.map((v) => v.toFixed(3)).join(", ")}, ${g.rmsPx[8]!.toFixed(2)} px\n`,
    );
    expect(Math.abs(Math.hypot(by[0], by[2]) - Math.hypot(place[0], place[2]))).toBeLessThan(0.02);
    expect(Math.abs(by[1] - place[1])).toBeLessThan(0.02);
    const between = (a: readonly number[], b: readonly number[]): number[] =>
      multiply(transpose(a), b);
    expect(
      degreesBetween(
        between(frames[0]!.camera.rotation, frames[8]!.camera.rotation),
        between(g.cameras[0]!.rotation, floor!.rotation),
      ),
    ).toBeLessThan(0.4);
    expect(g.rmsPx[8]!).toBeLessThan(1.2);
  },
);

test("a frame of another floor is not warped anywhere", () => {
  const frames = [
    ...simulateSweep(simulatedRoom(4000, 2000, 31), {
      directions: RING,
      width: 480,
      height: 640,
      focalPx: 400,
      seed: 4,
    }),
    ...simulateSweep(simulatedRoom(4000, 2000, 77), {
      directions: [[30, -78]],
      width: 480,
      height: 640,
      focalPx: 400,
      seed: 5,
      standing: [[0.4, 0, 0.3]],
    }),
  ];
  expect(placeSweep(frames, 400).leftOut).toEqual([8]);
});

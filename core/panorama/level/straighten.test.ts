import { apply, multiply } from "../../math/matrix3";
import { rotationFromVector } from "../../math/rotation";
import { cross, unit, type Vector } from "../../math/vector";
import { draggedTo, rolledTo, straightened, worldTurn, type Guide } from "./straighten";

const at = (lon: number, lat: number): Vector => [
  Math.sin(lon) * Math.cos(lat),
  Math.sin(lat),
  Math.cos(lon) * Math.cos(lat),
];
const degrees = (m: readonly number[]): number =>
  (Math.acos(Math.min(1, apply(m, [0, 1, 0])[1])) * 180) / Math.PI;
/** A guide as it is drawn in a world that leans. */
const drawn = (lean: readonly number[], kind: Guide["kind"], a: Vector, b: Vector): Guide => ({
  kind,
  from: apply(lean, a) as Vector,
  to: apply(lean, b) as Vector,
});

test("a horizon and a wall's edge set a leaning world upright", () => {
  const lean = rotationFromVector([0.04, 0.3, -0.06]);
  const R = straightened([
    drawn(lean, "level", at(-0.6, 0), at(0.7, 0)),
    drawn(lean, "vertical", at(0.5, -0.4), at(0.5, 0.3)),
    drawn(lean, "vertical", at(-0.4, -0.4), at(-0.4, 0.2)),
  ]);
  expect(degrees(multiply(R, lean))).toBeLessThan(0.01);
});

test("one level line takes away roll and leaves the rest", () => {
  const R = straightened([
    drawn(rotationFromVector([0, 0, 0.05]), "level", at(-0.5, 0), at(0.5, 0)),
  ]);
  const [a, b] = [at(-0.5, 0), at(0.5, 0)].map((d) =>
    apply(R, apply(rotationFromVector([0, 0, 0.05]), d)),
  );
  expect(Math.abs(a![1] - b![1])).toBeLessThan(1e-3);
  expect(degrees(R)).toBeCloseTo((0.05 * 180) / Math.PI, 1);
  expect(straightened([])).toEqual([1, 0, 0, 0, 1, 0, 0, 0, 1]);
});

test("a manual turn comes after the guides: yaw carries what is ahead to the right", () => {
  const ahead = apply(worldTurn({ guides: [], yaw: 10, pitch: 0, roll: 0 }), [0, 0, 1]);
  const up = apply(worldTurn({ guides: [], yaw: 0, pitch: 10, roll: 0 }), [0, 0, 1]);
  const right = apply(worldTurn({ guides: [], yaw: 0, pitch: 0, roll: 10 }), [1, 0, 0]);
  expect(Math.atan2(ahead[0], ahead[2])).toBeCloseTo(Math.PI / 18, 9);
  expect(up[1]).toBeCloseTo(-Math.sin(Math.PI / 18), 9);
  expect(right[1]).toBeGreaterThan(0);
  expect(unit(cross([0, 0, 1], [1, 0, 0]))).toEqual([0, 1, 0]);
});

test.each([
  [{ yaw: 0, pitch: 0, roll: 0 }],
  [{ yaw: 30, pitch: -12, roll: 7 }],
  [{ yaw: -170, pitch: 20, roll: -15 }],
])("what is dragged comes to lie where it is let go, turned %j", (was) => {
  const guides: Guide[] = [{ kind: "level", from: at(-0.4, 0.02), to: at(0.5, -0.01) }];
  const world = at(0.3, 0.2);
  const seen = apply(worldTurn({ ...was, guides }), world);
  const to = unit([seen[0] + 0.2, seen[1] - 0.1, seen[2]]);
  const now = draggedTo(was, seen, to);
  const lies = apply(worldTurn({ ...now, guides }), world);
  expect(now.roll).toBe(was.roll);
  expect(Math.hypot(lies[0] - to[0], lies[1] - to[1], lies[2] - to[2])).toBeLessThan(3e-4);
});

test("what cannot be brought there comes as near as a view goes, and is not turned over", () => {
  const now = draggedTo({ yaw: 0, pitch: 0, roll: 0 }, at(0, 0.2), at(0, -1.5));
  expect(Math.abs(now.yaw)).toBeLessThan(0.1);
  expect(Math.abs(now.pitch)).toBeLessThanOrEqual(90);
});

test("a drag round the middle rolls clockwise as it goes", () => {
  expect(rolledTo({ yaw: 5, pitch: 1, roll: 175 }, [100, 0], [0, 100])).toEqual({
    yaw: 5,
    pitch: 1,
    roll: -95,
  });
});

import { IDENTITY, invert, project } from "../../core/math/matrix3";
import { turnByHand } from "../../core/math/viewTurn";
import { pictureMapping } from "../../core/straighten/pictureMapping";
import { defaultRecipe, parseRecipe, type RecipeOf } from "../recipe/recipe";
import { carryShapes, hasShapes } from "./carryShapes";

const size = { width: 3000, height: 2000 };
const place = pictureMapping(turnByHand({ yaw: 0, pitch: 8, roll: 3 }), 2200, size, "filled");
const mapping = invert(place);
const plain = defaultRecipe("bracket");
const area = {
  shape: "brush" as const,
  points: [[0.3, 0.4]] as [number, number][],
  radius: 0.05,
  soft: 0,
};
const drawn: RecipeOf<"bracket"> = {
  ...plain,
  ghosts: { patches: [{ id: "a", frame: "f.jpg", on: true, ...area }] },
  prepare: {
    ...plain.prepare,
    local: [{ id: "b", on: true, temperature: 4000, tint: 0, ...area }],
  },
  retouch: {
    ...plain.retouch,
    repairs: [
      {
        kind: "heal",
        shape: { type: "spot", x: 0.3, y: 0.4, radius: 0.01 },
        source: { dx: 0.1, dy: -0.05 },
        softness: 0.3,
        on: true,
      },
      {
        kind: "fill",
        shape: {
          type: "outline",
          points: [
            [0.3, 0.4],
            [0.5, 0.4],
            [0.4, 0.6],
          ],
        },
        softness: 0.3,
        on: true,
      },
    ],
  },
};
const where = ([x, y]: readonly [number, number]): [number, number] => {
  const [u, v] = project(mapping, x * size.width, y * size.height);
  return [u / size.width, v / size.height];
};

test("what was drawn lies on the same things of the straightened picture", () => {
  const carried = carryShapes(drawn, mapping, size);
  const [x, y] = where([0.3, 0.4]);
  expect(carried.ghosts.patches[0]!.points[0]).toEqual([x, y]);
  expect(carried.prepare.local[0]!.points[0]).toEqual([x, y]);
  const [spot, fill] = carried.retouch.repairs;
  expect(spot!.shape).toMatchObject({ x, y });
  const source = where([0.4, 0.35]);
  expect(x + spot!.source!.dx).toBeCloseTo(source[0], 9);
  expect(y + spot!.source!.dy).toBeCloseTo(source[1], 9);
  expect(fill!.shape).toMatchObject({
    points: [
      [0.3, 0.4],
      [0.5, 0.4],
      [0.4, 0.6],
    ].map((p) => where(p as [number, number])),
  });
  // and it is a recipe as before
  expect(() => parseRecipe(JSON.parse(JSON.stringify(carried)))).not.toThrow();
});

test("there and back it is what it was, and nothing is moved by nothing", () => {
  const back = carryShapes(carryShapes(drawn, mapping, size), place, size);
  const spot = back.retouch.repairs[0]!.shape;
  expect(spot).toMatchObject({ x: expect.closeTo(0.3, 9), y: expect.closeTo(0.4, 9) });
  expect(carryShapes(drawn, IDENTITY, size).ghosts.patches[0]!.points).toEqual([[0.3, 0.4]]);
  expect(hasShapes(drawn)).toBe(true);
  expect(hasShapes(plain)).toBe(false);
});

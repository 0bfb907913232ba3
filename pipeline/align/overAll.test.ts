import { IDENTITY } from "../../core/math/matrix3";
import { overAll, placesInStack, type Aligned } from "./step";

const stack = ["a", "b", "c", "d", "e"].map((id) => ({ id }));
/** Those that take part, as other objects: settings made copies of them. */
const used = ["b", "c", "e"].map((id) => ({ id }));

const aligned: Aligned = {
  frames: used.map((_frame, ev) => ({
    fromReference: [...IDENTITY],
    ev,
    residualPx: 0.1,
    movedPx: 1,
    used: true,
  })),
  reference: 1,
  order: [2, 0, 1],
  twice: [[0, 2]],
};

test("frames that take part are found in their stack, though they were copied", () => {
  expect(placesInStack(stack, used)).toEqual([1, 2, 4]);
});

test("an alignment of some frames speaks of places in the whole stack", () => {
  const whole = overAll(stack, used, aligned);
  expect(whole.reference).toBe(2);
  expect(whole.order).toEqual([4, 1, 2]);
  expect(whole.twice).toEqual([[1, 4]]);
  expect(whole.frames.map((frame) => (frame.used ? frame.ev : undefined))).toEqual([
    undefined,
    0,
    1,
    undefined,
    2,
  ]);
});

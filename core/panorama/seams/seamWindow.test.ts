import { Heap } from "../../../kernels/heap";
import { random } from "../../math/random";
import type { Canvas } from "../canvas/projection";
import { seamWindow } from "./seamWindow";
import { clamp } from "../../math/clamp";

const heap = Heap.local(1 << 20);
const width = 40;
const height = 20;
const rnd = random(3);
const of = Uint8Array.from({ length: width * height }, () => Math.floor(rnd() * 3));
const labels = { ptr: heap.putBytes(of), width, height };
const canvas = (closed: boolean): Canvas => ({
  projection: "cylindrical",
  pxPerRadian: 100,
  centreX: 200,
  centreY: 100,
  width: 400,
  height: 200,
  closed,
});

test.each([
  [{ x: 60, y: 40, width: 100, height: 70 }, false],
  [{ x: -35, y: -20, width: 90, height: 60 }, false],
  [{ x: 350, y: 150, width: 120, height: 90 }, true],
])(
  "the cells over a part of the canvas are a frame's or not, and go on beyond the map as the canvas does",
  (part, closed) => {
    const { cells, across, at } = seamWindow(heap, labels, canvas(closed), 2, part);
    const own = heap.u8(cells, across * 4);
    for (let r = 0; r < 4; r++)
      for (let c = 0; c < across - 1; c++) {
        // the middle of the cell, a px of the canvas
        const first = at(part.x, part.y);
        const x = part.x + (c - first[0]) * 10;
        const y = part.y + (r - first[1]) * 10;
        const column = Math.floor((x + 0.5) / 10);
        const row = clamp(Math.floor((y + 0.5) / 10), 0, height - 1);
        const col = closed
          ? ((column % width) + width) % width
          : Math.max(0, Math.min(width - 1, column));
        expect(own[r * across + c]).toBe(of[row * width + col] === 2 ? 1 : 0);
      }
  },
);

test("whether a frame has any of a part is known at once", () => {
  const empty = of.map(() => 1);
  const ptr = heap.putBytes(empty);
  heap.u8(ptr, empty.length)[7 * width + 12] = 2;
  const { any } = seamWindow(heap, { ptr, width, height }, canvas(false), 2, {
    x: 80,
    y: 30,
    width: 100,
    height: 80,
  });
  expect(any(120, 130, 70, 80)).toBe(true);
  expect(any(90, 150, 40, 100)).toBe(true);
  expect(any(140, 170, 70, 80)).toBe(false);
  expect(any(120, 130, 90, 105)).toBe(false);
});

import { Heap } from "../../kernels/heap";
import { random } from "../math/random";
import { cellLight } from "./cellLight";
import { movedParts } from "./movedParts";

const W = 480;
const H = 320;
const heap = Heap.local(W * H * 64);
const I = [1, 0, 0, 0, 1, 0, 0, 0, 1];
const rnd = random(5);
const grain = Float32Array.from({ length: W * H }, () => rnd());
/**
 * Bright ground with dark hairs and grain, and a dark limb at `left`, all blurred by `blur` px to
 * either side.
 */
function cells(left: number, blur: number, shift = 0) {
  const at = (x: number, y: number): number =>
    x - shift > left && x - shift < left + 44 && y > 90 && y < 250
      ? 0.02
      : (x - shift) % 23 < 2
        ? 0.05
        : 0.5 + 0.2 * grain[y * W + Math.max(0, x - shift)]!;
  const log = Float32Array.from({ length: W * H }, (_, i) => {
    let sum = 0;
    let n = 0;
    for (let u = -blur; u <= blur; u++) {
      const x = (i % W) + u;
      if (x >= 0 && x < W) {
        sum += at(x, Math.floor(i / W));
        n++;
      }
    }
    return Math.log2(sum / n);
  });
  const mark = heap.mark();
  const out = cellLight(heap, {
    levels: [
      { w: W, h: H, log: heap.put(log), confidence: heap.put(new Float32Array(W * H).fill(0.9)) },
    ],
  });
  heap.release(mark);
  return out;
}

test("a limb that moved during the run is found where it was and where it went", () => {
  const found = movedParts([cells(100, 0), cells(100, 2), cells(230, 3)], [I, I, I], [1, 1, 1], 2);
  expect(found.length).toBeGreaterThan(0);
  const x0 = Math.min(...found.map((f) => f.x));
  const x1 = Math.max(...found.map((f) => f.x + f.width));
  const y0 = Math.min(...found.map((f) => f.y));
  const y1 = Math.max(...found.map((f) => f.y + f.height));
  // full-size px, to a cell or two
  for (const [got, wanted] of [
    [x0, 200],
    [x1, 548],
    [y0, 180],
    [y1, 500],
  ] as const)
    expect(Math.abs(got - wanted)).toBeLessThanOrEqual(32);
});

test("focus that travels, a hand that shifts the frame and light that flickers are not taken for it", () => {
  expect(
    movedParts(
      [cells(100, 3), cells(100, 1), cells(100, 0), cells(100, 2)],
      [I, I, I, I],
      [1, 1, 1, 1],
      1,
    ),
  ).toEqual([]);
  expect(
    movedParts([cells(100, 0), cells(100, 1, 9)], [I, [1, 0, 9, 0, 1, 0, 0, 0, 1]], [1, 1], 1),
  ).toEqual([]);
  const dim = cells(100, 1);
  expect(
    movedParts(
      [cells(100, 0), { ...dim, light: dim.light.map((v) => v * 0.7) }],
      [I, I],
      [1, 0.7],
      1,
    ),
  ).toEqual([]);
});

import { Heap } from "../../../kernels/heap";
import { random } from "../../math/random";
import { fillRows, makePatchwork, patchworkAt, patchworkScratch } from "./fillUncovered";

const W = 260;
const H = 130;
const N = W * H;
/** Sky over striped ground, with some grain; covered but for corners and a strip at the left. */
function filled(cuts: readonly (readonly [number, number])[]): {
  before: Float32Array[];
  after: Float32Array[];
} {
  const planeBytes = Math.ceil((N * 4 + 64) / 64) * 64;
  const size = patchworkAt(0, { width: W, height: H });
  const heap = Heap.local(planeBytes * 4 + size.bytes + patchworkScratch(size) + (1 << 16));
  const rnd = random(11);
  const acc = { ptr: heap.alloc(planeBytes * 4 + 64), planeBytes, width: W, height: H };
  const planes = [0, 1, 2, 3].map((c) => heap.f32(acc.ptr + c * planeBytes, N));
  for (let y = 0, i = 0; y < H; y++)
    for (let x = 0; x < W; x++, i++) {
      const on = x >= 6 && y >= 14 * (Math.abs(x - W / 2) / (W / 2)) ** 2;
      const ground = y > 70;
      const light = ground ? ((x + y) % 16 < 8 ? 0.08 : 0.16) : 0.4 + y / 400;
      [light, light * (ground ? 0.8 : 1.1), light * (ground ? 0.3 : 1.5)].forEach((v, c) => {
        planes[c]![i] = on ? v * (1 + 0.04 * (rnd() - 0.5)) : 0;
      });
      planes[3]![i] = on ? 1 : 0;
    }
  const before = planes.map((p) => p.slice());
  const patchwork = patchworkAt(heap.alloc(size.bytes), acc);
  const mark = heap.mark();
  makePatchwork(heap, acc, patchwork);
  heap.release(mark);
  for (const [a, b] of cuts) fillRows(heap, acc, patchwork, a, b);
  return { before, after: planes.map((p) => p.slice()) };
}

test("what nobody covers gets light like its side of the horizon, and what lies well within stays to the bit", () => {
  const { before, after } = filled([[0, H]]);
  let sky = 0;
  let n = 0;
  for (let y = 0, i = 0; y < H; y++)
    for (let x = 0; x < W; x++, i++) {
      expect(after[3]![i]).toBe(before[3]![i] ? 1 : 0.5);
      if (before[3]![i] && x > 20 && y > 34)
        for (let c = 0; c < 3; c++) expect(after[c]![i]).toBe(before[c]![i]);
      if (!before[3]![i] && y < 50) {
        sky += Math.abs(after[2]![i]! / (1.5 * (0.4 + y / 400)) - 1);
        n++;
      }
      if (!before[3]![i] && y > 90) {
        expect(after[0]![i]).toBeGreaterThan(0.03);
        expect(after[0]![i]).toBeLessThan(0.25);
      }
    }
  expect(n).toBeGreaterThan(300);
  expect(sky / n).toBeLessThan(0.1);
});

test("any cut into strips, in any order, gives the same bytes", () => {
  const whole = filled([[0, H]]).after;
  for (const cuts of [
    [
      [0, 48],
      [48, 96],
      [96, H],
    ],
    [
      [96, H],
      [0, 48],
      [48, 96],
    ],
  ] as const)
    filled(cuts).after.forEach((p, c) =>
      expect(Buffer.compare(Buffer.from(p.buffer), Buffer.from(whole[c]!.buffer))).toBe(0),
    );
});

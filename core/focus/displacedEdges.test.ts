import { Heap } from "../../kernels/heap";
import { normal, random } from "../math/random";
import { displacedEdges, inReference } from "./displacedEdges";
import { clamp } from "../math/clamp";

const W = 480;
const H = 320;
const heap = Heap.local(W * H * 64);
const I = [1, 0, 0, 0, 1, 0, 0, 0, 1];
const rnd = random(9);
const grain = Float32Array.from({ length: 61 * 41 }, () => rnd());
/** Soft cloth, px of 8. */
const cloth = (x: number, y: number): number => {
  const u = clamp(x / 8, 0, 59.99);
  const v = clamp(y / 8, 0, 39.99);
  const i = Math.floor(v) * 61 + Math.floor(u);
  const a = u % 1;
  const b = v % 1;
  return (
    0.25 +
    0.4 *
      ((grain[i]! * (1 - a) + grain[i + 1]! * a) * (1 - b) +
        (grain[i + 61]! * (1 - a) + grain[i + 62]! * a) * b)
  );
};
/** Share of a pixel from `x` that lies right of an edge. */
const right = (x: number, edge: number): number => clamp(x + 1 - edge, 0, 1);

/**
 * Cloth with a dark stalk 12 px wide whose left edge lies at `left`, the whole moved by `shift`,
 * blurred to both sides and noisy.
 */
function frame(left: number, blur: number, shift: number, light: number, seed: number) {
  const gauss = normal(random(seed));
  const at = (x: number, y: number): number => {
    const s = y > 60 && y < 260 ? right(x - shift, left) - right(x - shift, left + 12) : 0;
    return light * (cloth(x - shift, y) * (1 - s) + 0.04 * s);
  };
  const log = Float32Array.from({ length: W * H }, (_, i) => {
    let sum = 0;
    for (let u = -blur; u <= blur; u++) sum += at((i % W) + u, Math.floor(i / W));
    const v = sum / (2 * blur + 1);
    return Math.log2(Math.max(1e-3, v + 0.006 * Math.sqrt(v) * gauss()));
  });
  return {
    levels: [
      { w: W, h: H, log: heap.put(log), confidence: heap.put(new Float32Array(W * H).fill(0.9)) },
    ],
  };
}
function found(
  a: Parameters<typeof frame>,
  b: Parameters<typeof frame>,
  onward = I,
  offset = 0,
  scale = 2,
) {
  const mark = heap.mark();
  const out = displacedEdges(heap, [frame(...a), frame(...b)], offset, onward, scale).map((area) =>
    inReference(area, I, [3, 4], scale),
  );
  heap.release(mark);
  return out;
}

test("a stalk that swayed is found where it stands, with how far it moved", () => {
  const [one, ...more] = found([200, 1, 0, 1, 1], [201.6, 0, 0, 1, 2]);
  expect(more).toEqual([]);
  expect(one!.frames).toEqual([3, 4]);
  expect(one!.px).toBeGreaterThan(1.6);
  expect(one!.px).toBeLessThan(4.2);
  // full-size px; a cell is 48 of them
  expect(one!.x).toBeGreaterThan(400 - 50);
  expect(one!.x + one!.width).toBeLessThan(424 + 50);
  expect(Math.abs(one!.y - 120)).toBeLessThan(50);
  expect(Math.abs(one!.y + one!.height - 520)).toBeLessThan(50);
});

test("focus that comes and goes, a frame that was shifted as was found, light that flickers and tenths of a pixel are none", () => {
  expect(found([200, 0, 0, 1, 1], [200, 2, 0, 1, 2])).toEqual([]);
  expect(found([200, 3, 0, 1, 1], [200, 1, 0, 1, 2])).toEqual([]);
  expect(found([200, 0, 0, 1, 1], [200, 1, 5, 1, 2], [1, 0, 5, 0, 1, 0, 0, 0, 1])).toEqual([]);
  expect(found([200, 1, 0, 1, 1], [200, 1, 0, 0.8, 2], I, -Math.log2(0.8))).toEqual([]);
  expect(found([200, 0, 0, 1, 1], [200.3, 0, 0, 1, 2])).toEqual([]);
});

test("plain ground and noise tell of nothing", () => {
  const mark = heap.mark();
  const noise = (seed: number) => {
    const gauss = normal(random(seed));
    return {
      levels: [
        {
          w: W,
          h: H,
          log: heap.put(Float32Array.from({ length: W * H }, () => -2 + 0.05 * gauss())),
          confidence: heap.put(new Float32Array(W * H).fill(0.9)),
        },
      ],
    };
  };
  expect(displacedEdges(heap, [noise(3), noise(4)], 0, I, 4)).toEqual([]);
  heap.release(mark);
});

import { Heap } from "../../kernels/heap";
import { addUp } from "../raster/addUp";
import { collapse } from "../raster/pyramid";
import { random } from "../math/random";
import {
  averageCoarsest,
  coarseSharpness,
  focusShape,
  halveFrame,
  holdInRange,
  keepBest,
  chooseCoarser,
  chooseFinest,
  type FocusSums,
} from "./sharpest";

const W = 160;
const H = 120;
const n = W * H;
const rnd = random(11);
/** Texture on many scales. */
const scene = (() => {
  const out = new Float32Array(n);
  for (const size of [2, 5, 12, 40]) {
    const cols = Math.ceil(W / size) + 1;
    const grid = Float32Array.from({ length: cols * (Math.ceil(H / size) + 1) }, () => rnd());
    for (let i = 0; i < n; i++)
      out[i]! += 0.22 * grid[Math.floor(i / W / size) * cols + Math.floor((i % W) / size)]!;
  }
  return out.map((v) => 0.05 + v);
})();
const blurred = (r: number): Float32Array =>
  scene.map((_, i) => {
    let s = 0;
    let c = 0;
    for (let y = -r; y <= r; y++)
      for (let x = -r; x <= r; x++) {
        const v = Math.floor(i / W) + y;
        const u = (i % W) + x;
        if (u >= 0 && v >= 0 && u < W && v < H) {
          s += scene[v * W + u]!;
          c++;
        }
      }
    return s / c;
  });

/**
 * Two frames, the left of the one and the right of the other sharp, fused in strips; planes R, G,
 * B, and who won where.
 */
function fused(
  cuts: number[],
  options: { covered?: boolean; given?: boolean } = {},
): { picture: Float32Array[]; won: Uint8Array } {
  const heap = Heap.local(60e6);
  const shape = focusShape(W, H);
  const block = (): number => {
    const at = heap.alloc(shape.bytes);
    heap.u8(at, shape.bytes).fill(0);
    return at;
  };
  const planeBytes = n * 4 + 64;
  const acc = { ptr: heap.alloc(planeBytes * 4), planeBytes, width: W, height: H };
  const blank = (bytes: number): number => {
    const at = heap.alloc(bytes);
    heap.u8(at, bytes).fill(0);
    return at;
  };
  const sums: FocusSums = {
    own: [block(), block(), block()],
    greys: block(),
    energy: block(),
    best: block(),
    taken: [block(), block(), block()],
    range: { above: blank(n * 6 + 64), below: blank(n * 6 + 64) },
  };
  const strips = cuts.slice(1).map((y1, i) => [cuts[i]!, y1] as const);
  const won = {
    sources: heap.alloc(n),
    total: heap.alloc(n * 4 + 64),
    last: blank(n * 4 + 64),
    lower: blank(n * 4 + 64),
    upper: blank(n * 4 + 64),
    level: 0,
  };
  for (const [at, bytes] of [
    [acc.ptr, planeBytes * 4],
    [won.sources, n],
    [won.total, n * 4 + 64],
  ] as const)
    heap.u8(at, bytes).fill(0);
  const soft = blurred(3);
  const confidences = new Uint8Array(16 * 12).fill(255);
  // the sharp left is given to the other frame manually in its upper half
  for (let y = 0; y < 6; y++) confidences.fill(0, y * 16, y * 16 + 8);
  [0, 1].forEach((k) => {
    const ptr = heap.alloc(n * 6 + 64);
    const px = heap.u16(ptr, n * 3);
    for (let i = 0; i < n * 3; i++) {
      const p = Math.floor(i / 3);
      px[i] = 65535 * (p % W < W / 2 === (k === 0) ? scene : soft)[p]! * [1, 0.8, 0.6][i % 3]!;
    }
    const frame = {
      ptr,
      width: W,
      height: H,
      ...(options.covered && k === 1
        ? {
            covered: {
              outline: [
                [0, 0],
                [120, 0],
                [120, H],
                [0, H],
              ] as const,
              y0: 0,
              y1: H,
            },
          }
        : {}),
      ...(options.given && k === 0
        ? { ghosts: { width: 16, height: 12, scale: 10, confidences } }
        : {}),
    };
    for (const [a, b] of strips) halveFrame(heap, frame, sums, a, b);
    coarseSharpness(heap, frame, sums);
    for (const [a, b] of strips) chooseFinest(heap, frame, acc, sums, { ...won, frame: k }, a, b);
    for (const c of [0, 1, 2]) chooseCoarser(heap, W, H, c, sums);
    keepBest(heap, W, H, sums, { ...won, frame: k });
  });
  for (const at of sums.taken) {
    averageCoarsest(heap, W, H, at, sums.best);
    collapse(heap, at, shape);
  }
  for (const [a, b] of strips) addUp(heap, acc, sums.taken, a, b);
  for (const [a, b] of strips) holdInRange(heap, acc, sums.range, a, b);
  return {
    picture: [0, 1, 2].map((c) => heap.f32(acc.ptr + c * planeBytes, n).slice()),
    won: heap.u8(won.sources, n).slice(),
  };
}
const psnr = (
  got: Float32Array,
  gain: number,
  where: (x: number, y: number) => boolean,
): number => {
  let e = 0;
  let c = 0;
  got.forEach((v, i) => {
    if (where(i % W, Math.floor(i / W))) {
      e += (v - scene[i]! * gain) ** 2;
      c++;
    }
  });
  return -10 * Math.log10(e / c);
};
const away = (x: number): boolean => Math.abs(x - W / 2) > 14;

test("what is sharp in either frame is sharp in the picture, in every channel, and it is known which frame it is from", () => {
  const { picture, won } = fused([0, H]);
  picture.forEach((p, c) => expect(psnr(p, [1, 0.8, 0.6][c]!, away)).toBeGreaterThan(38));
  expect(psnr(blurred(3), 1, away)).toBeLessThan(28);
  let right = 0;
  let all = 0;
  won.forEach((s, i) => {
    if (away(i % W)) {
      all++;
      if (s === (i % W < W / 2 ? 1 : 2)) right++;
    }
  });
  expect(right / all).toBeGreaterThan(0.97);
});

test("the same bytes however the rows are cut", () => {
  const one = fused([0, H]);
  const many = fused([0, 16, 64, 80, H]);
  one.picture.forEach((p, c) => expect(many.picture[c]).toEqual(p));
  expect(many.won).toEqual(one.won);
});

test("beyond a frame's border the other frame is taken, and so it is where a part was given to it manually", () => {
  const { won } = fused([0, H], { covered: true });
  const given = fused([0, H], { given: true });
  for (let y = 4; y < H - 4; y += 9) {
    expect(won[y * W + 135]).toBe(1);
    expect(won[y * W + 100]).toBe(2);
  }
  for (let x = 4; x < 60; x += 7) {
    expect(given.won[20 * W + x]).toBe(2);
    expect(given.won[100 * W + x]).toBe(1);
  }
});

test("nothing in the picture is brighter or darker than in every frame", () => {
  const soft = blurred(3);
  const { picture } = fused([0, 48, H]);
  picture.forEach((p, c) =>
    p.forEach((v, i) => {
      const gain = [1, 0.8, 0.6][c]!;
      const own = [scene[i]! * gain, soft[i]! * gain];
      expect(v).toBeGreaterThanOrEqual(Math.min(...own) - 2 / 65535);
      expect(v).toBeLessThanOrEqual(Math.max(...own) + 2 / 65535);
    }),
  );
  // beyond the border of the one, only the other counts
  const {
    picture: [red],
  } = fused([0, H], { covered: true });
  for (let y = 0; y < H; y++)
    for (let x = 121; x < W; x++)
      expect(Math.abs(red![y * W + x]! - soft[y * W + x]!)).toBeLessThan(2 / 65535);
});

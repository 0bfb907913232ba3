import { random } from "../core/math/random";
import { Heap } from "./heap";

const W = 70;
const H = 50;
const SIDE = 12;
const RIM = 2;
const BLOCKS = 5;
const LINES = 3;
const LEAST = 0.3;
const rnd = random(12);
const heap = Heap.local(1e6);
const plane = (of: () => number): Float32Array => Float32Array.from({ length: W * H }, of);

test("sums of blocks are those of a plain loop over what both pictures show, whatever lies unseen or beyond the border", () => {
  const A = plane(rnd);
  const B = plane(rnd);
  const VA = plane(() => (rnd() < 0.1 ? 0.1 : 0.9));
  const VB = plane(() => (rnd() < 0.05 ? 0.1 : 0.9));
  const m = [1.01, -0.02, -3.4, 0.02, 0.99, 2.7, 1e-5, -1e-5, 1];
  const out = heap.alloc(BLOCKS * LINES * 16 * 8);
  heap.k.blockSlopes(
    heap.put(A),
    heap.put(VA),
    heap.put(B),
    heap.put(VB),
    W,
    H,
    heap.put(m, "f64"),
    RIM,
    SIDE,
    BLOCKS,
    LINES,
    LEAST,
    out,
  );
  let seen = 0;
  for (let line = 0; line < LINES; line++)
    for (let block = 0; block < BLOCKS; block++) {
      const sums = new Array<number>(16).fill(0);
      for (let y = RIM + line * SIDE; y < RIM + (line + 1) * SIDE; y++)
        for (let x = RIM + block * SIDE; x < RIM + (block + 1) * SIDE; x++) {
          const d = m[6]! * (x + 0.5) + m[7]! * (y + 0.5) + m[8]!;
          const px = (m[0]! * (x + 0.5) + m[1]! * (y + 0.5) + m[2]!) / d - 0.5;
          const py = (m[3]! * (x + 0.5) + m[4]! * (y + 0.5) + m[5]!) / d - 0.5;
          const u = Math.floor(px);
          const v = Math.floor(py);
          if (
            u < 1 ||
            v < 1 ||
            u >= W - 2 ||
            v >= H - 2 ||
            VA[y * W + x]! < LEAST ||
            [0, 1].some((j) => [0, 1].some((i) => VB[(v + j) * W + u + i]! < LEAST))
          )
            continue;
          const a = (i: number, j: number): number => A[(y + j) * W + x + i]!;
          const b = (i: number, j: number): number => B[(v + j) * W + u + i]!;
          const fx = px - u;
          const fy = py - v;
          const mix = (p: number, q: number, f: number): number => p * (1 - f) + q * f;
          const gx = (a(1, 0) - a(-1, 0) + mix(b(1, 0) - b(-1, 0), b(2, 0) - b(0, 0), fx)) / 4;
          const gy = (a(0, 1) - a(0, -1) + mix(b(0, 1) - b(0, -1), b(0, 2) - b(0, 0), fy)) / 4;
          const l = a(1, 0) + a(-1, 0) + a(0, 1) + a(0, -1) - 4 * a(0, 0);
          const e = a(0, 0) - mix(mix(b(0, 0), b(1, 0), fx), mix(b(0, 1), b(1, 1), fx), fy);
          [
            1,
            gx * gx,
            gx * gy,
            gx * l,
            gx,
            gx * e,
            gy * gy,
            gy * l,
            gy,
            gy * e,
            l * l,
            l,
            l * e,
            e,
            e * e,
            a(0, 0),
          ].forEach((t, c) => {
            sums[c]! += t;
          });
          seen++;
        }
      heap
        .f64(out + (line * BLOCKS + block) * 128, 16)
        .forEach((t, c) => expect(t).toBeCloseTo(sums[c]!, 6));
    }
  expect(seen).toBeGreaterThan(1000);
  expect(seen).toBeLessThan(BLOCKS * LINES * SIDE * SIDE);
});

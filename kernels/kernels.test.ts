import { random } from "../core/simulate/random";
import { Heap } from "./heap";
import * as twin from "./twins";

const rnd = random(42), heap = Heap.local(8e6);
const noise = (n: number, lo = 0, hi = 1): Float32Array => Float32Array.from({ length: n }, () => lo + (hi - lo) * rnd());
const worst = (a: ArrayLike<number>, b: ArrayLike<number>): number => { let m = 0; for (let i = 0; i < b.length; i++) m = Math.max(m, Math.abs(a[i]! - b[i]!)); return m; };

describe.each([[64, 48], [61, 47], [5, 9], [130, 3]])("pyramid of %i x %i", (w, h) => {
  const src = noise(w * h, -5, 5), W = (w + 1) >> 1, H = (h + 1) >> 1;
  test("down", () => {
    const mark = heap.mark(), s = heap.put(src), d = heap.alloc(W * H * 4 + 16), row = heap.alloc(w * 4 + 16);
    heap.k.pyrDown(s, w, h, d, row);
    expect(worst(heap.f32(d, W * H), twin.pyrDown(src, w, h))).toBeLessThan(1e-5);
    heap.release(mark);
  });
  test("up, and what was taken apart comes together again", () => {
    const mark = heap.mark(), s = heap.put(src), c = heap.alloc(W * H * 4 + 16), d = heap.alloc(w * h * 4 + 16), row = heap.alloc(w * 4 + 16);
    heap.k.pyrDown(s, w, h, c, row);
    heap.k.pyrUp(c, w, h, s, d, -1, row);
    expect(worst(heap.f32(d, w * h), twin.pyrUp(heap.f32(c, W * H), w, h, src, -1))).toBeLessThan(1e-5);
    heap.k.pyrUp(c, w, h, d, d, 1, row);
    expect(worst(heap.f32(d, w * h), src)).toBeLessThan(1e-5);
    heap.release(mark);
  });
});

test("logarithm of luminance over 24 stops, to 1e-5 EV", () => {
  const n = 1001, planes = [0, 1, 2].map(() => noise(n, -16, 8).map((v) => 2 ** v)) as [Float32Array, Float32Array, Float32Array];
  const plane = 4096 + 64, src = heap.alloc(plane * 3), dst = heap.alloc(n * 4 + 16);
  planes.forEach((p, c) => heap.f32(src + c * plane, n).set(p));
  heap.k.logLuminance(src, plane, n, 1.2, 1, 0.8, -20, dst);
  expect(worst(heap.f32(dst, n), twin.logLuminance(...planes, [1.2, 1, 0.8], -20))).toBeLessThan(1e-5);
});

test("the remapping curve", () => {
  const src = noise(333, -8, 6), s = heap.put(src), d = heap.alloc(333 * 4 + 16);
  heap.k.remapAround(s, d, 333, -1, 1.2, 1.4, 0.3);
  expect(worst(heap.f32(d, 333), twin.remapAround(src, -1, 1.2, 1.4, 0.3))).toBeLessThan(1e-5);
});

test.each([["similarityEquations", (a: number, b: number, X: number, Y: number) => [a * X + b * Y, b * X - a * Y, a, b, 1]],
  ["normalEquations", (a: number, b: number, X: number, Y: number) => [a * X, a * Y, a, b * X, b * Y, b, -X * (a * X + b * Y), -Y * (a * X + b * Y), 1]]] as const)("%s", (name, row) => {
  const w = 60, h = 41, c = noise(w * h), cw = noise(w * h), l = noise(w * h), lw = noise(w * h), m = [1.01, 0.02, 1.5, -0.03, 0.99, -2, 1e-5, -2e-5, 1];
  const out = heap.alloc(80 * 8);
  heap.k[name](heap.put(c), heap.put(cw), heap.put(l), heap.put(lw), w, h, heap.put(m, "f64"), 0.1, 0.3, 1, out);
  const expected = twin.equations(c, cw, l, lw, w, h, m, 0.1, 0.3, 1, row);
  const got = heap.f64(out, expected.length);
  expected.forEach((v, i) => expect(Math.abs(got[i]! - v)).toBeLessThan(1e-3 * Math.max(1, Math.abs(v))));
});

test("rendering a row, to half of a 16-bit step", () => {
  const n = 37, plane = 256, src = heap.alloc(plane * 3), a = noise(n, -0.5, 0), b = noise(n, -1, 1), dst = heap.alloc(n * 12 + 64);
  const rgb = [0, 1, 2].map(() => noise(n, -9, 3).map((v) => 2 ** v));
  rgb.forEach((p, c) => heap.f32(src + c * plane, n).set(p));
  const s = [1.1, 1, 0.9, 0.3, 1.2, -2.5, 1.1, 0.5, 3, 1.66, -0.59, -0.07, -0.12, 1.13, -0.01, -0.02, -0.1, 1.12, 0.0031308, 12.92, 1.055, 0.055, 1 / 2.4];
  heap.k.renderRow(src, plane, n, heap.put(a), heap.put(b), heap.put(s), 2, dst);
  const out = heap.f32(dst, n * 3);
  for (let i = 0; i < n; i++) expect(worst(out.subarray(i * 3, i * 3 + 3), twin.renderPixel(rgb.map((p) => p[i]!), a[i]!, b[i]!, s))).toBeLessThan(1 / 131070);
});

test("a warped frame is the bicubic sample of its linear values", () => {
  const w = 40, h = 30, samples = Uint8Array.from({ length: w * h * 3 }, () => 30 + rnd() * 150), lut = Float32Array.from({ length: 768 }, (_, i) => ((i % 256) / 255) ** 2.2);
  const src = heap.alloc(samples.length + 16), rows = heap.alloc(w * h * 16 + 64), plane = w * h * 4 + 64, acc = heap.alloc(plane * 4), m = [0.99, 0.03, 2.3, -0.03, 0.99, 1.6, 0, 0, 1];
  heap.u8(src, samples.length).set(samples);
  heap.u8(acc, plane * 4).fill(0);
  heap.k.linearise(src, 0, w * h, heap.put(lut), rows);
  const at = heap.put(m, "f64"), linear = Float32Array.from(samples, (v, i) => lut[(i % 3) * 256 + v]!);
  for (let y = 0; y < h; y++) heap.k.foldWarped(rows, w, h, 0, h, y, w, at, 0, acc, plane, y * w * 4, 2, 1 / 20000, 1e-6, 0);
  const sums = [0, 1, 2, 3].map((c) => heap.f32(acc + c * plane, w * h));
  for (let y = 2; y < h - 4; y++) for (let x = 2; x < w - 4; x++) {
    const i = y * w + x, expected = twin.bicubic(linear, w, h, m[0]! * (x + 0.5) + m[1]! * (y + 0.5) + m[2]!, m[3]! * (x + 0.5) + m[4]! * (y + 0.5) + m[5]!);
    if (sums[3]![i]! > 0) expected.forEach((v, c) => expect(Math.abs((sums[c]![i]! / sums[3]![i]!) * 2 - Math.max(0, v))).toBeLessThan(2e-5));
  }
});

import { encode, SPACES } from "../core/colour/spaces";
import { heap, noise, worst } from "../tests/forKernels";
import * as twin from "./twins";
import { LUMINANCE } from "../core/colour/luminance";

test.each([
  [40, 30, 4],
  [7, 3, 2],
  [1, 9, 5],
  [33, 1, 1],
])("mean over a square, %i x %i, radius %i", (w, h, r) => {
  const src = noise(w * h, -5, 5);
  const dst = heap.alloc(w * h * 4);
  for (const [a, b] of [
    [0, h >> 1],
    [h >> 1, h],
  ] as const)
    heap.k.boxMean(heap.put(src), w, h, r, heap.alloc(w * 16 + 64), dst, a, b);
  expect(worst(heap.f32(dst, w * h), twin.boxMean(src, w, h, r))).toBeLessThan(1e-5);
});

test.each([true, false])("the guided filter's sums and lines, weighted: %s", (weighted) => {
  const n = 37;
  const [values, guide, weights] = [noise(n), noise(n), noise(n, 0.1, 1)];
  const planes = Array.from({ length: 5 }, () => heap.alloc(n * 4 + 64)) as [
    number,
    number,
    number,
    number,
    number,
  ];
  const k = (i: number): number => (weighted ? weights[i]! : 1);
  const G = heap.put(guide);
  heap.k.guidedProducts(heap.put(values), G, weighted ? heap.put(weights) : 0, n, ...planes);
  for (const [p, want] of [
    [1, guide.map((g, i) => g * k(i))],
    [2, values.map((v, i) => v * k(i))],
    [3, guide.map((g, i) => g * g * k(i))],
    [4, values.map((v, i) => v * guide[i]! * k(i))],
  ] as const)
    expect(worst(heap.f32(planes[p], n), want)).toBeLessThan(1e-6);
  // as if these were means
  const means = planes.map(() => noise(n, 0.5, 1)) as [
    Float32Array,
    Float32Array,
    Float32Array,
    Float32Array,
    Float32Array,
  ];
  const at = means.map((m) => heap.put(m)) as [number, number, number, number, number];
  heap.k.guidedLines(weighted ? at[0] : 0, at[1], at[2], at[3], at[4], n, 0.01);
  heap.k.guidedValues(at[4], at[2], G, n, planes[0]);
  expect(
    worst(
      heap.f32(planes[0], n),
      guide.map((g, i) => {
        const [w, mg, mv, mgg, mgv] = means.map((m, q) =>
          q === 0 ? (weighted ? m[i]! : 1) : m[i]!,
        ) as [number, number, number, number, number];
        const a = (mgv / w - (mg * mv) / w ** 2) / (Math.max(0, mgg / w - (mg / w) ** 2) + 0.01);
        return a * g + mv / w - (a * mg) / w;
      }),
    ),
  ).toBeLessThan(1e-3);
});

test("a row of the tone grid: log2 of the cells' mean luminance, over 24 stops", () => {
  const w = 50;
  const h = 6;
  const gw = 7;
  const plane = w * h * 4 + 64;
  const src = heap.alloc(plane * 3);
  const xs = [0, 7, 14, 21, 28, 35, 42, 50];
  const at = heap.alloc(32);
  const dst = heap.alloc(gw * 4);
  const rgb = [0, 1, 2].map(() => noise(w * h, -20, 4).map((v) => 2 ** v));
  rgb.forEach((p, c) => heap.f32(src + c * plane, w * h).set(p));
  heap.i32(at, 8).set(xs);
  heap.k.gridRow(src, plane, w, 2, 5, at, gw, heap.alloc(gw * 8), -6, dst);
  for (let c = 0; c < gw; c++) {
    let s = 0;
    for (let y = 2; y < 5; y++)
      for (let x = xs[c]!; x < xs[c + 1]!; x++)
        s += LUMINANCE.reduce((t, k, i) => t + k * rgb[i]![y * w + x]!, 0);
    expect(heap.f32(dst, gw)[c]).toBeCloseTo(
      Math.max(-6, Math.log2(s / 3 / (xs[c + 1]! - xs[c]!))),
      4,
    );
  }
});

test("a histogram counts every value once", () => {
  const src = noise(500, -3, 9);
  const at = heap.alloc(40);
  heap.i32(at, 10).fill(0);
  heap.k.histogram(heap.put(src), 500, 0, 1.5, 10, at);
  const expected = new Array<number>(10).fill(0);
  for (const v of src) expected[Math.max(0, Math.min(9, Math.floor(v * 1.5)))]!++;
  expect([...heap.i32(at, 10)]).toEqual(expected);
});

test("planes of local tone: their sum, the line through a window", () => {
  const n = 29;
  const [x, y, z] = [noise(n), noise(n), noise(n)];
  const dst = heap.alloc(n * 4 + 16);
  const product = heap.alloc(n * 4 + 16);
  heap.k.sumOfThree(2, heap.put(x), -1, heap.put(y), 0.5, heap.put(z), n, dst);
  expect(
    worst(
      heap.f32(dst, n),
      x.map((v, i) => 2 * v - y[i]! + 0.5 * z[i]!),
    ),
  ).toBeLessThan(1e-6);
  const mean = noise(n);
  const variance = noise(n);
  heap.f32(dst, n).set(x);
  heap.f32(product, n).set(z);
  heap.k.gainLine(dst, product, heap.put(mean), heap.put(variance), n, 0.1);
  const slopes = z.map((v, i) => Math.max(-1, (v - mean[i]! * x[i]!) / (variance[i]! + 0.1)));
  expect(worst(heap.f32(product, n), slopes)).toBeLessThan(1e-5);
  expect(
    worst(
      heap.f32(dst, n),
      slopes.map((s, i) => x[i]! - s * mean[i]!),
    ),
  ).toBeLessThan(1e-5);
});

describe("rendering a row", () => {
  const n = 37;
  const plane = 256;
  const src = heap.alloc(plane * 3);
  const gw = 9;
  const gh = 5;
  const a = noise(gw * gh, -0.5, 0);
  const b = noise(gw * gh, -1, 1);
  const rgb = [0, 1, 2].map(() => noise(n, -9, 3).map((v) => 2 ** v));
  rgb.forEach((p, c) => heap.f32(src + c * plane, n).set(p));
  const s = [
    1.1,
    1,
    0.9,
    0.3,
    1.2,
    -2.5,
    1.1,
    0.5,
    3,
    1.66,
    -0.59,
    -0.07,
    -0.12,
    1.13,
    -0.01,
    -0.02,
    -0.1,
    1.12,
    0,
    2 ** -6,
  ];
  const gx = 0.3;
  const step = 0.22;
  const gy = 2.6;
  const slopes = heap.alloc(n * 4 + 64);
  const offsets = heap.alloc(n * 4 + 64);
  const curve = (v: number): number => encode(SPACES.srgb.curve, v);
  const table = heap.put(
    Float32Array.from({ length: 2049 * 2 }, (_, i) => {
      const at = (k: number): number => curve((Math.min(k, 2048) / 2048) ** 2);
      return i & 1 ? at((i >> 1) + 1) - at(i >> 1) : at(i >> 1);
    }),
  );
  const expected = Array.from({ length: n }, (_, i) => {
    const x = Math.min(gw - 1, gx + step * i) + 0.5;
    const mix = (u: number, v: number, t: number): number => u + (v - u) * t;
    return twin.renderPixel(
      rgb.map((p) => p[i]!),
      twin.bilinear(a, gw, gh, x, gy + 0.5, mix)!,
      twin.bilinear(b, gw, gh, x, gy + 0.5, mix)!,
      s,
      curve,
    );
  }).flat();
  const render = (kind: number): number => {
    const dst = heap.alloc(n * 12 + 64);
    const settings = heap.put(s);
    heap.k.gainRow(
      heap.put(a),
      heap.put(b),
      gw,
      gh,
      gx,
      step,
      gy,
      n,
      settings,
      heap.alloc(gw * 8 + 32),
      slopes,
      offsets,
    );
    heap.k.renderRow(src, plane, n, slopes, offsets, settings, table, kind, dst);
    return dst;
  };
  test("to floats, within half of a 16-bit step", () =>
    expect(worst(heap.f32(render(2), n * 3), expected)).toBeLessThan(1 / 131070));
  test("to 16 bit, within one", () =>
    expect(
      worst(
        heap.u16(render(1), n * 3),
        expected.map((v) => v * 65535),
      ),
    ).toBeLessThan(1.01));
  test("to bytes, rounded, opaque", () => {
    const out = heap.u8(render(0), n * 4);
    for (let i = 0; i < n; i++)
      expect([
        worst(
          out.subarray(i * 4, i * 4 + 3),
          expected.slice(i * 3, i * 3 + 3).map((v) => v * 255),
        ) < 0.51,
        out[i * 4 + 3],
      ]).toEqual([true, 255]);
    expect(
      worst(
        heap.u8(render(3), n * 3),
        expected.map((v) => v * 255),
      ),
    ).toBeLessThan(0.51);
  });
});

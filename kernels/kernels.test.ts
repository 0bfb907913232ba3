import { encode, SPACES } from "../core/colour/spaces";
import { random } from "../core/simulate/random";
import { Heap, SAMPLE_KIND, type SampleType } from "./heap";
import { tapWeights } from "../core/raster/sampling";
import * as twin from "./twins";

const rnd = random(42), heap = Heap.local(8e6);
const noise = (n: number, lo = 0, hi = 1): Float32Array => Float32Array.from({ length: n }, () => lo + (hi - lo) * rnd());
const worst = (a: ArrayLike<number>, b: ArrayLike<number>): number => { let m = 0; for (let i = 0; i < b.length; i++) m = Math.max(m, Math.abs(a[i]! - b[i]!)); return m; };

describe.each([[64, 48], [61, 47], [5, 9], [130, 3]])("pyramid of %i x %i", (w, h) => {
  const src = noise(w * h, -5, 5), W = (w + 1) >> 1, H = (h + 1) >> 1;
  test("down", () => {
    const mark = heap.mark(), s = heap.put(src), d = heap.alloc(W * H * 4 + 16), row = heap.alloc(w * 4 + 16);
    for (const [a, b] of [[0, H >> 1], [H >> 1, H]] as const) heap.k.pyrDown(s, w, h, d, row, a, b);
    expect(worst(heap.f32(d, W * H), twin.pyrDown(src, w, h))).toBeLessThan(1e-5);
    heap.release(mark);
  });
  test("up, and what was taken apart comes together again", () => {
    const mark = heap.mark(), s = heap.put(src), c = heap.alloc(W * H * 4 + 16), d = heap.alloc(w * h * 4 + 16), row = heap.alloc(w * 4 + 16);
    heap.k.pyrDown(s, w, h, c, row, 0, H);
    for (const [a, b] of [[0, h >> 1], [h >> 1, h]] as const) heap.k.pyrUp(c, w, h, s, d, -1, row, a, b);
    expect(worst(heap.f32(d, w * h), twin.pyrUp(heap.f32(c, W * H), w, h, src, -1))).toBeLessThan(1e-5);
    heap.k.pyrUp(c, w, h, d, d, 1, row, 0, h);
    expect(worst(heap.f32(d, w * h), src)).toBeLessThan(1e-5);
    heap.release(mark);
  });
});

test.each([[40, 30], [7, 3], [2, 2], [1, 5]])("weights of exposure fusion, %i x %i, in strips", (w, h) => {
  const mark = heap.mark(), n = w * h, rgb = Uint16Array.from({ length: n * 3 }, () => rnd() * 65536), src = heap.alloc(n * 6 + 64), dst = heap.alloc(n * 4 + 64), rows = heap.alloc((w + 8) * 12 + 64);
  heap.u16(src, n * 3).set(rgb);
  for (const [a, b] of [[0, h >> 1], [h >> 1, h]] as const) if (b > a) heap.k.fusionWeights(src, w, h, a, b, rows, dst + a * w * 4);
  expect(worst(heap.f32(dst, n), twin.fusionWeights(rgb, w, h))).toBeLessThan(1e-5);
  heap.release(mark);
});

test("weights of 16 bit hold their value within 0.05 % over all that weights may be", () => {
  const n = 29, weights = Float32Array.from({ length: n }, (_, i) => (1 + rnd()) * 2 ** (i * 2 - 57)), packed = heap.alloc(n * 2 + 64), out = heap.alloc(n * 4 + 64);
  heap.k.packWeights(heap.put(Float32Array.of(...weights, 0, 0, 0)), n, packed);
  heap.k.unpackWeights(packed, n, out);
  heap.f32(out, n).forEach((v, i) => expect(Math.abs(v / weights[i]! - 1)).toBeLessThan(5e-4));
  heap.k.packWeights(heap.put(new Float32Array(8)), 8, packed);
  expect([...heap.u16(packed, 8)]).toEqual(Array(8).fill(0));
});

test("sRGB planes become light of another space, and what lies behind them stays", () => {
  const n = 37, plane = n * 4 + 64, at = heap.alloc(plane * 3), values = Float32Array.from({ length: n }, (_, i) => i / 30 - 0.1), m = Float32Array.of(0.6, 0.3, 0.1, 0.1, 0.8, 0.1, 0, 0.2, 0.8);
  const light = (v: number): number => { const u = Math.min(1, Math.max(0, v)); return u <= 0.04045 ? u / 12.92 : ((u + 0.055) / 1.055) ** 2.4; };
  const rgb = [values, values.map((v) => 1 - v), values.map((v) => v * v)];
  rgb.forEach((v, c) => { heap.f32(at + c * plane, n + 1).set(v); heap.f32(at + c * plane, n + 1)[n] = 7; });
  heap.k.toScene(at, plane, n, heap.put(m));
  for (const c of [0, 1, 2]) {
    expect(worst(heap.f32(at + c * plane, n), values.map((_, i) => [0, 1, 2].reduce((s, k) => s + m[c * 3 + k]! * light(rgb[k]![i]!), 0)))).toBeLessThan(1e-5);
    expect(heap.f32(at + c * plane, n + 1)[n]).toBe(7);
  }
});

test("squares, and a mix by trust where there is weight", () => {
  const n = 37, own = noise(n, -0.2, 1.2), sum = noise(n, 0, 2), weight = noise(n).map((v) => (v < 0.3 ? 0 : v)), trust = noise(n, -0.2, 1.2), unit = (v: number): number => Math.min(1, Math.max(0, v)), dst = heap.alloc(n * 4 + 64);
  heap.k.squares(heap.put(own), n, dst);
  expect(worst(heap.f32(dst, n), own.map((v) => v * v))).toBeLessThan(1e-6);
  for (const trusted of [true, false]) {
    const to = heap.put(own);
    heap.k.mixByTrust(to, heap.put(sum), heap.put(weight), trusted ? heap.put(trust) : 0, n);
    expect(worst(heap.f32(to, n), own.map((v, i) => { const t = trusted ? unit(trust[i]!) : 1; return weight[i]! > 0.01 ? unit(v) * (1 - t) + (sum[i]! / weight[i]!) * t : unit(v); }))).toBeLessThan(1e-5);
  }
});

test("sums, products, shares and channels of planes", () => {
  const mark = heap.mark(), n = 37, a = noise(n), b = noise(n, 0.5, 2), acc = noise(n), pa = heap.put(a), pb = heap.put(b), pc = heap.put(acc);
  heap.k.addProduct(pa, pb, n, pc);
  expect(worst(heap.f32(pc, n), acc.map((v, i) => v + a[i]! * b[i]!))).toBeLessThan(1e-6);
  heap.k.addPlane(pa, n, pc);
  expect(worst(heap.f32(pc, n), acc.map((v, i) => v + a[i]! * b[i]! + a[i]!))).toBeLessThan(1e-6);
  heap.k.divideBy(pa, pb, n);
  expect(worst(heap.f32(pa, n), a.map((v, i) => v / b[i]!))).toBeLessThan(1e-6);
  const rgb = Uint16Array.from({ length: 30 }, (_, i) => i * 2000), src = heap.alloc(60), out = heap.alloc(40);
  heap.u16(src, 30).set(rgb);
  heap.k.channelOf(src, 10, 1, out);
  expect(worst(heap.f32(out, 10), Float32Array.from({ length: 10 }, (_, i) => rgb[i * 3 + 1]! / 65535))).toBeLessThan(1e-6);
  heap.release(mark);
});

test.each([[40, 30, 4], [7, 3, 2], [1, 9, 5], [33, 1, 1]])("mean over a square, %i x %i, radius %i", (w, h, r) => {
  const src = noise(w * h, -5, 5), dst = heap.alloc(w * h * 4);
  for (const [a, b] of [[0, h >> 1], [h >> 1, h]] as const) heap.k.boxMean(heap.put(src), w, h, r, heap.alloc(w * 16 + 64), dst, a, b);
  expect(worst(heap.f32(dst, w * h), twin.boxMean(src, w, h, r))).toBeLessThan(1e-5);
});

test.each([true, false])("the guided filter's sums and lines, weighted: %s", (weighted) => {
  const n = 37, [values, guide, weights] = [noise(n), noise(n), noise(n, 0.1, 1)], planes = Array.from({ length: 5 }, () => heap.alloc(n * 4 + 64)) as [number, number, number, number, number], k = (i: number): number => (weighted ? weights[i]! : 1), G = heap.put(guide);
  heap.k.guidedProducts(heap.put(values), G, weighted ? heap.put(weights) : 0, n, ...planes);
  for (const [p, want] of [[1, guide.map((g, i) => g * k(i))], [2, values.map((v, i) => v * k(i))], [3, guide.map((g, i) => g * g * k(i))], [4, values.map((v, i) => v * guide[i]! * k(i))]] as const) expect(worst(heap.f32(planes[p], n), want)).toBeLessThan(1e-6);
  // as if these were means
  const means = planes.map(() => noise(n, 0.5, 1)) as [Float32Array, Float32Array, Float32Array, Float32Array, Float32Array], at = means.map((m) => heap.put(m)) as [number, number, number, number, number];
  heap.k.guidedLines(weighted ? at[0] : 0, at[1], at[2], at[3], at[4], n, 0.01);
  heap.k.guidedValues(at[4], at[2], G, n, planes[0]);
  expect(worst(heap.f32(planes[0], n), guide.map((g, i) => { const [w, mg, mv, mgg, mgv] = means.map((m, q) => (q === 0 ? (weighted ? m[i]! : 1) : m[i]!)) as [number, number, number, number, number], a = (mgv / w - (mg * mv) / w ** 2) / (Math.max(0, mgg / w - (mg / w) ** 2) + 0.01); return a * g + mv / w - (a * mg) / w; }))).toBeLessThan(1e-3);
});

test("a row of the tone grid: log2 of the cells' mean luminance, over 24 stops", () => {
  const w = 50, h = 6, gw = 7, plane = w * h * 4 + 64, src = heap.alloc(plane * 3), xs = [0, 7, 14, 21, 28, 35, 42, 50], at = heap.alloc(32), dst = heap.alloc(gw * 4);
  const rgb = [0, 1, 2].map(() => noise(w * h, -20, 4).map((v) => 2 ** v));
  rgb.forEach((p, c) => heap.f32(src + c * plane, w * h).set(p));
  heap.i32(at, 8).set(xs);
  heap.k.gridRow(src, plane, w, 2, 5, at, gw, heap.alloc(gw * 8), -6, dst);
  for (let c = 0; c < gw; c++) {
    let s = 0;
    for (let y = 2; y < 5; y++) for (let x = xs[c]!; x < xs[c + 1]!; x++) s += [0.2627, 0.678, 0.0593].reduce((t, k, i) => t + k * rgb[i]![y * w + x]!, 0);
    expect(heap.f32(dst, gw)[c]).toBeCloseTo(Math.max(-6, Math.log2(s / 3 / (xs[c + 1]! - xs[c]!))), 4);
  }
});

test("a histogram counts every value once", () => {
  const src = noise(500, -3, 9), at = heap.alloc(40);
  heap.i32(at, 10).fill(0);
  heap.k.histogram(heap.put(src), 500, 0, 1.5, 10, at);
  const expected = new Array<number>(10).fill(0);
  for (const v of src) expected[Math.max(0, Math.min(9, Math.floor(v * 1.5)))]!++;
  expect([...heap.i32(at, 10)]).toEqual(expected);
});

test("planes of local tone: their sum, the line through a window", () => {
  const n = 29, [x, y, z] = [noise(n), noise(n), noise(n)], dst = heap.alloc(n * 4 + 16), product = heap.alloc(n * 4 + 16);
  heap.k.sumOfThree(2, heap.put(x), -1, heap.put(y), 0.5, heap.put(z), n, dst);
  expect(worst(heap.f32(dst, n), x.map((v, i) => 2 * v - y[i]! + 0.5 * z[i]!))).toBeLessThan(1e-6);
  const mean = noise(n), variance = noise(n);
  heap.f32(dst, n).set(x); heap.f32(product, n).set(z);
  heap.k.gainLine(dst, product, heap.put(mean), heap.put(variance), n, 0.1);
  const slopes = z.map((v, i) => (v - mean[i]! * x[i]!) / (variance[i]! + 0.1));
  expect(worst(heap.f32(product, n), slopes)).toBeLessThan(1e-5);
  expect(worst(heap.f32(dst, n), slopes.map((s, i) => x[i]! - s * mean[i]!))).toBeLessThan(1e-5);
});

test("the remapping curve", () => {
  const src = noise(333, -8, 6), s = heap.put(src), d = heap.alloc(333 * 4 + 16);
  heap.k.remapAround(s, d, 333, -1, 1.2, 1.4, 0.3);
  expect(worst(heap.f32(d, 333), twin.remapAround(src, -1, 1.2, 1.4, 0.3))).toBeLessThan(1e-5);
});

test.each([["similarityEquations", (a: number, b: number, X: number, Y: number) => [a * X + b * Y, b * X - a * Y, a, b, 1]],
  ["normalEquations", (a: number, b: number, X: number, Y: number) => [a * X, a * Y, a, b * X, b * Y, b, -X * (a * X + b * Y), -Y * (a * X + b * Y), 1]]] as const)("%s", (name, row) => {
  const w = 60, h = 41, c = noise(w * h), cw = noise(w * h), l = noise(w * h), lw = noise(w * h), m = [1.01, 0.02, 1.5, -0.03, 0.99, -2, 1e-5, -2e-5, 1];
  const out = heap.alloc(80 * 8), samples = heap.alloc(w * h * 32);
  const count = heap.k.selectSamples(heap.put(c), heap.put(cw), w, h, 1, samples);
  heap.k[name](samples, count, heap.put(l), heap.put(lw), w, h, heap.put(m, "f64"), 0.1, 0.3, out);
  const expected = twin.equations(c, cw, l, lw, w, h, m, 0.1, 0.3, row);
  const got = heap.f64(out, expected.length);
  expected.forEach((v, i) => expect(Math.abs(got[i]! - v)).toBeLessThan(1e-3 * Math.max(1, Math.abs(v))));
});

describe("rendering a row", () => {
  const n = 37, plane = 256, src = heap.alloc(plane * 3), gw = 9, gh = 5, a = noise(gw * gh, -0.5, 0), b = noise(gw * gh, -1, 1);
  const rgb = [0, 1, 2].map(() => noise(n, -9, 3).map((v) => 2 ** v));
  rgb.forEach((p, c) => heap.f32(src + c * plane, n).set(p));
  const s = [1.1, 1, 0.9, 0.3, 1.2, -2.5, 1.1, 0.5, 3, 1.66, -0.59, -0.07, -0.12, 1.13, -0.01, -0.02, -0.1, 1.12, 0];
  const gx = 0.3, step = 0.22, gy = 2.6, slopes = heap.alloc(n * 4 + 64), offsets = heap.alloc(n * 4 + 64);
  const curve = (v: number): number => encode(SPACES.srgb.curve, v);
  const table = heap.put(Float32Array.from({ length: 2049 * 2 }, (_, i) => { const at = (k: number): number => curve((Math.min(k, 2048) / 2048) ** 2); return i & 1 ? at((i >> 1) + 1) - at(i >> 1) : at(i >> 1); }));
  const expected = Array.from({ length: n }, (_, i) => {
    const x = Math.min(gw - 1, gx + step * i) + 0.5, mix = (u: number, v: number, t: number): number => u + (v - u) * t;
    return twin.renderPixel(rgb.map((p) => p[i]!), twin.bilinear(a, gw, gh, x, gy + 0.5, mix)!, twin.bilinear(b, gw, gh, x, gy + 0.5, mix)!, s, curve);
  }).flat();
  const render = (kind: number): number => {
    const dst = heap.alloc(n * 12 + 64), settings = heap.put(s);
    heap.k.gainRow(heap.put(a), heap.put(b), gw, gh, gx, step, gy, n, settings, heap.alloc(gw * 8 + 32), slopes, offsets);
    heap.k.renderRow(src, plane, n, slopes, offsets, settings, table, kind, dst);
    return dst;
  };
  test("to floats, within half of a 16-bit step", () => expect(worst(heap.f32(render(2), n * 3), expected)).toBeLessThan(1 / 131070));
  test("to 16 bit, within one", () => expect(worst(heap.u16(render(1), n * 3), expected.map((v) => v * 65535))).toBeLessThan(1.01));
  test("to bytes, rounded, opaque", () => {
    const out = heap.u8(render(0), n * 4);
    for (let i = 0; i < n; i++) expect([worst(out.subarray(i * 4, i * 4 + 3), expected.slice(i * 3, i * 3 + 3).map((v) => v * 255)) < 0.51, out[i * 4 + 3]]).toEqual([true, 255]);
    expect(worst(heap.u8(render(3), n * 3), expected.map((v) => v * 255))).toBeLessThan(0.51);
  });
});

test.each([[8, 40], [8, 37], [4, 37], [2, 9], [1, 5]])("blocks of %i px that hold a clipped sample, over a row of %i, and the votes they take", (size, w) => {
  const rows = size, count = Math.ceil(w / size), bytes = Uint8Array.from({ length: w * rows * 3 }, () => 200), flags = heap.alloc(count + 16), src = heap.alloc(w * rows * 3 + 64), clipped = [w - 1, Math.floor(w / 2)];
  for (const x of clipped) bytes[((rows - 1) * w + x) * 3 + 1] = 251;
  heap.u8(src, bytes.length).set(bytes);
  heap.k.clippedBlocks(src, w * 3, w, rows, size, 250, flags);
  const want = Array.from({ length: count }, (_, b) => (clipped.some((x) => Math.floor(x / size) === b) ? 1 : 0));
  expect([...heap.u8(flags, count)]).toEqual(want);
  const px = Float32Array.from({ length: w * 4 }, (_, i) => (i % 4 === 3 ? 1 : (i >> 2) % 2 ? 0.7 : 0.3)), first = Math.min(3, w - 1), row = heap.put(px.subarray(first * 4));
  heap.k.doubtBlocks(row, w - first, first, size, flags);
  for (let x = first; x < w; x++) expect(heap.f32(row + (x - first) * 16 + 12, 1)[0]).toBe(want[Math.floor(x / size)] && x % 2 ? 0 : 1);
});

test.each([1, 4, 7, 16])("%i samples are packed to 16 bit, what lies outside is black, and what follows is left alone", (n) => {
  const px = noise(n * 4 + 8).map((v, i) => (i % 4 === 3 ? (i % 12 === 3 ? -1 : 1) : v * 1.2 - 0.1)), dst = heap.alloc(n * 6 + 64);
  heap.u16(dst, n * 3 + 1).fill(7);
  heap.k.packRow(heap.put(px), n, 1, dst);
  const out = heap.u16(dst, n * 3 + 1);
  for (let i = 0; i < n * 3; i++) { const p = Math.floor(i / 3) * 4; expect(Math.abs(out[i]! - (px[p + 3]! < 0 ? 0 : 65535 * Math.min(1, Math.max(0, px[p + (i % 3)]!))))).toBeLessThan(0.51); }
  expect(out[n * 3]).toBe(7);
});

describe("nearly upright mappings, sampled across and then down", () => {
  const w = 61, h = 47, a = 0.02, m = [1.004 * Math.cos(a), -1.004 * Math.sin(a), 2.3, 1.004 * Math.sin(a), 1.004 * Math.cos(a), -1.7, 0, 0, 1], pad = 8, W = w + 2 * pad, H = h + 2 * pad;
  const clipped = (x: number, y: number): boolean => x > 30 && x < 36 && y > 20 && y < 25, light = (x: number, y: number, c: number): number => (clipped(x, y) ? 1 : 0.4 + 0.3 * Math.sin((x + 3 * c) / 5) * Math.cos(y / 6));
  const fill = (): number => {
    const tile = heap.alloc(W * H * 16 + 64);
    for (let y = 0; y < H; y++) for (let x = 0; x < W; x++) { const u = Math.min(w - 1, Math.max(0, x - pad)), v = Math.min(h - 1, Math.max(0, y - pad)); heap.f32(tile + (y * W + x) * 16, 4).set([light(u, v, 0), light(u, v, 1), light(u, v, 2), clipped(u, v) ? 0 : 1]); }
    heap.k.erodeValidity(tile, W, H);
    return tile;
  };
  test("give the same bytes as one by one, the picture, and no vote near what is clipped", () => {
    const mark = heap.mark(), tile = fill(), at = heap.put(m, "f64"), block = heap.alloc(H * w * 16 + 64), one = heap.alloc(w * 16 + 64), two = heap.alloc(w * 16 + 64);
    expect([heap.k.isUpright(at), heap.k.isUpright(heap.put([0, -1, 9, 1, 0, 0, 0, 0, 1], "f64")), heap.k.isUpright(heap.put([1, 0, 0, 0, 1, 0, 1e-5, 0, 1], "f64"))]).toEqual([1, 0, 0]);
    heap.k.acrossTile(tile, -pad, -pad, W, H, 0, w, at, block);
    let outside = 0;
    for (let y = 0; y < h; y++) {
      heap.k.resampleBicubic(tile, -pad, -pad, W, w, h, y, 0, w, at, one);
      for (const [x, n] of [[0, 20], [20, w - 20]] as const) heap.k.downRow(block, 0, -pad, w, w, h, y, x, n, at, two + x * 16);
      expect(worst(heap.f32(one, w * 4), heap.f32(two, w * 4))).toBe(0);
      for (let x = 0; x < w; x++) {
        const u = m[0]! * (x + 0.5) + m[1]! * (y + 0.5) + m[2]!, v = m[3]! * (x + 0.5) + m[4]! * (y + 0.5) + m[5]!, got = heap.f32(one + x * 16, 4), far = Math.max(30.5 - u, u - 36.5, 20.5 - v, v - 25.5) > 4;
        if (u < 0 || v < 0 || u > w || v > h) { outside++; expect([...got]).toEqual([0, 0, 0, -1]); }
        else if (u > 31.5 && u < 35.5 && v > 21.5 && v < 24.5) expect(got[3]).toBe(0);
        else if (far && u > 3 && v > 3 && u < w - 3 && v < h - 3) { expect(got[3]).toBe(1); for (let c = 0; c < 3; c++) expect(got[c]).toBeCloseTo(light(u - 0.5, v - 0.5, c), 2); }
      }
    }
    expect(outside).toBeGreaterThan(0);
    heap.release(mark);
  });
});

test("of each cell the sample of the steepest trusted slope is selected, and none of a flat one", () => {
  const w = 34, h = 26, c = noise(w * h), cw = noise(w * h), at = heap.alloc(w * h * 32);
  for (let y = 0; y < h; y++) c.fill(0.5, y * w, y * w + 14);
  const count = heap.k.selectSamples(heap.put(c), heap.put(cw), w, h, 4, at);
  const steep = (x: number, y: number): number => cw[y * w + x]! * (Math.abs(c[y * w + x + 1]! - c[y * w + x - 1]!) + Math.abs(c[(y + 1) * w + x]! - c[(y - 1) * w + x]!));
  const found = Array.from({ length: count }, (_, i) => [...heap.f32(at + i * 32, 8)]);
  expect(found.every(([x]) => x! >= 13)).toBe(true);
  expect(count).toBeGreaterThanOrEqual(30);
  for (const [x, y, value, vote] of found) {
    expect(value).toBe(c[y! * w + x!]);
    expect(vote).toBe(cw[y! * w + x!]);
    const x0 = x! - ((x! - 1) % 4), y0 = y! - ((y! - 1) % 4);
    for (let j = y0; j < Math.min(h - 1, y0 + 4); j++) for (let i = x0; i < Math.min(w - 1, x0 + 4); i++) if (cw[j * w + i]! >= 0.01) expect(steep(i, j)).toBeLessThanOrEqual(steep(x!, y!) + 1e-6);
  }
});

describe("a frame that moved", () => {
  const w = 40, h = 30, m = [0.99, 0.03, 2.3, -0.03, 0.99, 1.6, 1e-5, 0, 1], at = heap.put(m, "f64");
  /** samples linearised into a tile with three repeated on every side */
  const tileOf = (src: number, type: SampleType, lut: Float32Array): number => {
    const tile = heap.alloc((w + 6) * (h + 6) * 16 + 64), at = heap.f32(tile, (w + 6) * (h + 6) * 4), clampTo = (v: number, hi: number): number => Math.max(0, Math.min(hi, v - 3));
    const own = heap.alloc(w * h * 16);
    heap.k.linearise(src, SAMPLE_KIND[type], w * h, heap.putTables(lut, type), own);
    for (let y = 0; y < h + 6; y++) for (let x = 0; x < w + 6; x++) at.set(heap.f32(own + (clampTo(y, h - 1) * w + clampTo(x, w - 1)) * 16, 4), (y * (w + 6) + x) * 4);
    heap.k.erodeValidity(tile, w + 6, h + 6);
    return tile;
  };
  const source = (x: number, y: number): [number, number] => { const z = m[6]! * x + m[7]! * y + 1; return [(m[0]! * x + m[1]! * y + m[2]!) / z, (m[3]! * x + m[4]! * y + m[5]!) / z]; };
  test.each([["u8", 255, 3e-6], ["u16", 65535, 3e-6], ["f32", 1, 3e-6]] as const)("is the bicubic sample of its linear values, %s", (type, top, close) => {
    const size = type === "u16" ? 65536 : 256, lut = type === "f32" ? new Float32Array(0) : Float32Array.from({ length: size * 3 }, (_, i) => ((i % size) / (size - 1)) ** 2.2);
    const samples = Array.from({ length: w * h * 3 }, () => { const v = (0.1 + rnd() * 0.6) * top; return type === "f32" ? v : Math.round(v); });
    const src = heap.alloc(w * h * 12), row = heap.alloc(w * 16);
    heap.samples(src, type, w * h * 3).set(samples);
    const tile = tileOf(src, type, lut);
    const linear = type === "f32" ? Float32Array.from(samples) : Float32Array.from(samples, (v, i) => lut[(i % 3) * size + v]!);
    for (let y = 0; y < h; y++) {
      heap.k.resampleBicubic(tile, -3, -3, w + 6, w, h, y, 0, w, at, row);
      for (let x = 0; x < w; x++) {
        const got = heap.f32(row + x * 16, 4), [u, v] = source(x + 0.5, y + 0.5);
        if (u < 0 || v < 0 || u > w || v > h) expect([...got]).toEqual([0, 0, 0, -1]);
        else expect(worst(got, twin.bicubic(linear, w, h, u, v).map((c) => Math.max(0, c)))).toBeLessThan(close);
      }
    }
  });
  test.each([["bilinear", (t: number) => Math.max(0, 1 - Math.abs(t))], ["lanczos3", (t: number) => (t === 0 ? 1 : Math.abs(t) >= 3 ? 0 : (3 * Math.sin(Math.PI * t) * Math.sin((Math.PI * t) / 3)) / (Math.PI * t) ** 2)]] as const)("is its sample by a %s filter, and has no vote where what that touches is clipped", (sampling, filter) => {
    const lut = Float32Array.from({ length: 768 }, (_, i) => ((i % 256) / 255) ** 2.2), src = heap.alloc(w * h * 3), row = heap.alloc(w * 16), weights = heap.put(tapWeights(sampling)), samples = Array.from({ length: w * h * 3 }, (_, i) => (Math.floor(i / 3) === 15 * w + 20 ? 255 : Math.round(30 + rnd() * 150)));
    heap.u8(src, w * h * 3).set(samples);
    const tile = tileOf(src, "u8", lut), linear = Float32Array.from(samples, (v) => lut[v]!);
    let judged = 0;
    for (let y = 0; y < h; y++) {
      heap.k.resampleSix(tile, -3, -3, w + 6, w, h, y, 0, w, at, weights, row);
      for (let x = 0; x < w; x++) {
        const got = heap.f32(row + x * 16, 4), [u, v] = source(x + 0.5, y + 0.5), ix = Math.floor(u - 0.5), iy = Math.floor(v - 0.5);
        if (u < 0 || v < 0 || u > w || v > h) expect([...got]).toEqual([0, 0, 0, -1]);
        else if (ix - 2 <= 20 && ix + 3 >= 20 && iy - 2 <= 15 && iy + 3 >= 15) { judged++; expect(got[3]).toBe(0); }
        else { expect(got[3]).toBe(1); expect(worst(got, twin.sampled(linear, w, h, u, v, filter).map((c) => Math.max(0, c)))).toBeLessThan(1e-5); }
      }
    }
    expect(judged).toBeGreaterThan(20);
  });
  test("has no vote where any of the sixteen taps is clipped", () => {
    const lut = Float32Array.from({ length: 768 }, (_, i) => (i % 256) / 255), src = heap.alloc(w * h * 3), row = heap.alloc(w * 16);
    heap.u8(src, w * h * 3).fill(90);
    heap.u8(src, w * h * 3).fill(255, (15 * w + 20) * 3, (15 * w + 21) * 3);
    const tile = tileOf(src, "u8", lut);
    for (let y = 4; y < h - 4; y++) {
      heap.k.resampleBicubic(tile, -3, -3, w + 6, w, h, y, 0, w, at, row);
      for (let x = 4; x < w - 4; x++) {
        const [u, v] = source(x + 0.5, y + 0.5), ix = Math.floor(u - 0.5), iy = Math.floor(v - 0.5);
        expect(heap.f32(row + x * 16 + 12, 1)[0]).toBe(ix - 1 <= 20 && ix + 2 >= 20 && iy - 1 <= 15 && iy + 2 >= 15 ? 0 : 1);
      }
    }
  });
});

test.each([[1, 0], [3, 0], [4, 1], [37, 0], [38, 1]])("a row of %i samples adds to the sums, or begins them, and leaves its neighbours alone", (n, first) => {
  const plane = 256, acc = heap.alloc(plane * 4), row = heap.alloc((n + 6) * 16 + 32) + 16, ghosts = noise(n);
  const px = noise((n + 6) * 4).map((v, i) => (i % 4 === 3 && v < 0.2 ? -1 : v));
  heap.f32(row - 16, px.length).set(px);
  heap.f32(acc, plane).fill(7);
  heap.k.foldRow(row, n, heap.put(ghosts), first, acc, plane, 8, 2, 1 / 20000, 1e-6, 1e-6);
  for (let i = 0; i < n; i++) {
    const o = (i + 1) * 4, level = [-4, -3, -2, 0, 1, 2, 4, 5, 6].reduce((s, k) => s + px[o + k]!, 0) / 9;
    twin.foldSample([px[o]!, px[o + 1]!, px[o + 2]!], px[o + 3]!, level, ghosts[i]!, 2, 1 / 20000, 1e-6, 1e-6).forEach((v, c) => {
      const got = heap.f32(acc + c * plane, 64)[2 + i]! - (first ? 0 : 7);
      expect(Math.abs(got - v)).toBeLessThan(1e-5 * Math.max(100, Math.abs(v)));
    });
  }
  for (let c = 0; c < 4; c++) { const p = heap.f32(acc + c * plane, 64); expect([p[1], p[2 + n]]).toEqual([7, 7]); }
});

test("a further frame is worth its resampling only where its vote counts", () => {
  const n = 100, plane = 512, acc = heap.alloc(plane * 4), runs = heap.alloc(64), time = 0.25;
  // radiance 0.1 held by a frame 16 times as long, but for samples 40 to 49, which nobody has seen yet
  const vote = 4 ** 2 / ((0.1 * 4) / 20000 + 1e-6);
  [0.1 * vote, 0.1 * vote, 0.1 * vote, vote].forEach((v, c) => heap.f32(acc + c * plane, n).fill(v).fill(0, 40, 50));
  const ends = (t: number): number[] => [...new Int32Array(heap.memory.buffer, runs, 2 * heap.k.worthwhileRuns(acc, plane, 0, n, t, 1 / 20000, 1e-6, runs))];
  const share = (t: number): number => t ** 2 / ((0.1 * t) / 20000 + 1e-6) / vote;
  expect([share(time) > 1 / 64, share(time / 4) > 1 / 64]).toEqual([true, false]);
  expect(ends(time)).toEqual([0, 100]);
  expect(ends(time / 4)).toEqual([32, 64]);
});

test("log radiance of a row, and its votes", () => {
  const n = 50, steps = 1024, px = noise(n * 4, 0, 1.3), logs = noise(steps + 2), votes = noise(steps + 2), log = heap.alloc(n * 4), vote = heap.alloc(n * 4);
  heap.k.logRow(heap.put(px), n, heap.put(logs), heap.put(votes), steps, 1.5, log, vote);
  for (let i = 0; i < n; i++) {
    const t = Math.min(steps + 1, Math.round(Math.sqrt(0.25 * px[i * 4]! + 0.5 * px[i * 4 + 1]! + 0.25 * px[i * 4 + 2]!) * steps));
    expect(heap.f32(log, n)[i]).toBeCloseTo(logs[t]! - 1.5, 5);
    expect(heap.f32(vote, n)[i]).toBeCloseTo(px[i * 4 + 3]! * votes[t]!, 5);
  }
});

test("adding to a merge of log radiance, with and without ghosts", () => {
  const w = 33, h = 21, c = noise(w * h, -4, 2), cv = noise(w * h), l = noise(w * h, -4, 2), lv = noise(w * h).map((v) => (v < 0.3 ? 0 : v)), m = [1.01, 0.04, -1.2, -0.02, 0.98, 0.7, 0, 1e-4, 1];
  const [pc, pv] = [heap.put(c), heap.put(cv)], expected = twin.foldLog(c, cv, l, lv, w, h, m, 0.2), args = [heap.put(l), heap.put(lv), w, h, heap.put(m, "f64"), 0.2] as const;
  heap.k.foldLog(pc, pv, ...args, 0, 1, 1, 1);
  expect(worst(heap.f32(pc, w * h), expected.c)).toBeLessThan(1e-4);
  expect(worst(heap.f32(pv, w * h), expected.cv)).toBeLessThan(1e-5);
  heap.f32(pc, w * h).set(c);
  heap.k.foldLog(pc, heap.put(cv), ...args, heap.putBytes(new Uint8Array(17 * 11)), 17, 11, 2);
  expect([...heap.f32(pc, w * h)]).toEqual([...c]);
});

test("an image agrees with itself, and a thing that is not in the merge stands out by what noise allows", () => {
  const w = 64, h = 48, gw = w / 2, c = noise(w * h, -3, -2.9), l = c.slice(), vote = new Float32Array(w * h).fill(0.8), score = heap.alloc(gw * (h / 2) * 4);
  for (let y = 20; y < 30; y++) for (let x = 30; x < 44; x++) l[y * w + x]! += 1;
  heap.k.disagreement(heap.put(c), heap.put(vote), heap.put(l), heap.put(vote), w, h, heap.put([1, 0, 0, 0, 1, 0, 0, 0, 1], "f64"), 0, 0, 0.0025, -0.25, 0.3, score);
  const s = heap.f32(score, gw * (h / 2)), allowed = Math.sqrt(0.0025 / 0.8 + 0.0036);
  for (let y = 1; y < 23; y++) for (let x = 1; x < 31; x++) {
    const inside = x >= 15 && x < 22 && y >= 10 && y < 15;
    if (inside) { expect(s[y * gw + x]!).toBeLessThanOrEqual(1.01 / allowed); expect(s[y * gw + x]!).toBeGreaterThan(0.99 / (allowed + 0.03)); } else expect(s[y * gw + x]).toBeLessThan(1e-3);
  }
});

test("the sharper of two planes is taken sample by sample", () => {
  const n = 23, [e, best, src, dst] = [noise(n), noise(n), noise(n), noise(n)], at = heap.put(dst), top = heap.put(best);
  heap.k.takeWhere(heap.put(e), top, heap.put(src), n, at);
  expect([...heap.f32(at, n)]).toEqual([...dst.map((v, i) => (e[i]! > best[i]! ? src[i]! : v))]);
  heap.k.maxPlane(heap.put(e), n, top);
  expect([...heap.f32(top, n)]).toEqual([...best.map((v, i) => Math.max(v, e[i]!))]);
});

test("a row laid on a canvas: bicubic roots of evened light between nodes, and outside the frame its edge without a share", () => {
  const w = 12, h = 9, rgb = noise(w * h * 3), tw = w + 8, tile = heap.alloc(tw * (h + 8) * 16), t = heap.f32(tile, tw * (h + 8) * 4);
  for (let y = -4; y < h + 4; y++) for (let x = -4; x < w + 4; x++) { const k = (Math.min(h - 1, Math.max(0, y)) * w + Math.min(w - 1, Math.max(0, x))) * 3, o = ((y + 4) * tw + x + 4) * 4; for (let c = 0; c < 3; c++) t[o + c] = rgb[k + c]!; t[o + 3] = 1; }
  const gap = 8, n = 20, nodes = [[-2, 1, 1], [4, 2, 1.2], [9, 8, 0.8], [14, 8.5, 1]], gains = [1, 2, 0.5], shares = noise(10), planes = n * 4 + 16, dst = heap.alloc(planes * 4);
  heap.k.warpRow(tile, -4, -4, tw, w, h, heap.put(nodes.flatMap((p) => [...p, 0])), gap, n, heap.put(gains), heap.put(shares), 0.3, 0.4, dst, planes);
  for (let i = 0; i < n; i++) {
    const k = Math.floor(i / gap), f = ((i % gap) + 0.5) / gap, [x, y, shade] = [0, 1, 2].map((q) => nodes[k]![q]! + (nodes[k + 1]![q]! - nodes[k]![q]!) * f) as [number, number, number];
    const inside = x >= 0 && x <= w && y >= 0 && y <= h, u = 0.3 + i * 0.4, cell = Math.floor(u), share = shares[cell]! + (shares[cell + 1]! - shares[cell]!) * (u - cell);
    expect(heap.f32(dst + 3 * planes, n)[i]).toBeCloseTo(inside ? share : 0, 5);
    if (inside) twin.bicubic(rgb, w, h, x, y).forEach((v, c) => expect(heap.f32(dst + c * planes, n)[i]).toBeCloseTo(Math.sqrt(Math.max(0, v) * gains[c]! * shade), 3));
  }
});

test("squares of what is covered, and likenesses of one description with many", () => {
  const n = 13, own = noise(n, -1, 2), weights = noise(n).map((v) => (v < 0.4 ? 0 : v)), dst = heap.alloc(n * 4);
  heap.k.coveredSquares(heap.put(own), heap.put(weights), n, dst);
  expect(worst(heap.f32(dst, n), own.map((v, i) => (weights[i]! > 1e-3 ? Math.max(0, v) ** 2 : 0)))).toBeLessThan(1e-6);
  heap.k.coveredSquares(0, heap.put(weights), n, dst);
  expect([...heap.f32(dst, n)]).toEqual([...weights].map((v) => (v > 1e-3 ? 1 : 0)));
  const a = noise(16, -1, 1), all = noise(16 * 5, -1, 1), at = heap.alloc(5 * 4);
  heap.k.likenesses(heap.put(a), heap.put(all), 16, 5, at);
  expect(worst(heap.f32(at, 5), Float32Array.from({ length: 5 }, (_, j) => a.reduce((s, v, k) => s + v * all[j * 16 + k]!, 0)))).toBeLessThan(1e-5);
});

test("a row is added where its frame is the nearest in depth", () => {
  const n = 9, rgb = Uint16Array.from({ length: n * 3 }, () => rnd() * 65536), src = heap.alloc(n * 6 + 64), depth = noise(n, 1, 5), planes = 64, dst = heap.alloc(planes * 4);
  heap.u16(src, n * 3).set(rgb);
  heap.f32(dst, 64).fill(0);
  for (const k of [2, 3]) heap.k.addAlongDepth(src, n, heap.put(depth), k, dst, planes);
  for (let i = 0; i < n; i++) {
    const w = [2, 3].reduce((s, k) => s + Math.max(0, 1 - Math.abs(depth[i]! - k)), 0);
    expect(heap.f32(dst + 3 * planes, n)[i]).toBeCloseTo(w, 5);
    for (let c = 0; c < 3; c++) expect(heap.f32(dst + c * planes, n)[i]).toBeCloseTo((w * rgb[i * 3 + c]!) / 65535, 5);
  }
});

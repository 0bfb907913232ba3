import { heap, noise, rnd, worst } from "../tests/forKernels";
import * as twin from "./twins";

test.each([
  [40, 30],
  [7, 3],
  [2, 2],
  [1, 5],
])("weights of exposure fusion, %i x %i, in strips", (w, h) => {
  const mark = heap.mark();
  const n = w * h;
  const rgb = Uint16Array.from({ length: n * 3 }, () => rnd() * 65536);
  const src = heap.alloc(n * 6 + 64);
  const dst = heap.alloc(n * 4 + 64);
  const rows = heap.alloc((w + 8) * 12 + 64);
  heap.u16(src, n * 3).set(rgb);
  for (const [a, b] of [
    [0, h >> 1],
    [h >> 1, h],
  ] as const)
    if (b > a) heap.k.fusionWeights(src, w, h, a, b, rows, dst + a * w * 4);
  expect(worst(heap.f32(dst, n), twin.fusionWeights(rgb, w, h))).toBeLessThan(1e-5);
  heap.release(mark);
});

test("weights of 16 bit hold their value within 0.05 % over all that weights may be", () => {
  const n = 29;
  const weights = Float32Array.from({ length: n }, (_, i) => (1 + rnd()) * 2 ** (i * 2 - 57));
  const packed = heap.alloc(n * 2 + 64);
  const out = heap.alloc(n * 4 + 64);
  heap.k.packWeights(heap.put(Float32Array.of(...weights, 0, 0, 0)), n, packed);
  heap.k.unpackWeights(packed, n, out);
  heap.f32(out, n).forEach((v, i) => expect(Math.abs(v / weights[i]! - 1)).toBeLessThan(5e-4));
  heap.k.packWeights(heap.put(new Float32Array(8)), 8, packed);
  expect([...heap.u16(packed, 8)]).toEqual(Array(8).fill(0));
});

test("sRGB planes become light of another space, and what lies behind them stays", () => {
  const n = 37;
  const plane = n * 4 + 64;
  const at = heap.alloc(plane * 3);
  const values = Float32Array.from({ length: n }, (_, i) => i / 30 - 0.1);
  const m = Float32Array.of(0.6, 0.3, 0.1, 0.1, 0.8, 0.1, 0, 0.2, 0.8);
  const light = (v: number): number => {
    const u = Math.min(1, Math.max(0, v));
    return u <= 0.04045 ? u / 12.92 : ((u + 0.055) / 1.055) ** 2.4;
  };
  const rgb = [values, values.map((v) => 1 - v), values.map((v) => v * v)];
  rgb.forEach((v, c) => {
    heap.f32(at + c * plane, n + 1).set(v);
    heap.f32(at + c * plane, n + 1)[n] = 7;
  });
  heap.k.toScene(at, plane, n, heap.put(m));
  for (const c of [0, 1, 2]) {
    expect(
      worst(
        heap.f32(at + c * plane, n),
        values.map((_, i) => [0, 1, 2].reduce((s, k) => s + m[c * 3 + k]! * light(rgb[k]![i]!), 0)),
      ),
    ).toBeLessThan(1e-5);
    expect(heap.f32(at + c * plane, n + 1)[n]).toBe(7);
  }
});

test("squares, their roots, and a mix by trust where there is weight", () => {
  const n = 37;
  const own = noise(n, -0.2, 1.2);
  const sum = noise(n, 0, 2);
  const weight = noise(n).map((v) => (v < 0.3 ? 0 : v));
  const trust = noise(n, -0.2, 1.2);
  const unit = (v: number): number => Math.min(1, Math.max(0, v));
  const dst = heap.alloc(n * 4 + 64);
  heap.k.squares(heap.put(own), n, dst);
  expect(
    worst(
      heap.f32(dst, n),
      own.map((v) => v * v),
    ),
  ).toBeLessThan(1e-6);
  heap.f32(dst, n)[5] = -1e-9;
  heap.k.roots(dst, n);
  expect(
    worst(
      heap.f32(dst, n),
      own.map((v, i) => (i === 5 ? 0 : Math.abs(v))),
    ),
  ).toBeLessThan(1e-6);
  for (const trusted of [true, false]) {
    const to = heap.put(own);
    heap.k.mixByTrust(to, heap.put(sum), heap.put(weight), trusted ? heap.put(trust) : 0, n);
    expect(
      worst(
        heap.f32(to, n),
        own.map((v, i) => {
          const t = trusted ? unit(trust[i]!) : 1;
          return weight[i]! > 0.01 ? unit(v) * (1 - t) + (sum[i]! / weight[i]!) * t : unit(v);
        }),
      ),
    ).toBeLessThan(1e-5);
  }
});

test("sums, products, shares and channels of planes", () => {
  const mark = heap.mark();
  const n = 37;
  const a = noise(n);
  const b = noise(n, 0.5, 2);
  const acc = noise(n);
  const pa = heap.put(a);
  const pb = heap.put(b);
  const pc = heap.put(acc);
  heap.k.addProduct(pa, pb, n, pc);
  expect(
    worst(
      heap.f32(pc, n),
      acc.map((v, i) => v + a[i]! * b[i]!),
    ),
  ).toBeLessThan(1e-6);
  heap.k.addPlane(pa, n, pc);
  expect(
    worst(
      heap.f32(pc, n),
      acc.map((v, i) => v + a[i]! * b[i]! + a[i]!),
    ),
  ).toBeLessThan(1e-6);
  heap.k.divideBy(pa, pb, n);
  expect(
    worst(
      heap.f32(pa, n),
      a.map((v, i) => v / b[i]!),
    ),
  ).toBeLessThan(1e-6);
  const rgb = Uint16Array.from({ length: 30 }, (_, i) => i * 2000);
  const src = heap.alloc(60);
  const out = heap.alloc(40);
  heap.u16(src, 30).set(rgb);
  heap.k.channelOf(src, 10, 1, out);
  expect(
    worst(
      heap.f32(out, 10),
      Float32Array.from({ length: 10 }, (_, i) => rgb[i * 3 + 1]! / 65535),
    ),
  ).toBeLessThan(1e-6);
  heap.release(mark);
});

test.each([1, 4, 7, 16])(
  "%i samples are packed to 16 bit, what lies outside is black, and what follows is left alone",
  (n) => {
    const px = noise(n * 4 + 8).map((v, i) =>
      i % 4 === 3 ? (i % 12 === 3 ? -1 : 1) : v * 1.2 - 0.1,
    );
    const dst = heap.alloc(n * 6 + 64);
    heap.u16(dst, n * 3 + 1).fill(7);
    heap.k.packRow(heap.put(px), n, 1, dst);
    const out = heap.u16(dst, n * 3 + 1);
    for (let i = 0; i < n * 3; i++) {
      const p = Math.floor(i / 3) * 4;
      expect(
        Math.abs(
          out[i]! - (px[p + 3]! < 0 ? 0 : 65535 * Math.min(1, Math.max(0, px[p + (i % 3)]!))),
        ),
      ).toBeLessThan(0.51);
    }
    expect(out[n * 3]).toBe(7);
  },
);

test("the sharper of two planes is taken sample by sample", () => {
  const n = 23;
  const [e, best, src, dst] = [noise(n), noise(n), noise(n), noise(n)];
  const at = heap.put(dst);
  const top = heap.put(best);
  heap.k.takeWhere(heap.put(e), top, heap.put(src), n, at);
  expect([...heap.f32(at, n)]).toEqual([...dst.map((v, i) => (e[i]! > best[i]! ? src[i]! : v))]);
  heap.k.maxPlane(heap.put(e), n, top);
  expect([...heap.f32(top, n)]).toEqual([...best.map((v, i) => Math.max(v, e[i]!))]);
});

test("squares of what is covered", () => {
  const n = 13;
  const own = noise(n, -1, 2);
  const weights = noise(n).map((v) => (v < 0.4 ? 0 : v));
  const dst = heap.alloc(n * 4);
  heap.k.coveredSquares(heap.put(own), heap.put(weights), n, dst);
  expect(
    worst(
      heap.f32(dst, n),
      own.map((v, i) => (weights[i]! > 1e-3 ? Math.max(0, v) ** 2 : 0)),
    ),
  ).toBeLessThan(1e-6);
  heap.k.coveredSquares(0, heap.put(weights), n, dst);
  expect([...heap.f32(dst, n)]).toEqual([...weights].map((v) => (v > 1e-3 ? 1 : 0)));
});

test("the vector most alike one of many, the product of the second, and which of those came nearest to each so far", () => {
  const size = 16;
  const count = 7;
  const all = noise(size * count, -1, 1);
  const at = heap.put(all);
  const bests = heap.alloc(count * 4);
  const likenesses = heap.alloc(count * 4);
  const out = heap.alloc(16);
  heap.i32(bests, count).fill(-1);
  heap.f32(likenesses, count).fill(-2);
  const vectors = [0, 1, 2, 3].map(() => noise(size, -0.5, 0.5));
  const products = vectors.map((v) =>
    Array.from({ length: count }, (_, j) => v.reduce((s, x, k) => s + x * all[j * size + k]!, 0)),
  );
  vectors.forEach((v, i) => {
    heap.k.nearestTwo(heap.put(v), at, size, count, i, bests, likenesses, out);
    const sorted = [...products[i]!].sort((a, b) => b - a);
    expect(heap.f32(out, 2)[0]).toBeCloseTo(sorted[0]!, 5);
    expect(heap.f32(out, 2)[1]).toBeCloseTo(sorted[1]!, 5);
    expect(heap.i32(out + 8, 1)[0]).toBe(products[i]!.indexOf(sorted[0]!));
  });
  for (let j = 0; j < count; j++) {
    const best = Math.max(...products.map((p) => p[j]!));
    expect(heap.f32(likenesses, count)[j]).toBeCloseTo(best, 5);
    expect(heap.i32(bests, count)[j]).toBe(products.findIndex((p) => p[j] === best));
  }
  heap.k.nearestTwo(at, at, size, 0, 0, bests, likenesses, out);
  expect(heap.i32(out + 8, 1)[0]).toBe(-1);
});

test("a row is added where its frame is the nearest in depth", () => {
  const n = 9;
  const rgb = Uint16Array.from({ length: n * 3 }, () => rnd() * 65536);
  const src = heap.alloc(n * 6 + 64);
  const depth = noise(n, 1, 5);
  const planes = 64;
  const dst = heap.alloc(planes * 4);
  heap.u16(src, n * 3).set(rgb);
  heap.f32(dst, 64).fill(0);
  for (const k of [2, 3]) heap.k.addAlongDepth(src, n, heap.put(depth), k, dst, planes);
  for (let i = 0; i < n; i++) {
    const w = [2, 3].reduce(
      (s, k) => s + Math.min(1, Math.max(0, 1.5 - 2 * Math.abs(depth[i]! - k))),
      0,
    );
    expect(heap.f32(dst + 3 * planes, n)[i]).toBeCloseTo(w, 5);
    for (let c = 0; c < 3; c++)
      expect(heap.f32(dst + c * planes, n)[i]).toBeCloseTo((w * rgb[i * 3 + c]!) / 65535, 5);
  }
});

test("of planes that come one after another, what lies before and after the best is noted", () => {
  const n = 11;
  const count = 6;
  const planes = Array.from({ length: count }, () => noise(n, 0.1, 1));
  const [best, last, lower, upper] = [0, 1, 2, 3].map(() => {
    const at = heap.alloc(n * 4 + 64);
    heap.k.zero(at, n * 4 + 64);
    return at;
  }) as [number, number, number, number];
  for (const p of planes) {
    const e = heap.alloc(n * 4 + 64);
    heap.f32(e, n).set(p);
    heap.k.notePeak(e, best, n, last, lower, upper);
    heap.k.maxPlane(e, n, best);
  }
  for (let i = 0; i < n; i++) {
    const own = planes.map((p) => p[i]!);
    const top = own.indexOf(Math.max(...own));
    expect(heap.f32(lower, n)[i]).toBe(own[top - 1] ?? 0);
    expect(heap.f32(upper, n)[i]).toBe(own[top + 1] ?? 0);
  }
});

test("floats are drawn into the range of the samples seen, channel by channel, and stay where none was seen", () => {
  const n = 11;
  const seen = 7;
  const frames = [0, 1, 2].map(() => Uint16Array.from({ length: n * 3 }, () => rnd() * 65536));
  const above = heap.alloc(n * 6 + 64);
  const below = heap.alloc(n * 6 + 64);
  const src = heap.alloc(n * 6 + 64);
  heap.k.zero(above, n * 6 + 64);
  heap.k.zero(below, n * 6 + 64);
  for (const f of frames) {
    heap.u16(src, n * 3).set(f);
    heap.k.widenRange(src, seen * 3, above, below);
  }
  for (let c = 0; c < 3; c++) {
    const plane = noise(n, -0.3, 1.3);
    const at = heap.alloc(n * 4 + 64);
    heap.f32(at, n).set(plane);
    heap.k.holdInRange(at, n, c, above, below);
    for (let i = 0; i < n; i++) {
      const own = frames.map((f) => f[i * 3 + c]! / 65535);
      const low = Math.min(...own);
      const high = Math.max(...own);
      expect(heap.f32(at, n)[i]).toBeCloseTo(
        i < seen ? Math.max(low, Math.min(high, plane[i]!)) : plane[i]!,
        6,
      );
    }
  }
});

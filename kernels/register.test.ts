import { heap, noise, worst } from "../tests/forKernels";
import * as twin from "./twins";

test.each([
  [
    "similarityEquations",
    (a: number, b: number, X: number, Y: number) => [a * X + b * Y, b * X - a * Y, a, b, 1],
  ],
  [
    "normalEquations",
    (a: number, b: number, X: number, Y: number) => [
      a * X,
      a * Y,
      a,
      b * X,
      b * Y,
      b,
      -X * (a * X + b * Y),
      -Y * (a * X + b * Y),
      1,
    ],
  ],
] as const)("%s", (name, row) => {
  const w = 60;
  const h = 41;
  const c = noise(w * h);
  const cw = noise(w * h);
  const l = noise(w * h);
  const lw = noise(w * h);
  const m = [1.01, 0.02, 1.5, -0.03, 0.99, -2, 1e-5, -2e-5, 1];
  const out = heap.alloc(80 * 8);
  const samples = heap.alloc(w * h * 32);
  const count = heap.k.selectSamples(heap.put(c), heap.put(cw), w, h, 0, 0, w, h, 1, 0, 0, samples);
  heap.k[name](samples, count, heap.put(l), heap.put(lw), w, h, heap.put(m, "f64"), 0.1, 0.3, out);
  const expected = twin.equations(c, cw, l, lw, w, h, m, 0.1, 0.3, row);
  const got = heap.f64(out, expected.length);
  expected.forEach((v, i) =>
    expect(Math.abs(got[i]! - v)).toBeLessThan(1e-3 * Math.max(1, Math.abs(v))),
  );
});

test("of each cell the sample of the steepest trusted slope is selected, and none of a flat one", () => {
  const w = 34;
  const h = 26;
  const c = noise(w * h);
  const cw = noise(w * h);
  const at = heap.alloc(w * h * 32);
  for (let y = 0; y < h; y++) c.fill(0.5, y * w, y * w + 14);
  const count = heap.k.selectSamples(heap.put(c), heap.put(cw), w, h, 0, 0, w, h, 4, 0, 0, at);
  const steep = (x: number, y: number): number =>
    twin.slopeConfidence(cw, w, y * w + x) *
    (Math.abs(c[y * w + x + 1]! - c[y * w + x - 1]!) +
      Math.abs(c[(y + 1) * w + x]! - c[(y - 1) * w + x]!));
  const found = Array.from({ length: count }, (_, i) => [...heap.f32(at + i * 32, 8)]);
  expect(found.every(([x]) => x! >= 13)).toBe(true);
  expect(count).toBeGreaterThanOrEqual(30);
  for (const [x, y, value, confidence] of found) {
    expect(value).toBe(c[y! * w + x!]);
    expect(confidence).toBe(cw[y! * w + x!]);
    const x0 = x! - ((x! - 1) % 4);
    const y0 = y! - ((y! - 1) % 4);
    for (let j = y0; j < Math.min(h - 1, y0 + 4); j++)
      for (let i = x0; i < Math.min(w - 1, x0 + 4); i++)
        if (twin.slopeConfidence(cw, w, j * w + i) >= 0.01)
          expect(steep(i, j)).toBeLessThanOrEqual(steep(x!, y!) + 1e-6);
  }
});

test("no slope across the border of two blocks is taken where a file has blocks", () => {
  const w = 66;
  const h = 50;
  const at = heap.alloc(w * h * 64);
  const c = heap.put(noise(w * h));
  const cw = heap.put(noise(w * h, 0.5, 1));
  for (const block of [8, 4])
    for (const middles of [0, 1]) {
      const count = heap.k.selectSamples(c, cw, w, h, 0, 0, w, h, 6, middles, block, at);
      expect(count).toBeGreaterThan(60);
      for (let i = 0; i < count; i++)
        for (const place of heap.f32(at + i * 32, 2))
          expect([0, block - 1]).not.toContain(place % block);
    }
});

test("log radiance of a row, and its confidences", () => {
  const n = 50;
  const steps = 1024;
  const px = noise(n * 4, 0, 1.3);
  const logs = noise(steps + 2);
  const confidences = noise(steps + 2);
  const log = heap.alloc(n * 4);
  const confidence = heap.alloc(n * 4);
  heap.k.logRow(
    heap.put(px),
    n,
    heap.put(logs),
    heap.put(confidences),
    steps,
    1.5,
    log,
    confidence,
  );
  for (let i = 0; i < n; i++) {
    const t = Math.min(
      steps + 1,
      Math.round(
        Math.sqrt(0.25 * px[i * 4]! + 0.5 * px[i * 4 + 1]! + 0.25 * px[i * 4 + 2]!) * steps,
      ),
    );
    expect(heap.f32(log, n)[i]).toBeCloseTo(logs[t]! - 1.5, 5);
    expect(heap.f32(confidence, n)[i]).toBeCloseTo(px[i * 4 + 3]! * confidences[t]!, 5);
  }
});

test("adding to a merge of log radiance, with and without ghosts", () => {
  const w = 33;
  const h = 21;
  const c = noise(w * h, -4, 2);
  const cv = noise(w * h);
  const l = noise(w * h, -4, 2);
  const lv = noise(w * h).map((v) => (v < 0.3 ? 0 : v));
  const m = [1.01, 0.04, -1.2, -0.02, 0.98, 0.7, 0, 1e-4, 1];
  const [pc, pv] = [heap.put(c), heap.put(cv)];
  const expected = twin.foldLog(c, cv, l, lv, w, h, m, 0.2);
  const args = [heap.put(l), heap.put(lv), w, h, heap.put(m, "f64"), 0.2] as const;
  heap.k.foldLog(pc, pv, ...args, 0, 1, 1, 1);
  expect(worst(heap.f32(pc, w * h), expected.c)).toBeLessThan(1e-4);
  expect(worst(heap.f32(pv, w * h), expected.cv)).toBeLessThan(1e-5);
  heap.f32(pc, w * h).set(c);
  heap.k.foldLog(pc, heap.put(cv), ...args, heap.putBytes(new Uint8Array(17 * 11)), 17, 11, 2);
  expect([...heap.f32(pc, w * h)]).toEqual([...c]);
});

test("an image agrees with itself, and a thing that is not in the merge stands out by what noise allows", () => {
  const w = 64;
  const h = 48;
  const gw = w / 2;
  const c = noise(w * h, -3, -2.9);
  const l = c.slice();
  const confidence = new Float32Array(w * h).fill(0.8);
  const score = heap.alloc(gw * (h / 2) * 4);
  for (let y = 20; y < 30; y++) for (let x = 30; x < 44; x++) l[y * w + x]! += 1;
  heap.k.disagreement(
    heap.put(c),
    heap.put(confidence),
    heap.put(l),
    heap.put(confidence),
    w,
    h,
    heap.put([1, 0, 0, 0, 1, 0, 0, 0, 1], "f64"),
    0,
    0,
    0.0025,
    -0.25,
    0.3,
    0,
    0,
    0,
    0,
    score,
  );
  const s = heap.f32(score, gw * (h / 2));
  const allowed = Math.sqrt(0.0025 / 0.8 + 0.0036);
  for (let y = 1; y < 23; y++)
    for (let x = 1; x < 31; x++) {
      const inside = x >= 15 && x < 22 && y >= 10 && y < 15;
      if (inside) {
        expect(s[y * gw + x]!).toBeLessThanOrEqual(1.01 / allowed);
        expect(s[y * gw + x]!).toBeGreaterThan(0.99 / (allowed + 0.03));
      } else expect(s[y * gw + x]).toBeLessThan(1e-3);
    }
});

test("what a lossy file rings beside a bright edge, and a reduced sample that is partly clipped, are not taken for movement", () => {
  const w = 64;
  const h = 48;
  const gw = w / 2;
  const n = w * h;
  const score = heap.alloc(gw * (h / 2) * 4);
  const I = heap.put([1, 0, 0, 0, 1, 0, 0, 0, 1], "f64");
  const confidence = new Float32Array(n).fill(0.8);
  const ask = (
    c: Float32Array,
    l: Float32Array,
    lv: Float32Array,
    reduced: number,
    ringing: number,
  ): Float32Array => {
    const blocks = [c, l].map((p) => {
      const at = heap.alloc(48 * 4);
      heap.k.brightest(heap.put(p), w, h, at);
      return at;
    }) as [number, number];
    heap.k.disagreement(
      heap.put(c),
      heap.put(confidence),
      heap.put(l),
      heap.put(lv),
      w,
      h,
      I,
      0,
      0,
      0.0025,
      -0.25,
      0.1,
      reduced,
      ringing,
      ...blocks,
      score,
    );
    return heap.f32(score, gw * (h / 2)).slice();
  };
  // a dark wall right of a lit one, their edge within a block; in the frame the dark errs by two
  // thirds of a stop beside it
  const c = Float32Array.from({ length: n }, (_, i) => (i % w < 28 ? -0.6 : -6));
  const l = c.map((v, i) => (i % w >= 28 && i % w < 32 ? v + 0.65 : v));
  const plain = ask(c, l, confidence, 0, 0)[10 * gw + 15]!;
  const lossy = ask(c, l, confidence, 0, 0.02);
  expect(plain).toBeGreaterThan(5);
  expect(lossy[10 * gw + 15]).toBeLessThan(1.3);
  // and far from the edge it is as before
  const moved = l.map((v, i) => (i % w > 44 && i % w < 52 ? v + 0.65 : v));
  expect(ask(c, moved, confidence, 0, 0.02)[10 * gw + 24]).toBeGreaterThan(5);
  // beside clipped light a reduced frame may be too dark, and only that
  const bright = Float32Array.from({ length: n }, (_, i) =>
    i % w < 28 ? 1 : i % w < 30 ? -0.5 : -3,
  );
  const frame = bright.map((v, i) => (i % w < 28 ? 0 : i % w < 30 ? -1.5 : v));
  const known = Float32Array.from({ length: n }, (_, i) => (i % w < 28 ? 0 : 0.8));
  expect(ask(bright, frame, known, 1, 0)[10 * gw + 14]).toBe(-1);
  expect(ask(bright, frame, known, 0, 0)[10 * gw + 14]).toBeGreaterThan(1.3);
  const brighter = frame.map((v, i) => (i % w >= 28 && i % w < 30 ? 0.5 : v));
  expect(ask(bright, brighter, known, 1, 0)[10 * gw + 14]).toBeGreaterThan(1.3);
});

test("the shift under which turned samples differ least is found, the smallest of equals", () => {
  const w = 40;
  const h = 30;
  const n = w * h;
  const c = noise(n);
  const cw = noise(n).map((v) => 0.3 + 0.7 * Math.abs(v));
  const dx = 3;
  const dy = -2;
  const l = new Float32Array(n);
  const places: number[] = [];
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const X = x - dx;
      const Y = y - dy;
      l[y * w + x] = X >= 0 && Y >= 0 && X < w && Y < h ? c[Y * w + X]! : 0;
      if (x % 3 === 1 && y % 2) places.push(y * w + x);
    }
  const whole = (list: number[]): number => {
    const at = heap.alloc(list.length * 4);
    heap.i32(at, list.length).set(list);
    return at;
  };
  const best = heap.put([Infinity, 0, 0], "f64");
  const planes = [
    heap.put(c),
    heap.put(cw),
    heap.put(l),
    heap.put(new Float32Array(n).fill(0.8)),
  ] as const;
  const search = (rolled: number): number =>
    heap.k.bestShift(
      whole(places),
      whole(places.map((i) => i % w)),
      whole(places.map((i) => Math.floor(i / w))),
      places.length,
      ...planes,
      w,
      h,
      5,
      rolled,
      best,
    );
  expect(search(0)).toBe(1);
  expect([...heap.f64(best, 3)]).toEqual([expect.closeTo(1e-4 * Math.hypot(dx, dy), 6), dx, dy]);
  // the same with more roll is no better
  expect(search(1)).toBe(0);
  expect([...heap.f64(best, 3)].slice(1)).toEqual([dx, dy]);
  // flat pictures fit everywhere, and nothing moves
  heap.f64(best, 3).set([Infinity, 9, 9]);
  heap.f32(planes[0], n).fill(0.5);
  heap.f32(planes[2], n).fill(0.5);
  search(0);
  expect([...heap.f64(best, 3)]).toEqual([0, 0, 0]);
});

import { tapWeights } from "../core/raster/sampling";
import { heap, noise, rnd, worst } from "../tests/forKernels";
import { SAMPLE_KIND, type SampleType } from "./heap";
import * as twin from "./twins";

test.each([
  [8, 40],
  [8, 37],
  [4, 37],
  [2, 9],
  [1, 5],
])(
  "blocks of %i px that hold a clipped sample, over a row of %i, and the confidences they take",
  (size, w) => {
    const rows = size;
    const count = Math.ceil(w / size);
    const bytes = Uint8Array.from({ length: w * rows * 3 }, () => 200);
    const flags = heap.alloc(count + 16);
    const src = heap.alloc(w * rows * 3 + 64);
    const clipped = [w - 1, Math.floor(w / 2)];
    for (const x of clipped) bytes[((rows - 1) * w + x) * 3 + 1] = 251;
    heap.u8(src, bytes.length).set(bytes);
    heap.k.clippedBlocks(src, w * 3, w, rows, size, 250, flags);
    const want = Array.from({ length: count }, (_, b) =>
      clipped.some((x) => Math.floor(x / size) === b) ? 1 : 0,
    );
    expect([...heap.u8(flags, count)]).toEqual(want);
    const px = Float32Array.from({ length: w * 4 }, (_, i) =>
      i % 4 === 3 ? 1 : (i >> 2) % 2 ? 0.7 : 0.3,
    );
    const first = Math.min(3, w - 1);
    const row = heap.put(px.subarray(first * 4));
    heap.k.doubtBlocks(row, w - first, first, size, flags);
    for (let x = first; x < w; x++)
      expect(heap.f32(row + (x - first) * 16 + 12, 1)[0]).toBe(
        want[Math.floor(x / size)] && x % 2 ? 0 : 1,
      );
  },
);

/** So much noise, as the variance of a sample, that the steepness of the picture says nothing. */
const NOISY = [0, 1e9] as const;

describe("nearly upright mappings, sampled across and then down", () => {
  const w = 61;
  const h = 47;
  const a = 0.02;
  const m = [
    1.004 * Math.cos(a),
    -1.004 * Math.sin(a),
    2.3,
    1.004 * Math.sin(a),
    1.004 * Math.cos(a),
    -1.7,
    0,
    0,
    1,
  ];
  const pad = 8;
  const W = w + 2 * pad;
  const H = h + 2 * pad;
  const clipped = (x: number, y: number): boolean => x > 30 && x < 36 && y > 20 && y < 25;
  const light = (x: number, y: number, c: number): number =>
    clipped(x, y) ? 1 : 0.4 + 0.3 * Math.sin((x + 3 * c) / 5) * Math.cos(y / 6);
  const fill = (): number => {
    const tile = heap.alloc(W * H * 16 + 64);
    for (let y = 0; y < H; y++)
      for (let x = 0; x < W; x++) {
        const u = Math.min(w - 1, Math.max(0, x - pad));
        const v = Math.min(h - 1, Math.max(0, y - pad));
        heap
          .f32(tile + (y * W + x) * 16, 4)
          .set([light(u, v, 0), light(u, v, 1), light(u, v, 2), clipped(u, v) ? 0 : 1]);
      }
    heap.k.erodeValidity(tile, W, H, ...NOISY, heap.alloc(7 * (W + 8) * 4));
    return tile;
  };
  test("give the same bytes as one by one, the picture, and no weight near what is clipped", () => {
    const mark = heap.mark();
    const tile = fill();
    const at = heap.put(m, "f64");
    const block = heap.alloc(H * w * 16 + 64);
    const one = heap.alloc(w * 16 + 64);
    const two = heap.alloc(w * 16 + 64);
    expect([
      heap.k.isUpright(at),
      heap.k.isUpright(heap.put([0, -1, 9, 1, 0, 0, 0, 0, 1], "f64")),
      heap.k.isUpright(heap.put([1, 0, 0, 0, 1, 0, 1e-5, 0, 1], "f64")),
    ]).toEqual([1, 0, 0]);
    heap.k.acrossTile(tile, -pad, -pad, W, H, 0, w, at, block);
    let outside = 0;
    for (let y = 0; y < h; y++) {
      heap.k.resampleBicubic(tile, -pad, -pad, W, w, h, y, 0, w, at, one);
      for (const [x, n] of [
        [0, 20],
        [20, w - 20],
      ] as const)
        heap.k.downRow(block, 0, -pad, w, w, h, y, x, n, at, two + x * 16);
      expect(worst(heap.f32(one, w * 4), heap.f32(two, w * 4))).toBe(0);
      for (let x = 0; x < w; x++) {
        const u = m[0]! * (x + 0.5) + m[1]! * (y + 0.5) + m[2]!;
        const v = m[3]! * (x + 0.5) + m[4]! * (y + 0.5) + m[5]!;
        const got = heap.f32(one + x * 16, 4);
        const far = Math.max(30.5 - u, u - 36.5, 20.5 - v, v - 25.5) > 4;
        if (u < 0 || v < 0 || u > w || v > h) {
          outside++;
          expect([...got]).toEqual([0, 0, 0, -1]);
        } else if (u > 31.5 && u < 35.5 && v > 21.5 && v < 24.5) expect(got[3]).toBe(0);
        else if (far && u > 3 && v > 3 && u < w - 3 && v < h - 3) {
          expect(got[3]).toBe(1);
          for (let c = 0; c < 3; c++) expect(got[c]).toBeCloseTo(light(u - 0.5, v - 0.5, c), 2);
        }
      }
    }
    expect(outside).toBeGreaterThan(0);
    heap.release(mark);
  });
});

test("what a sample between others may say: less where the picture is steep, as much as its noise where it is even, nothing next to what is clipped", () => {
  const w = 23;
  const h = 12;
  const tile = heap.alloc(w * h * 16);
  const at = heap.f32(tile, w * h * 4);
  const invGain = 1 / 20000;
  const read2 = 1e-6;
  // a wall, from column 12 on a window four times as bright, from row 9 on a clipped lamp
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++)
      at.set(y < 9 ? [...Array(3).fill(x < 12 ? 0.1 : 0.4), 1] : [1, 1, 1, 0], (y * w + x) * 4);
  heap.k.erodeValidity(tile, w, h, invGain, read2, heap.alloc(7 * (w + 8) * 4));
  const validity = (x: number, y: number): number => at[(y * w + x) * 4 + 3]!;
  const noise = 0.1 * invGain + read2;
  const beside = noise / (noise + (0.05 * 0.3) ** 2);
  // the step lies between columns 11 and 12, and the kernel between i and i + 1 touches i - 1 to i
  // + 2
  expect([8, 9, 10].map((x) => validity(x, 4))).toEqual([
    1,
    expect.closeTo(beside, 4),
    expect.closeTo(beside, 4),
  ]);
  expect(validity(14, 4)).toBe(1);
  expect(validity(4, 8)).toBeCloseTo(noise / (noise + (0.05 * 0.9) ** 2), 4);
  expect([validity(4, 7), validity(4, 9), validity(18, 10)]).toEqual([1, 0, 0]);
});

describe("a frame that moved", () => {
  const w = 40;
  const h = 30;
  const m = [0.99, 0.03, 2.3, -0.03, 0.99, 1.6, 1e-5, 0, 1];
  const at = heap.put(m, "f64");
  /** samples linearised into a tile with three repeated on every side */
  const tileOf = (src: number, type: SampleType, lut: Float32Array): number => {
    const tile = heap.alloc((w + 6) * (h + 6) * 16 + 64);
    const at = heap.f32(tile, (w + 6) * (h + 6) * 4);
    const clampTo = (v: number, hi: number): number => Math.max(0, Math.min(hi, v - 3));
    const own = heap.alloc(w * h * 16);
    heap.k.linearise(src, SAMPLE_KIND[type], w * h, heap.putTables(lut, type), own);
    for (let y = 0; y < h + 6; y++)
      for (let x = 0; x < w + 6; x++)
        at.set(
          heap.f32(own + (clampTo(y, h - 1) * w + clampTo(x, w - 1)) * 16, 4),
          (y * (w + 6) + x) * 4,
        );
    heap.k.erodeValidity(tile, w + 6, h + 6, ...NOISY, heap.alloc(7 * (w + 14) * 4));
    return tile;
  };
  const source = (x: number, y: number): [number, number] => {
    const z = m[6]! * x + m[7]! * y + 1;
    return [(m[0]! * x + m[1]! * y + m[2]!) / z, (m[3]! * x + m[4]! * y + m[5]!) / z];
  };
  test.each([
    ["u8", 255, 3e-6],
    ["u16", 65535, 3e-6],
    ["f32", 1, 3e-6],
  ] as const)("is the bicubic sample of its linear values, %s", (type, top, close) => {
    const size = type === "u16" ? 65536 : 256;
    const lut =
      type === "f32"
        ? new Float32Array(0)
        : Float32Array.from({ length: size * 3 }, (_, i) => ((i % size) / (size - 1)) ** 2.2);
    const samples = Array.from({ length: w * h * 3 }, () => {
      const v = (0.1 + rnd() * 0.6) * top;
      return type === "f32" ? v : Math.round(v);
    });
    const src = heap.alloc(w * h * 12);
    const row = heap.alloc(w * 16);
    heap.samples(src, type, w * h * 3).set(samples);
    const tile = tileOf(src, type, lut);
    const linear =
      type === "f32"
        ? Float32Array.from(samples)
        : Float32Array.from(samples, (v, i) => lut[(i % 3) * size + v]!);
    for (let y = 0; y < h; y++) {
      heap.k.resampleBicubic(tile, -3, -3, w + 6, w, h, y, 0, w, at, row);
      for (let x = 0; x < w; x++) {
        const got = heap.f32(row + x * 16, 4);
        const [u, v] = source(x + 0.5, y + 0.5);
        if (u < 0 || v < 0 || u > w || v > h) expect([...got]).toEqual([0, 0, 0, -1]);
        else
          expect(
            worst(
              got,
              twin.bicubic(linear, w, h, u, v).map((c) => Math.max(0, c)),
            ),
          ).toBeLessThan(close);
      }
    }
  });
  test.each([
    ["bilinear", (t: number) => Math.max(0, 1 - Math.abs(t))],
    [
      "lanczos3",
      (t: number) =>
        t === 0
          ? 1
          : Math.abs(t) >= 3
            ? 0
            : (3 * Math.sin(Math.PI * t) * Math.sin((Math.PI * t) / 3)) / (Math.PI * t) ** 2,
    ],
  ] as const)(
    "is its sample by a %s filter, and has no weight where what that touches is clipped",
    (sampling, filter) => {
      const lut = Float32Array.from({ length: 768 }, (_, i) => ((i % 256) / 255) ** 2.2);
      const src = heap.alloc(w * h * 3);
      const row = heap.alloc(w * 16);
      const weights = heap.put(tapWeights(sampling));
      const samples = Array.from({ length: w * h * 3 }, (_, i) =>
        Math.floor(i / 3) === 15 * w + 20 ? 255 : Math.round(30 + rnd() * 150),
      );
      heap.u8(src, w * h * 3).set(samples);
      const tile = tileOf(src, "u8", lut);
      const linear = Float32Array.from(samples, (v) => lut[v]!);
      let judged = 0;
      for (let y = 0; y < h; y++) {
        heap.k.resampleSix(tile, -3, -3, w + 6, w, h, y, 0, w, at, weights, row);
        for (let x = 0; x < w; x++) {
          const got = heap.f32(row + x * 16, 4);
          const [u, v] = source(x + 0.5, y + 0.5);
          const ix = Math.floor(u - 0.5);
          const iy = Math.floor(v - 0.5);
          if (u < 0 || v < 0 || u > w || v > h) expect([...got]).toEqual([0, 0, 0, -1]);
          else if (ix - 2 <= 20 && ix + 3 >= 20 && iy - 2 <= 15 && iy + 3 >= 15) {
            judged++;
            expect(got[3]).toBe(0);
          } else {
            expect(got[3]).toBe(1);
            expect(
              worst(
                got,
                twin.sampled(linear, w, h, u, v, 3, filter).map((c) => Math.max(0, c)),
              ),
            ).toBeLessThan(1e-5);
          }
        }
      }
      expect(judged).toBeGreaterThan(20);
    },
  );
  test.each(["bicubic", "lanczos3"] as const)(
    "draws no dark line beside a bright edge, and lets what is clipped keep the place of its border: %s",
    (sampling) => {
      // a wall beside a window a hundred times as bright, which another frame shows clipped
      const lut = Float32Array.from({ length: 768 }, (_, i) => ((i % 256) / 255) ** 2.2);
      const src = heap.alloc(w * h * 3);
      const row = heap.alloc(w * 16);
      const wall = lut[25]!;
      const show = (window: number, shift: number): Float32Array => {
        const mark = heap.mark();
        for (let k = 0; k < w * h; k++) heap.u8(src + k * 3, 3).fill(k % w < 20 ? 25 : window);
        const tile = tileOf(src, "u8", lut);
        const by = heap.put([1, 0, shift, 0, 1, 0, 0, 0, 1], "f64");
        if (sampling === "bicubic")
          heap.k.resampleBicubic(tile, -3, -3, w + 6, w, h, 15, 0, w, by, row);
        else
          heap.k.resampleSix(
            tile,
            -3,
            -3,
            w + 6,
            w,
            h,
            15,
            0,
            w,
            by,
            heap.put(tapWeights(sampling)),
            row,
          );
        heap.release(mark);
        return heap.f32(row, w * 4).slice();
      };
      for (let shift = 0; shift < 1; shift += 0.1) {
        for (let x = 8; x < 19; x++) expect(show(203, shift)[x * 4]! / wall).toBeGreaterThan(0.84);
        // the mean of what lies across the border tells where it is
        const clipped = show(255, shift);
        const seen = clipped
          .filter((_, i) => i % 4 === 0 && i >= 40 && i < 120)
          .reduce((s, v) => s + (v - wall) / (1 - wall), 0);
        expect(10 - seen).toBeCloseTo(-shift, 1);
      }
    },
  );
  test("has no weight where any of the sixteen taps is clipped", () => {
    const lut = Float32Array.from({ length: 768 }, (_, i) => (i % 256) / 255);
    const src = heap.alloc(w * h * 3);
    const row = heap.alloc(w * 16);
    heap.u8(src, w * h * 3).fill(90);
    heap.u8(src, w * h * 3).fill(255, (15 * w + 20) * 3, (15 * w + 21) * 3);
    const tile = tileOf(src, "u8", lut);
    for (let y = 4; y < h - 4; y++) {
      heap.k.resampleBicubic(tile, -3, -3, w + 6, w, h, y, 0, w, at, row);
      for (let x = 4; x < w - 4; x++) {
        const [u, v] = source(x + 0.5, y + 0.5);
        const ix = Math.floor(u - 0.5);
        const iy = Math.floor(v - 0.5);
        expect(heap.f32(row + x * 16 + 12, 1)[0]).toBe(
          ix - 1 <= 20 && ix + 2 >= 20 && iy - 1 <= 15 && iy + 2 >= 15 ? 0 : 1,
        );
      }
    }
  });
});

test.each([
  [1, 0],
  [3, 0],
  [4, 1],
  [37, 0],
  [38, 1],
])(
  "a row of %i samples adds to the sums, or begins them, and leaves its neighbours alone",
  (n, first) => {
    const plane = 256;
    const acc = heap.alloc(plane * 4);
    const row = heap.alloc((n + 6) * 16 + 32) + 16;
    const ghosts = noise(n);
    const px = noise((n + 6) * 4).map((v, i) => (i % 4 === 3 && v < 0.2 ? -1 : v));
    heap.f32(row - 16, px.length).set(px);
    heap.f32(acc, plane).fill(7);
    heap.k.foldRow(row, n, heap.put(ghosts), first, acc, plane, 8, 2, 1 / 20000, 1e-6, 1e-6);
    for (let i = 0; i < n; i++) {
      const o = (i + 1) * 4;
      const level = [-4, -3, -2, 0, 1, 2, 4, 5, 6].reduce((s, k) => s + px[o + k]!, 0) / 9;
      twin
        .foldSample(
          [px[o]!, px[o + 1]!, px[o + 2]!],
          px[o + 3]!,
          level,
          ghosts[i]!,
          2,
          1 / 20000,
          1e-6,
          1e-6,
        )
        .forEach((v, c) => {
          const got = heap.f32(acc + c * plane, 64)[2 + i]! - (first ? 0 : 7);
          expect(Math.abs(got - v)).toBeLessThan(1e-5 * Math.max(100, Math.abs(v)));
        });
    }
    for (let c = 0; c < 4; c++) {
      const p = heap.f32(acc + c * plane, 64);
      expect([p[1], p[2 + n]]).toEqual([7, 7]);
    }
  },
);

test("a further frame is worth its resampling only where its confidence counts", () => {
  const n = 100;
  const plane = 512;
  const acc = heap.alloc(plane * 4);
  const runs = heap.alloc(64);
  const time = 0.25;
  // radiance 0.1 held by a frame 16 times as long, but for samples 40 to 49, which nobody has seen
  // yet
  const confidence = 4 ** 2 / ((0.1 * 4) / 20000 + 1e-6);
  [0.1 * confidence, 0.1 * confidence, 0.1 * confidence, confidence].forEach((v, c) =>
    heap
      .f32(acc + c * plane, n)
      .fill(v)
      .fill(0, 40, 50),
  );
  const ends = (t: number): number[] => [
    ...new Int32Array(
      heap.memory.buffer,
      runs,
      2 * heap.k.worthwhileRuns(acc, plane, 0, n, t, 1 / 20000, 1e-6, runs),
    ),
  ];
  const share = (t: number): number => t ** 2 / ((0.1 * t) / 20000 + 1e-6) / confidence;
  expect([share(time) > 1 / 64, share(time / 4) > 1 / 64]).toEqual([true, false]);
  expect(ends(time)).toEqual([0, 100]);
  expect(ends(time / 4)).toEqual([32, 64]);
});

import { fromOklab, LMS_TO_WORKING, oklab, WORKING_TO_LMS } from "../core/finish/oklab";
import { hueTable } from "../core/finish/hueTable";
import { REST } from "../core/finish/adjustments";
import { heap, noise, worst } from "../tests/forKernels";
import * as twin from "./twins";

const N = 37;
const ROOM = 64;
const put = (values: ArrayLike<number>): number => {
  const at = heap.alloc(values.length * 4 + ROOM);
  heap.f32(at, values.length).set(values);
  return at;
};
const read = (at: number, n = N): Float32Array => heap.f32(at, n);
/** Rows of red, green and blue, so many bytes apart. */
const PLANE = 256;
function putRow(rows: readonly Float32Array[]): number {
  const at = heap.alloc(3 * PLANE + ROOM);
  rows.forEach((row, c) => heap.f32(at + c * PLANE, N).set(row));
  return at;
}
const row = (lo = 0, hi = 1): Float32Array[] => [0, 1, 2].map(() => noise(N, lo, hi));
const luma = (rgb: readonly number[]): number =>
  0.2627 * rgb[0]! + 0.678 * rgb[1]! + 0.0593 * rgb[2]!;
const smooth = (t: number): number => {
  const c = Math.min(1, Math.max(0, t));
  return c * c * (3 - 2 * c);
};

let mark: number;
beforeEach(() => {
  mark = heap.mark();
});
afterEach(() => heap.release(mark));

describe("what a part adds to the light of a row", () => {
  const light = noise(N, -9, 2);
  const mask = noise(N, 0, 1);
  const before = noise(N, -2, 2);

  test.each([true, false])("lines, planes, ramps and rings, masked: %s", (masked) => {
    const m = masked ? put(mask) : 0;
    const weight = (i: number): number => (masked ? mask[i]! : 1);
    const [slopes, offsets, plane] = [noise(N, -1, 1), noise(N, -2, 2), noise(N, -1, 1)];
    const after = (act: (ev: number) => void): Float32Array => {
      const ev = put(before);
      act(ev);
      return read(ev);
    };
    const lines = after((ev) => heap.k.addLines(put(light), put(slopes), put(offsets), m, N, ev));
    expect(
      worst(
        lines,
        before.map((v, i) => v + weight(i) * (slopes[i]! * light[i]! + offsets[i]!)),
      ),
    ).toBeLessThan(1e-5);
    const planes = after((ev) => heap.k.addMasked(put(plane), m, N, 0.7, ev));
    expect(
      worst(
        planes,
        before.map((v, i) => v + weight(i) * 0.7 * plane[i]!),
      ),
    ).toBeLessThan(1e-5);
    const ramp = after((ev) => heap.k.addRamp(m, N, -1, 0.05, ev));
    expect(
      worst(
        ramp,
        before.map((v, i) => v + weight(i) * (-1 + 0.05 * i)),
      ),
    ).toBeLessThan(1e-5);
    const ring = after((ev) => heap.k.addRadial(m, N, -2, -0.9, 0.05, 0.3, 0.4, 0.5, ev));
    expect(
      worst(
        ring,
        before.map(
          (v, i) => v - weight(i) * 2 * smooth((Math.hypot(-0.9 + 0.05 * i, 0.3) - 0.4) / 0.5),
        ),
      ),
    ).toBeLessThan(1e-4);
    const steep = after((ev) => heap.k.steepen(put(light), m, N, 1.4, -2.5, ev));
    expect(
      worst(
        steep,
        before.map((v, i) => v + weight(i) * 0.4 * (light[i]! + v + 2.5)),
      ),
    ).toBeLessThan(1e-4);
    const scaled = after((values) => heap.k.scaleMasked(m, N, 1.3, values));
    expect(
      worst(
        scaled,
        before.map((v, i) => v * (1 + weight(i) * 0.3)),
      ),
    ).toBeLessThan(1e-5);
  });

  test("a mask is its line in the light, held between 0 and 1", () => {
    const [slopes, offsets] = [noise(N, -0.5, 0.5), noise(N, -1, 2)];
    const to = heap.alloc(N * 4 + ROOM);
    heap.k.partMask(put(light), put(slopes), put(offsets), N, 0.8, to);
    expect(
      worst(
        read(to),
        light.map((l, i) => 0.8 * Math.min(1, Math.max(0, slopes[i]! * l + offsets[i]!))),
      ),
    ).toBeLessThan(1e-5);
  });
});

test("the light of a row is its log luminance, no lower than the least", () => {
  const rgb = row(0, 2);
  rgb[0]![3] = NaN;
  const to = heap.alloc(N * 4 + ROOM);
  heap.k.logLight(putRow(rgb), PLANE, N, 0.01, to);
  const expected = rgb[0]!.map((r, i) =>
    Math.log2(Math.max(0.01, luma([Number.isNaN(r) ? 0 : r, rgb[1]![i]!, rgb[2]![i]!]))),
  );
  expect(worst(read(to), expected)).toBeLessThan(1e-5);
});

test("rolling off goes by the lightest channel", () => {
  const rgb = row(0, 6);
  const at = putRow(rgb);
  heap.k.rollOff(at, PLANE, N, 0.7, 1.6);
  for (let i = 0; i < N; i++) {
    const want = twin.rolledOff(
      rgb.map((p) => p[i]!),
      0.7,
      1.6,
    );
    for (let c = 0; c < 3; c++) expect(read(at + c * PLANE)[i]).toBeCloseTo(want[c]!, 4);
  }
});

test("what noise reduction found comes in by luminance and by colour", () => {
  const [rgb, clean] = [row(), row()];
  for (const [l, c] of [
    [1, 1],
    [0, 0],
    [1, 0],
  ] as const) {
    const at = putRow(rgb);
    const strength = (v: number): number => put(new Float32Array(N).fill(v));
    heap.k.mixDenoised(at, PLANE, putRow(clean), PLANE, strength(l), strength(c), N);
    for (let i = 0; i < N; i++) {
      const own = rgb.map((p) => p[i]!);
      const found = clean.map((p) => p[i]!);
      const grey = luma(found) - luma(own);
      const want = own.map((v, k) => v + (l - c) * grey + c * (found[k]! - v));
      for (let k = 0; k < 3; k++) expect(read(at + k * PLANE)[i]).toBeCloseTo(want[k]!, 5);
    }
  }
});

test("colour: chroma by a factor in Oklab, hue and lightness as they were", () => {
  const rgb = row(0.05, 0.9);
  const at = putRow(rgb);
  const constants = [...WORKING_TO_LMS, ...LMS_TO_WORKING, 0.5, 0, 0, 0, 0, 0, 0, 0, 0];
  heap.k.colourRow(at, PLANE, 0, 0, N, put(constants), put(hueTable(REST)));
  for (let i = 0; i < N; i++) {
    const [L, a, b] = oklab(rgb.map((p) => p[i]!) as [number, number, number]);
    const want = fromOklab([L, a / 2, b / 2]);
    for (let c = 0; c < 3; c++) expect(read(at + c * PLANE)[i]).toBeCloseTo(want[c]!, 4);
  }
});

describe("blocks of cosine transforms", () => {
  const [W, H] = [29, 21];
  const n = W * H;
  const bytes = n * 4 + ROOM;

  test("with nothing taken out they are the picture, to the last row and column", () => {
    const planes = heap.alloc(bytes * 3);
    for (let c = 0; c < 3; c++) heap.f32(planes + c * bytes, n).set(noise(n));
    const sums = heap.alloc(bytes * 4);
    heap.k.zero(sums, bytes * 4);
    const sigma = put(new Float32Array(n).fill(1));
    heap.k.denoiseBlocks(planes, 0, bytes, sigma, W, H, 3, 0, 0, sums, heap.alloc(1024));
    heap.k.divideBlocks(sums, bytes, n);
    for (let c = 0; c < 3; c++)
      expect(worst(read(sums + c * bytes, n), read(planes + c * bytes, n))).toBeLessThan(1e-5);
  });

  test("the finest texture of white noise has its variance", () => {
    let sum = 0;
    const powers = heap.alloc(64);
    for (let i = 0; i < 300; i++) {
      const block = put(noise(64, -1, 1));
      heap.k.blockPowers(block, 32, heap.alloc(1024), powers);
      sum += heap.f32(powers, 1)[0]!;
      heap.release(mark);
    }
    // evenly spread from -1 to 1: a third
    expect(sum / 300).toBeCloseTo(1 / 3, 1);
  });

  test("light of even noise and back is the light", () => {
    const rgb = row(0, 2);
    const [stable, back] = [heap.alloc(3 * PLANE + ROOM), heap.alloc(3 * PLANE + ROOM)];
    heap.k.stabilise(putRow(rgb), PLANE, N, 1 / 4000, 1e-6, stable, PLANE);
    const none = put(new Float32Array(N));
    heap.k.unstabilise(stable, PLANE, N, 1 / 4000, 1e-6, none, back, PLANE);
    for (let c = 0; c < 3; c++) expect(worst(read(back + c * PLANE), rgb[c]!)).toBeLessThan(1e-4);
  });
});

test.each([
  [19, 11, 2],
  [5, 3, 4],
])("convolution and local range on %i x %i, taps to %i", (w, h, r) => {
  const n = w * h;
  const src = noise(n, -1, 1);
  const taps = noise(2 * r + 1, 0, 0.3);
  const [across, down, least, most] = [0, 0, 0, 0].map(() => heap.alloc(n * 4 + ROOM)) as [
    number,
    number,
    number,
    number,
  ];
  const at = put(src);
  heap.k.convolveDown(at, w, h, put(taps), r, down);
  heap.k.convolveAcross(at, w, h, put(taps), r, heap.alloc((w + 2 * r + 8) * 4), across);
  heap.k.localRange(at, w, h, heap.alloc(w * 8 + 256), least, most);
  const pixel = (x: number, y: number): number =>
    src[Math.min(h - 1, Math.max(0, y)) * w + Math.min(w - 1, Math.max(0, x))]!;
  const each = (of: (x: number, y: number) => number): Float32Array =>
    Float32Array.from({ length: n }, (_, i) => of(i % w, Math.floor(i / w)));
  const reach = [...taps.keys()];
  expect(
    worst(
      read(down, n),
      each((x, y) => reach.reduce((s, j) => s + taps[j]! * pixel(x, y + j - r), 0)),
    ),
  ).toBeLessThan(1e-5);
  expect(
    worst(
      read(across, n),
      each((x, y) => reach.reduce((s, j) => s + taps[j]! * pixel(x + j - r, y), 0)),
    ),
  ).toBeLessThan(1e-5);
  const around = (x: number, y: number): number[] =>
    [-1, 0, 1].flatMap((j) => [-1, 0, 1].map((i) => pixel(x + i, y + j)));
  expect(
    worst(
      read(least, n),
      each((x, y) => Math.min(...around(x, y))),
    ),
  ).toBe(0);
  expect(
    worst(
      read(most, n),
      each((x, y) => Math.max(...around(x, y))),
    ),
  ).toBe(0);
});

test("what sharpening and detail are held back by", () => {
  const [near, far, variance, noiseEv] = [
    noise(N, -1, 1),
    noise(N, -1, 1),
    noise(N, 0, 0.5),
    noise(N, 0, 0.3),
  ];
  const to = heap.alloc(N * 4 + ROOM);
  heap.k.heldDetail(put(near), put(far), put(variance), put(noiseEv), N, 0.22, to);
  expect(
    worst(
      read(to),
      near.map((v, i) => {
        const edge = 1 / (1 + (variance[i]! / 0.22 ** 2) ** 2);
        const signal = Math.max(0, variance[i]! - noiseEv[i]! ** 2);
        const held = signal / (signal + noiseEv[i]! ** 2 + 1e-12);
        return (v - far[i]!) * edge * held;
      }),
    ),
  ).toBeLessThan(1e-5);
  const ratio = noise(N, 0.1, 6);
  heap.k.sharpeningEv(put(ratio), put(variance), put(noiseEv), N, 0.02, to);
  expect(
    worst(
      read(to),
      ratio.map((v, i) => {
        const own = noiseEv[i]! ** 2;
        const signal = Math.max(0, variance[i]! - own);
        const strength = signal / (signal + own + 0.02 + 1e-7);
        return Math.log2(Math.min(4, Math.max(0.25, v))) * strength;
      }),
    ),
  ).toBeLessThan(1e-4);
});

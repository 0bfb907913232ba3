import { heap, noise } from "../tests/forKernels";
import * as twin from "./twins";

/** A picture as a tile whose first sample lies at -4, -4, its edge repeated. */
function tiled(rgb: Float32Array, w: number, h: number): { tile: number; tw: number } {
  const tw = w + 8;
  const tile = heap.alloc(tw * (h + 8) * 16);
  const t = heap.f32(tile, tw * (h + 8) * 4);
  for (let y = -4; y < h + 4; y++)
    for (let x = -4; x < w + 4; x++) {
      const k = (Math.min(h - 1, Math.max(0, y)) * w + Math.min(w - 1, Math.max(0, x))) * 3;
      const o = ((y + 4) * tw + x + 4) * 4;
      for (let c = 0; c < 3; c++) t[o + c] = rgb[k + c]!;
      t[o + 3] = 1;
    }
  return { tile, tw };
}

test.each([0, 1])(
  "rows warped onto a canvas: roots of evened light between nodes, bicubic or, where it may be soft (%i), bilinear, and outside the frame its edge without a share",
  (soft) => {
    const w = 12;
    const h = 9;
    const rgb = noise(w * h * 3);
    const { tile, tw } = tiled(rgb, w, h);
    const gap = 8;
    const n = 20;
    const down = 6;
    const rows = 5;
    const tops = [
      [-2, 1, 1],
      [4, 2, 1.2],
      [9, 8, 0.8],
      [14, 8.5, 1],
    ];
    const lows = [
      [-1, 3, 0.9],
      [5, 5, 1],
      [9, 9.5, 1.1],
      [13, 10, 1],
    ];
    const gains = [1, 2, 0.5];
    const line = n * 4 + 16;
    const planes = line * rows;
    const dst = heap.alloc(planes * 4);
    const put = (nodes: number[][]): number => heap.put(nodes.flatMap((p) => [...p, soft]));
    heap.f32(dst, planes).fill(0.7);
    heap.k.warpRows(
      tile,
      -4,
      -4,
      tw,
      w,
      h,
      put(tops),
      put(lows),
      gap,
      n,
      down,
      rows,
      heap.put(gains),
      dst,
      line,
      planes,
    );
    for (let r = 0; r < rows; r++)
      for (let i = 0; i < n; i++) {
        const k = Math.floor(i / gap);
        const f = ((i % gap) + 0.5) / gap;
        const t = (r + 0.5) / down;
        const [x, y, shade] = [0, 1, 2].map((q) => {
          const at = (j: number): number => tops[j]![q]! + (lows[j]![q]! - tops[j]![q]!) * t;
          return at(k) + (at(k + 1) - at(k)) * f;
        }) as [number, number, number];
        const here = (c: number): number => heap.f32(dst + c * planes + r * line, n)[i]!;
        const inside = x >= 0 && x <= w && y >= 0 && y <= h;
        expect(here(3)).toBeCloseTo(inside ? 0.7 : 0, 6);
        if (inside)
          (soft ? bilinear : twin.bicubic)(rgb, w, h, x, y).forEach((v, c) =>
            expect(here(c)).toBeCloseTo(Math.sqrt(Math.max(0, v) * gains[c]! * shade), 3),
          );
      }
  },
);

function bilinear(rgb: Float32Array, w: number, h: number, x: number, y: number): number[] {
  const px = x - 0.5;
  const py = y - 0.5;
  const i = Math.floor(px);
  const j = Math.floor(py);
  const fx = px - i;
  const fy = py - j;
  const at = (u: number, v: number, c: number): number =>
    rgb[(Math.min(h - 1, Math.max(0, v)) * w + Math.min(w - 1, Math.max(0, u))) * 3 + c]!;
  return [0, 1, 2].map(
    (c) =>
      (at(i, j, c) * (1 - fx) + at(i + 1, j, c) * fx) * (1 - fy) +
      (at(i, j + 1, c) * (1 - fx) + at(i + 1, j + 1, c) * fx) * fy,
  );
}

test("a column warped across and then down shows what rows show, also where it leans, bends, ends early and changes its light", () => {
  // waves, which every way of sampling agrees on
  const w = 60;
  const h = 80;
  const wave = (x: number, y: number, c: number): number =>
    0.5 + 0.2 * Math.sin(x / 5 + c) + 0.2 * Math.cos(y / 6 - c);
  const rgb = Float32Array.from({ length: w * h * 3 }, (_, k) =>
    wave(Math.floor(k / 3) % w, Math.floor(k / 3 / w), k % 3),
  );
  const { tile, tw } = tiled(rgb, w, h);
  const gap = 16;
  const n = 13;
  const height = 40;
  const left = [
    [12, 10, 1],
    [13.2, 24, 1.1],
    [13.9, 41, 1],
    [14.2, 49, 0.9],
  ];
  const right = [
    [30, 12, 1],
    [30.4, 27, 0.9],
    [31.5, 43, 1.2],
    [31.6, 50, 1],
  ];
  const gains = [1, 2, 0.5];
  const line = 32 * 4;
  const planes = height * line;
  const dst = heap.alloc(planes * 4);
  heap.f32(dst, planes).fill(7);
  heap.k.warpColumn(
    tile,
    -4,
    -4,
    tw,
    h + 8,
    heap.put(left.flatMap((p, r) => [...p, 0, ...right[r]!, 0])),
    gap,
    n,
    height,
    heap.put(gains),
    heap.alloc((h + 8) * 64),
    dst,
    line,
    planes,
  );
  for (let y = 0; y < height; y++)
    for (let i = 0; i < n; i++) {
      const r = Math.floor(y / gap);
      const rows = Math.min(gap, height - r * gap);
      const t = (y - r * gap + 0.5) / rows;
      const u = (i + 0.5) / gap;
      const [px, py, shade] = [0, 1, 2].map((q) => {
        const a = left[r]![q]! + (right[r]![q]! - left[r]![q]!) * u;
        const b = left[r + 1]![q]! + (right[r + 1]![q]! - left[r + 1]![q]!) * u;
        return a + (b - a) * t;
      }) as [number, number, number];
      for (let c = 0; c < 3; c++)
        expect(heap.f32(dst + c * planes + y * line, n)[i]).toBeCloseTo(
          Math.sqrt(wave(px - 0.5, py - 0.5, c) * gains[c]! * shade),
          2,
        );
    }
  // and nothing beside it
  for (let y = 0; y < height; y++)
    expect([...heap.f32(dst + y * line, 32).slice(n)].every((v) => v === 7)).toBe(true);
  expect([...heap.f32(dst + 3 * planes, height * 32)].every((v) => v === 7)).toBe(true);
});

test.each([
  [0.3, 0.4, 0.2, 0.3],
  [0.2, 0.01, 1.5, 0.01],
  [2.1, 0.05, 0, 0.5],
])(
  "shares of rows from %d, %d cells a px on, from row %d, %d cells a row on",
  (x0, perX, y0, perY) => {
    const across = 10;
    const cells = Uint8Array.of(
      1,
      1,
      0,
      1,
      0,
      0,
      1,
      1,
      1,
      1,
      1,
      1,
      0,
      0,
      0,
      0,
      1,
      0,
      1,
      1,
      1,
      1,
      1,
      1,
      1,
      1,
      1,
      1,
      1,
      1,
    );
    const n = 14;
    const rows = 4;
    const line = n * 4 + 16;
    const dst = heap.alloc(line * rows);
    const at = heap.alloc(cells.length);
    heap.u8(at, cells.length).set(cells);
    heap.f32(dst, (line * rows) / 4).fill(9);
    heap.k.shareRows(at, across, x0, perX, n, y0, perY, rows, heap.alloc(across * 4), dst, line);
    for (let r = 0; r < rows; r++) {
      for (let i = 0; i < n; i++) {
        const u = x0 + i * perX;
        const v = y0 + r * perY;
        const k = Math.floor(u);
        const j = Math.floor(v);
        const cell = (x: number, y: number): number => cells[(j + y) * across + k + x]!;
        const top = cell(0, 0) + (cell(1, 0) - cell(0, 0)) * (u - k);
        const low = cell(0, 1) + (cell(1, 1) - cell(0, 1)) * (u - k);
        expect(heap.f32(dst + r * line, n)[i]).toBeCloseTo(top + (low - top) * (v - j), 5);
      }
      expect(heap.f32(dst + r * line, n + 1)[n]).toBe(9);
    }
  },
);

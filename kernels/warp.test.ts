import { heap, noise } from "../tests/forKernels";
import * as twin from "./twins";

/** A picture as a tile whose first sample lies at -4, -4, its edge repeated. */
function tiled(rgb: Float32Array, w: number, h: number): { tile: number; tw: number } {
  const tw = w + 8, tile = heap.alloc(tw * (h + 8) * 16), t = heap.f32(tile, tw * (h + 8) * 4);
  for (let y = -4; y < h + 4; y++) for (let x = -4; x < w + 4; x++) { const k = (Math.min(h - 1, Math.max(0, y)) * w + Math.min(w - 1, Math.max(0, x))) * 3, o = ((y + 4) * tw + x + 4) * 4; for (let c = 0; c < 3; c++) t[o + c] = rgb[k + c]!; t[o + 3] = 1; }
  return { tile, tw };
}

test.each([0, 1])("a row laid on a canvas: roots of evened light between nodes, bicubic or, where it may be soft (%i), bilinear, and outside the frame its edge without a share", (soft) => {
  const w = 12, h = 9, rgb = noise(w * h * 3), { tile, tw } = tiled(rgb, w, h);
  const gap = 8, n = 20, nodes = [[-2, 1, 1], [4, 2, 1.2], [9, 8, 0.8], [14, 8.5, 1]], gains = [1, 2, 0.5], shares = noise(10), planes = n * 4 + 16, dst = heap.alloc(planes * 4);
  heap.k.warpRow(tile, -4, -4, tw, w, h, heap.put(nodes.flatMap((p) => [...p, soft])), gap, n, heap.put(gains), heap.put(shares), 0.3, 0.4, dst, planes);
  for (let i = 0; i < n; i++) {
    const k = Math.floor(i / gap), f = ((i % gap) + 0.5) / gap, [x, y, shade] = [0, 1, 2].map((q) => nodes[k]![q]! + (nodes[k + 1]![q]! - nodes[k]![q]!) * f) as [number, number, number];
    const inside = x >= 0 && x <= w && y >= 0 && y <= h, u = 0.3 + i * 0.4, cell = Math.floor(u), share = shares[cell]! + (shares[cell + 1]! - shares[cell]!) * (u - cell);
    expect(heap.f32(dst + 3 * planes, n)[i]).toBeCloseTo(inside ? share : 0, 5);
    if (inside) (soft ? bilinear : twin.bicubic)(rgb, w, h, x, y).forEach((v, c) => expect(heap.f32(dst + c * planes, n)[i]).toBeCloseTo(Math.sqrt(Math.max(0, v) * gains[c]! * shade), 3));
  }
});

function bilinear(rgb: Float32Array, w: number, h: number, x: number, y: number): number[] {
  const px = x - 0.5, py = y - 0.5, i = Math.floor(px), j = Math.floor(py), fx = px - i, fy = py - j, at = (u: number, v: number, c: number): number => rgb[(Math.min(h - 1, Math.max(0, v)) * w + Math.min(w - 1, Math.max(0, u))) * 3 + c]!;
  return [0, 1, 2].map((c) => (at(i, j, c) * (1 - fx) + at(i + 1, j, c) * fx) * (1 - fy) + (at(i, j + 1, c) * (1 - fx) + at(i + 1, j + 1, c) * fx) * fy);
}

test("a column laid across and then down shows what rows show, also where it leans, bends, ends early and changes its light", () => {
  // waves, which every way of sampling agrees on
  const w = 60, h = 80, wave = (x: number, y: number, c: number): number => 0.5 + 0.2 * Math.sin(x / 5 + c) + 0.2 * Math.cos(y / 6 - c), rgb = Float32Array.from({ length: w * h * 3 }, (_, k) => wave(Math.floor(k / 3) % w, Math.floor(k / 3 / w), k % 3)), { tile, tw } = tiled(rgb, w, h);
  const gap = 16, n = 13, height = 40, left = [[12, 10, 1], [13.2, 24, 1.1], [13.9, 41, 1], [14.2, 49, 0.9]], right = [[30, 12, 1], [30.4, 27, 0.9], [31.5, 43, 1.2], [31.6, 50, 1]], gains = [1, 2, 0.5], line = 32 * 4, planes = height * line, dst = heap.alloc(planes * 4);
  heap.f32(dst, planes).fill(7);
  heap.k.warpColumn(tile, -4, -4, tw, h + 8, heap.put(left.flatMap((p, r) => [...p, 0, ...right[r]!, 0])), gap, n, height, heap.put(gains), heap.alloc((h + 8) * 64), dst, line, planes);
  for (let y = 0; y < height; y++) for (let i = 0; i < n; i++) {
    const r = Math.floor(y / gap), rows = Math.min(gap, height - r * gap), t = (y - r * gap + 0.5) / rows, u = (i + 0.5) / gap;
    const [px, py, shade] = [0, 1, 2].map((q) => { const a = left[r]![q]! + (right[r]![q]! - left[r]![q]!) * u, b = left[r + 1]![q]! + (right[r + 1]![q]! - left[r + 1]![q]!) * u; return a + (b - a) * t; }) as [number, number, number];
    for (let c = 0; c < 3; c++) expect(heap.f32(dst + c * planes + y * line, n)[i]).toBeCloseTo(Math.sqrt(wave(px - 0.5, py - 0.5, c) * gains[c]! * shade), 2);
  }
  // and nothing beside it
  for (let y = 0; y < height; y++) expect([...heap.f32(dst + y * line, 32).slice(n)].every((v) => v === 7)).toBe(true);
  expect([...heap.f32(dst + 3 * planes, height * 32)].every((v) => v === 7)).toBe(true);
});

test.each([[0.3, 0.4], [0.2, 0.01], [2.1, 0.05]])("shares along a row from %d on, %d cells a px", (first, perPx) => {
  const shares = Float32Array.of(1, 1, 0.2, 0.7, 0, 0, 1, 1, 1, 1), n = 14, dst = heap.alloc(n * 4 + 16);
  heap.f32(dst, n + 1).fill(9);
  heap.k.shareRow(heap.put(shares), first, perPx, n, dst);
  for (let i = 0; i < n; i++) { const u = first + i * perPx, k = Math.floor(u); expect(heap.f32(dst, n)[i]).toBeCloseTo(shares[k]! + (shares[k + 1]! - shares[k]!) * (u - k), 5); }
  expect(heap.f32(dst, n + 1)[n]).toBe(9);
});

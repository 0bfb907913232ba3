import type { Heap } from "../../kernels/heap";
import { fromWorking, SPACES, type SpaceId } from "../colour/spaces";
import type { ToneField } from "./localTone";

export interface RenderSettings {
  gains: readonly [number, number, number];
  exposure: number; contrast: number; saturation: number;
  space: SpaceId;
}
export type PixelKind = "rgba8" | "rgb16" | "rgb32f";
const KINDS: Record<PixelKind, { code: number; bytes: number }> = { rgba8: { code: 0, bytes: 4 }, rgb16: { code: 1, bytes: 6 }, rgb32f: { code: 2, bytes: 12 } };
export const bytesPerPixel = (kind: PixelKind): number => KINDS[kind].bytes;

/** Contrast and saturation of -1..1 as factors. */
const factor = (v: number): number => 2 ** (v * 0.8);

/**
 * Radiance to picture, rows y0 to y1 of a region. Point-wise but for the field, which is sampled bilinearly.
 *
 * @param scene   planes R, G, B in linear Rec. 2020, the whole picture's
 * @param region  x, y, width, height in px of the scene
 * @param dst     address of the region's first row, tightly packed
 */
export function renderStrip(heap: Heap, scene: { ptr: number; planeBytes: number; width: number; height: number }, field: ToneField,
                            settings: RenderSettings, region: { x: number; y: number; width: number; height: number },
                            kind: PixelKind, dst: number, y0: number, y1: number): void {
  const mark = heap.mark();
  const w = region.width, { code, bytes } = KINDS[kind];
  const curve = SPACES[settings.space].curve;
  const s = heap.put([...settings.gains, settings.exposure, factor(settings.contrast), Math.log2(0.18), settings.saturation <= -1 ? 0 : factor(settings.saturation * 1.6),
    field.shoulderStart, field.white, ...fromWorking(settings.space), curve.threshold, curve.slope, curve.a, curve.b, 1 / curve.gamma]);
  const slopes = heap.alloc(w * 4 + 64), offsets = heap.alloc(w * 4 + 64), row = heap.alloc((w + 4) * bytes + 64);
  const A = heap.f32(slopes, w), B = heap.f32(offsets, w);
  const sx = field.width / scene.width, sy = field.height / scene.height;
  const uniform = field.shoulderStart >= field.white;
  if (uniform) { A.fill(field.slopes[0]!); B.fill(field.offsets[0]!); }
  const lineA = new Float32Array(field.width + 1), lineB = new Float32Array(field.width + 1);
  for (let y = y0; y < y1; y++) {
    if (!uniform) {
      const gy = Math.max(0, Math.min(field.height - 1, (region.y + y + 0.5) * sy - 0.5)), r0 = Math.floor(gy), r1 = Math.min(field.height - 1, r0 + 1), fy = gy - r0;
      for (let i = 0, p = r0 * field.width, q = r1 * field.width; i < field.width; i++, p++, q++) {
        lineA[i] = field.slopes[p]! + (field.slopes[q]! - field.slopes[p]!) * fy;
        lineB[i] = field.offsets[p]! + (field.offsets[q]! - field.offsets[p]!) * fy;
      }
      lineA[field.width] = lineA[field.width - 1]!; lineB[field.width] = lineB[field.width - 1]!;
      for (let x = 0, gx = (region.x + 0.5) * sx - 0.5; x < w; x++, gx += sx) {
        const g = gx < 0 ? 0 : gx > field.width - 1 ? field.width - 1 : gx, i = g | 0, f = g - i;
        A[x] = lineA[i]! + (lineA[i + 1]! - lineA[i]!) * f;
        B[x] = lineB[i]! + (lineB[i + 1]! - lineB[i]!) * f;
      }
    }
    heap.k.renderRow(scene.ptr + ((region.y + y) * scene.width + region.x) * 4, scene.planeBytes, w, slopes, offsets, s, code, row);
    heap.u8(dst + y * w * bytes, w * bytes).set(heap.u8(row, w * bytes));
  }
  heap.release(mark);
}

/** Mean of the scene over the cells of the tone grid, rows g0 to g1 of it. Scratch-free; writes planar means. */
export function reduceToGrid(heap: Heap, scene: { ptr: number; planeBytes: number; width: number; height: number }, grid: { width: number; height: number }, g0: number, g1: number): Float32Array {
  const { width: gw, height: gh } = grid, out = new Float32Array((g1 - g0) * gw * 3);
  const xs = Array.from({ length: gw + 1 }, (_, i) => Math.floor((i * scene.width) / gw));
  for (let c = 0; c < 3; c++) {
    const p = heap.f32(scene.ptr + c * scene.planeBytes, scene.width * scene.height);
    for (let gy = g0; gy < g1; gy++) {
      const t = Math.floor((gy * scene.height) / gh), b = Math.max(t + 1, Math.floor(((gy + 1) * scene.height) / gh));
      for (let gx = 0; gx < gw; gx++) {
        const l = xs[gx]!, r = Math.max(l + 1, xs[gx + 1]!);
        let s = 0;
        for (let y = t; y < b; y++) for (let i = y * scene.width + l, e = y * scene.width + r; i < e; i++) s += p[i]!;
        out[(c * (g1 - g0) + gy - g0) * gw + gx] = s / ((b - t) * (r - l));
      }
    }
  }
  return out;
}

export function gridSize(width: number, height: number, longEdge: number): { width: number; height: number } {
  const s = Math.min(1, longEdge / Math.max(width, height));
  return { width: Math.max(1, Math.round(width * s)), height: Math.max(1, Math.round(height * s)) };
}

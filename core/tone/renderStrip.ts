import type { Heap } from "../../kernels/heap";
import { rootTable } from "../colour/rootTable";
import { encode, fromWorking, SPACES, type SpaceId } from "../colour/spaces";
import type { LocalGains } from "../colour/localWhite";
import { lightRow, localMasks } from "./localLight";
import type { ToneField } from "./toneField";

export interface RenderSettings {
  gains: readonly [number, number, number];
  exposure: number;
  space: SpaceId;
  /** parts that lie in another light */
  local?: readonly LocalGains[];
  /** without the space's curve; floats are not clamped either */
  linear: boolean;
}
export type PixelKind = "rgba8" | "rgb8" | "rgb16" | "rgb32f";
export const KINDS: Record<PixelKind, { code: number; bytes: number }> = {
  rgba8: { code: 0, bytes: 4 },
  rgb16: { code: 1, bytes: 6 },
  rgb32f: { code: 2, bytes: 12 },
  rgb8: { code: 3, bytes: 3 },
};
/** Bytes of a rendered pixel. */
export const bytesPerPixel = (kind: PixelKind): number => KINDS[kind].bytes;

/** What the rendering kernels take of a picture, in their order: see `renderRow`. */
export const renderConstants = (settings: RenderSettings, field: ToneField): number[] => [
  ...settings.gains,
  settings.exposure,
  1,
  Math.log2(0.18),
  1,
  field.shoulderStart,
  field.white,
  ...fromWorking(settings.space),
  settings.linear ? 1 : 0,
  field.floor,
];

const tables = new Map<SpaceId, Float32Array>();

/** A space's curve as pairs of value and rise to the next. */
export function encodingTable(space: SpaceId): Float32Array {
  let t = tables.get(space);
  if (!t) {
    const { curve } = SPACES[space];
    tables.set(space, (t = rootTable((light) => encode(curve, light))));
  }
  return t;
}

/**
 * Planes R, G, B one after another; `lies` says which part of the picture they show, in shares of
 * it, where not the whole.
 */
export interface Planes {
  ptr: number;
  planeBytes: number;
  width: number;
  height: number;
  lies?: { x: number; y: number; width: number; height: number };
}

/**
 * Radiance to picture, rows y0 to y1 of a region. Point-wise but for the field, which is sampled
 * bilinearly.
 *
 * @param scene   planes R, G, B in linear Rec. 2020
 * @param region  x, y, width, height in px of the scene
 * @param dst     address of the region's first row, tightly packed
 */
export function renderStrip(
  heap: Heap,
  scene: Planes,
  field: ToneField,
  settings: RenderSettings,
  region: { x: number; y: number; width: number; height: number },
  kind: PixelKind,
  dst: number,
  y0: number,
  y1: number,
): void {
  const mark = heap.mark();
  const w = region.width;
  const { code, bytes } = KINDS[kind];
  const s = heap.put(renderConstants(settings, field));
  const table = heap.put(encodingTable(settings.space));
  const line = heap.alloc(field.width * 8 + 32);
  const slopes = heap.alloc(w * 4 + 64);
  const offsets = heap.alloc(w * 4 + 64);
  const row = heap.alloc((w + 4) * bytes + 64);
  const lies = scene.lies ?? { x: 0, y: 0, width: 1, height: 1 };
  const parts = settings.local?.length
    ? localMasks(settings.local, scene.width / lies.width / (scene.height / lies.height))
    : [];
  const lit = parts.length ? heap.alloc(w * 12 + 64) : 0;
  const sx = (field.width * lies.width) / scene.width;
  const sy = (field.height * lies.height) / scene.height;
  const fx = field.width * lies.x - 0.5;
  const fy = field.height * lies.y - 0.5;
  for (let y = y0; y < y1; y++) {
    heap.k.gainRow(
      field.slopes,
      field.offsets,
      field.width,
      field.height,
      (region.x + 0.5) * sx + fx,
      sx,
      (region.y + y + 0.5) * sy + fy,
      w,
      s,
      line,
      slopes,
      offsets,
    );
    const from = scene.ptr + ((region.y + y) * scene.width + region.x) * 4;
    if (lit) {
      for (let c = 0; c < 3; c++)
        heap.f32(lit + c * w * 4, w).set(heap.f32(from + c * scene.planeBytes, w));
      lightRow(
        heap,
        parts,
        lit,
        w * 4,
        w,
        lies.x + ((region.x + 0.5) * lies.width) / scene.width,
        lies.width / scene.width,
        lies.y + ((region.y + y + 0.5) * lies.height) / scene.height,
      );
    }
    heap.k.renderRow(
      lit || from,
      lit ? w * 4 : scene.planeBytes,
      w,
      slopes,
      offsets,
      s,
      table,
      code,
      row,
    );
    heap.u8(dst + y * w * bytes, w * bytes).set(heap.u8(row, w * bytes));
  }
  heap.release(mark);
}

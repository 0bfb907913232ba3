import type { Heap } from "../../kernels/heap";
import { bytesPerPixel, type PixelKind } from "../tone/renderStrip";
import { resizePlane, tapsFor } from "./resize";
import { clamp } from "../math/clamp";

interface Picture {
  ptr: number;
  width: number;
  height: number;
}

const windowRows = (from: Picture, to: Picture, rows: number): number =>
  Math.min(
    from.height,
    Math.ceil((rows * from.height) / to.height + (8 * from.height) / to.height) + 8,
  );
/** Bytes of scratch that some rows of the output need. */
export const resizeScratch = (from: Picture, to: Picture, rows: number): number =>
  windowRows(from, to, rows) * from.width * 4 +
  rows * to.width * 4 +
  (from.width + from.height) * 64 +
  (1 << 16);

/**
 * Rows y0 to y1 of an encoded picture at another size, by Lanczos-3; light itself (`linear`) by a
 * filter that does not ring at its far brighter places. Samples are interleaved as the pixel kind
 * has them.
 */
export function resizePicture(
  heap: Heap,
  from: Picture,
  to: Picture,
  kind: PixelKind,
  linear: boolean,
  y0: number,
  y1: number,
): void {
  const filter = linear ? "triangle" : "lanczos3";
  const across = tapsFor(from.width, 0, from.width / to.width, to.width, filter);
  const down = tapsFor(from.height, 0, from.height / to.height, to.height, filter);
  const top = down.starts[y0]!;
  const rows = down.starts[y1 - 1]! + down.taps - top;
  const mark = heap.mark();
  const W = from.width;
  const plane = heap.alloc(W * rows * 4 + 16);
  const out = heap.alloc(to.width * (y1 - y0) * 4 + 16);
  const each = kind === "rgba8" ? 4 : 3;
  const view = (at: number, n: number): Uint8Array | Uint16Array | Float32Array => {
    if (kind === "rgba8" || kind === "rgb8") return heap.u8(at, n);
    if (kind === "rgb16") return heap.u16(at, n);
    return heap.f32(at, n);
  };
  const src = view(from.ptr + top * W * bytesPerPixel(kind), rows * W * each);
  const dst = view(to.ptr + y0 * to.width * bytesPerPixel(kind), (y1 - y0) * to.width * each);
  const part = {
    starts: down.starts.subarray(y0, y1).map((s) => s - top),
    weights: down.weights.subarray(y0 * down.taps, y1 * down.taps),
    taps: down.taps,
  };
  const largest = kind === "rgb16" ? 65535 : 255;
  for (let c = 0; c < each; c++) {
    const p = heap.f32(plane, W * rows);
    for (let i = 0, s = c; i < p.length; i++, s += each) p[i] = src[s]!;
    resizePlane(heap, plane, W, across, part, out, 0, y1 - y0);
    const o = heap.f32(out, to.width * (y1 - y0));
    if (kind === "rgb32f") for (let i = 0, s = c; i < o.length; i++, s += each) dst[s] = o[i]!;
    else
      for (let i = 0, s = c; i < o.length; i++, s += each)
        dst[s] = clamp(Math.round(o[i]!), 0, largest);
  }
  heap.release(mark);
}

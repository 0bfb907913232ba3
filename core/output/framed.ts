import type { Heap } from "../../kernels/heap";
import { bytesPerPixel, type PixelKind } from "../tone/renderStrip";

interface Picture {
  ptr: number;
  width: number;
  height: number;
}
export interface FramedInput {
  from: Picture;
  /** as much larger on all sides */
  to: Picture;
  /** of pixels, or bytes that say how far each is covered */
  kind: Exclude<PixelKind, "rgba8"> | "bytes";
  /** of the border, 0 black or empty to 1 white or covered */
  tone: number;
}

/** Lays a picture in the middle of a larger one of one tone. */
export function framed(heap: Heap, { from, to, kind, tone }: FramedInput): void {
  const bytes = kind === "bytes" ? 1 : bytesPerPixel(kind);
  const all = to.width * to.height * (kind === "bytes" ? 1 : 3);
  if (kind === "rgb32f") heap.f32(to.ptr, all).fill(tone);
  else if (kind === "rgb16") heap.u16(to.ptr, all).fill(Math.round(tone * 65535));
  else heap.u8(to.ptr, all).fill(Math.round(tone * 255));
  const left = (to.width - from.width) >> 1;
  const top = (to.height - from.height) >> 1;
  const row = from.width * bytes;
  for (let y = 0; y < from.height; y++)
    heap
      .u8(to.ptr + ((top + y) * to.width + left) * bytes, row)
      .set(heap.u8(from.ptr + y * row, row));
}

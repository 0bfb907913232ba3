import { SAMPLE_BYTES, SAMPLE_KIND, type Heap } from "../../../kernels/heap";
import type { ReducedFrame } from "../../align/logPyramid";
import type { Vector } from "../../math/vector";
import type { ColourAt } from "../blend/light";
import { clamp } from "../../math/clamp";

/** A frame made small, linear R, G, B interleaved: enough to compare light and to find seams. */
export interface SmallFrame {
  width: number;
  height: number;
  rgb: Float32Array;
  /** full-size px a px */
  scale: number;
}
const EDGE = 480;

/**
 * Averages a frame down to a long edge of about 480 px, or another one.
 *
 * @param scale  full-size px a px of the frame
 */
export function makeSmallFrame(
  heap: Heap,
  frame: ReducedFrame,
  scale: number,
  edge = EDGE,
): SmallFrame {
  const by = Math.max(1, Math.floor(Math.max(frame.width, frame.height) / edge));
  const width = Math.floor(frame.width / by);
  const height = Math.floor(frame.height / by);
  const rgb = new Float32Array(width * height * 3);
  const mark = heap.mark();
  const lut = heap.putTables(frame.lut, frame.type);
  const line = heap.alloc(frame.width * 16 + 64);
  const sums = heap.alloc(width * 16);
  const sum = heap.f32(sums, width * 4);
  const share = 1 / (by * by);
  for (let y = 0, o = 0; y < height; y++) {
    sum.fill(0);
    for (let j = y * by; j < (y + 1) * by; j++) {
      heap.k.linearise(
        frame.ptr + j * frame.width * 3 * SAMPLE_BYTES[frame.type],
        SAMPLE_KIND[frame.type],
        width * by,
        lut,
        line,
      );
      heap.k.addGroups(line, by, width, sums);
    }
    for (let x = 0; x < width; x++) for (let c = 0; c < 3; c++) rgb[o++] = sum[x * 4 + c]! * share;
  }
  heap.release(mark);
  return { width, height, rgb, scale: scale * by };
}

const at = (l: SmallFrame, x: number, y: number): Vector => {
  const k =
    (clamp(Math.floor(y / l.scale), 0, l.height - 1) * l.width +
      clamp(Math.floor(x / l.scale), 0, l.width - 1)) *
    3;
  return [l.rgb[k]!, l.rgb[k + 1]!, l.rgb[k + 2]!];
};
/** Looks up linear R, G, B of a frame at a place in px of the full-size frame. */
export const colourReader =
  (
    images: readonly (SmallFrame | undefined)[],
  ): ((frame: number, x: number, y: number) => Vector) =>
  (i, x, y) => {
    const l = images[i];
    return l ? at(l, x, y) : [0, 0, 0];
  };
/** The same, but only what is well exposed and even round about, to compare light by. */
export const exposedReader = (images: readonly (SmallFrame | undefined)[]): ColourAt => {
  const colourAt = colourReader(images);
  return (i, x, y) => {
    const v = colourAt(i, x, y);
    const step = images[i]!.scale;
    if (Math.max(...v) > 0.9 || Math.min(...v) < 0.003) return undefined;
    const near = [
      colourAt(i, x + step, y),
      colourAt(i, x - step, y),
      colourAt(i, x, y + step),
      colourAt(i, x, y - step),
    ];
    return near.every((o) => Math.abs(Math.log(Math.max(1e-6, o[1]) / v[1])) < 0.25)
      ? v
      : undefined;
  };
};

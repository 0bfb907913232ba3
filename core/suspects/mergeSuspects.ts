import type { GhostMap } from "../align/alignedFrame";
import { MEASURED } from "../bracket/foldFrame";
import { type Accumulator } from "../raster/accumulator";
import { LARGE_CELL_PX } from "../bracket/fillHoles";
import type { Heap } from "../../kernels/heap";
import { areasOf, type Area } from "./areas";
import { ranked, type Suspect } from "./suspect";

/**
 * Disagreement in widths of the noise above which an edge that nobody took for moving is likely to
 * be doubled.
 */
const DOUBLED_SIGMA = 2;

/**
 * What the merge itself may have got wrong: moving things that no usable frame shows whole, edges
 * that lie doubled, and areas that every frame clips.
 *
 * @param acc    the merged scene at 1/downscale of full size, with its weights
 * @param frames confidences and disagreement of each frame, as far as there are any
 */
export function mergeSuspects(
  heap: Heap,
  acc: Accumulator,
  frames: readonly { ghosts?: GhostMap | undefined; differs?: GhostMap | undefined }[],
  downscale: number,
): Suspect[] {
  const maps = frames.flatMap((f) => [f.ghosts, f.differs]);
  const first = maps.find((m) => m !== undefined);
  // without a map, cells of the same fineness
  const w = first?.width ?? acc.width >> 1;
  const h = first?.height ?? acc.height >> 1;
  const scale = first?.scale ?? 2 * downscale;
  const n = w * h;
  if (n < 1) return [];
  const unmeasured = unmeasuredShare(heap, acc, w, h);
  const moved = new Uint8Array(n);
  const differs = new Float32Array(n);
  for (const { ghosts, differs: d } of frames)
    for (let i = 0; i < n; i++) {
      if (ghosts && ghosts.confidences[i]! < 128) moved[i] = 1;
      if (d) differs[i] = Math.max(differs[i]!, d.confidences[i]! / 32);
    }
  const box = (kind: Suspect["kind"], a: Area, score: number): Suspect => ({
    kind,
    x: a.x0 * scale,
    y: a.y0 * scale,
    width: (a.x1 - a.x0) * scale,
    height: (a.y1 - a.y0) * scale,
    score: Math.round(Math.min(1, score) * 1000) / 1000,
  });
  const size = (a: Area): number => Math.min(1, Math.sqrt(a.cells / n) * 6);
  const small = Math.max(8, n / 12000);
  return ranked([
    ...areasOf(
      w,
      h,
      (i) => moved[i] === 1,
      small,
      (i) => unmeasured[i]!,
    ).map((a) => box("ghost", a, size(a) * (0.35 + 0.65 * a.mean))),
    ...areasOf(
      w,
      h,
      (i) => !moved[i] && differs[i]! > DOUBLED_SIGMA,
      small,
      (i) => differs[i]!,
    ).map((a) => box("double edge", a, 0.25 * a.mean * size(a))),
    ...areasOf(w, h, (i) => !moved[i] && unmeasured[i]! > 0.5, small).map((a) =>
      box("clipped", a, 0.8 * size(a)),
    ),
  ]);
}

/** Share of each cell's pixels that no frame measured. */
function unmeasuredShare(heap: Heap, acc: Accumulator, w: number, h: number): Float32Array {
  const out = new Float32Array(w * h);
  const weights = heap.f32(acc.ptr + 3 * acc.planeBytes, acc.width * acc.height);
  const sx = acc.width / w;
  const sy = acc.height / h;
  // a quarter of a large cell's pixels tells its share
  const stride = Math.min(sx, sy) >= LARGE_CELL_PX ? 2 : 1;
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      let lost = 0;
      let all = 0;
      for (let v = Math.floor(y * sy); v < (y + 1) * sy && v < acc.height; v += stride)
        for (let u = Math.floor(x * sx); u < (x + 1) * sx && u < acc.width; u += stride, all++) {
          const weight = weights[v * acc.width + u]!;
          // where nothing is, nobody had to measure
          if (weight > 0 && weight < MEASURED) lost++;
        }
      out[y * w + x] = all ? lost / all : 0;
    }
  return out;
}
